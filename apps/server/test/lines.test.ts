import { Lines } from '../src/lines/lines';
import type { Db } from '../src/platform/db/pool';
import type { Keyring } from '../src/platform/keyring';

const TOKEN = 't'.repeat(43);

/** A database with a list of webhooks' tokens that is answered only when the test says so. */
function slowDatabase() {
  const asked: ((tokens: string[]) => void)[] = [];
  const query = (_sql: string, values?: unknown[]) =>
    values
      ? Promise.resolve({ rows: [{ id: 7, hook_token: values[0], secrets: Buffer.from('sealed') }] })
      : new Promise((resolve) =>
          asked.push((tokens) => resolve({ rows: tokens.map((hook_token) => ({ hook_token })) })),
        );
  const lines = new Lines({ query } as unknown as Db, { unseal: async () => ({}) } as unknown as Keyring);
  return { lines, asked };
}

test('a line that is connected while the addresses are read is found, by those too who asked before', async () => {
  const { lines, asked } = slowDatabase();
  const early = lines.byHook(TOKEN);
  await Promise.resolve();
  expect(asked).toHaveLength(1);
  // It is connected now; what is being read does not know of it.
  lines.forget();
  const late = lines.byHook(TOKEN);
  await Promise.resolve();
  expect(asked).toHaveLength(2);
  asked[0]!([]);
  asked[1]!([TOKEN]);
  expect(await early).toMatchObject({ id: 7 });
  expect(await late).toMatchObject({ id: 7 });
});

test('however many guess, the addresses are read once', async () => {
  const { lines, asked } = slowDatabase();
  const guesses = Promise.all(
    Array.from({ length: 100 }, (_, at) => lines.byHook(String(at).padStart(43, 'x'))),
  );
  await Promise.resolve();
  asked[0]!([TOKEN]);
  expect(new Set(await guesses)).toEqual(new Set([null]));
  expect(await lines.byHook('y'.repeat(43))).toBeNull();
  expect(asked).toHaveLength(1);
  expect(await lines.byHook(TOKEN)).toMatchObject({ id: 7 });
});
