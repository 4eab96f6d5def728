import type { Role } from '@dart-loop/contract';
import { WoundClock } from '../src/platform/clock';
import { Stage } from './support/stage';

const clock = new WoundClock(Date.UTC(2026, 10, 25, 10));
let stage: Stage;
beforeAll(async () => void (stage = await Stage.open({ clock })));
afterAll(() => stage.close());

const KEYS = '/clients/saltmarsh-ferries/keys';
const NAME = 'a-press-of-somebody';

/** Presses, under a name: as the app does, and as a proxy does again that has heard nothing. */
async function press(
  path: string,
  body: unknown,
  { name = NAME, role = 'owner', method = 'POST' }: { name?: string; role?: Role; method?: string } = {},
): Promise<{ status: number; said: unknown }> {
  const { cookie } = role === 'owner' ? stage.api : await stage.as(role);
  const response = await fetch(`${stage.server.address}/api${path}`, {
    method,
    headers: { cookie, 'content-type': 'application/json', 'idempotency-key': name },
    body: JSON.stringify(body),
  });
  const text = await response.text();
  return { status: response.status, said: text && (JSON.parse(text) as unknown) };
}
const keys = async () =>
  (await stage.api.get<{ id: number; name: string }[]>(KEYS)).map(({ name }) => name).sort();

test('a press that is told twice is done once, and answered the second time as the first', async () => {
  const once = await press(KEYS, { name: 'Till', scopes: ['read people'] });
  expect(once).toEqual({ status: 200, said: { token: expect.stringMatching(/^.{43}$/) } });
  expect(await press(KEYS, { name: 'Till', scopes: ['read people'] })).toEqual(once);
  expect(await keys()).toEqual(['Till']);
  // Another press is another one, and so is the same name of somebody else.
  const body = { name: 'Till', scopes: ['read people'] };
  expect((await press(KEYS, body, { name: 'another-press-of-it' })).status).toBe(409);
  expect((await press(KEYS, body, { role: 'builder' })).status).toBe(409);
});

test('told twice at the same moment it is done once as well', async () => {
  const body = { name: 'Counter', scopes: ['read people'] };
  const both = await Promise.all([1, 2, 3, 4].map(() => press(KEYS, body, { name: 'at-the-same-moment' })));
  expect(new Set(both.map((each) => JSON.stringify(each))).size).toBe(1);
  expect(both[0]!.status).toBe(200);
  expect(await keys()).toEqual(['Counter', 'Till']);
});

test('what takes something away is answered as before, though it is not there any more', async () => {
  const { id } = (await stage.api.get<{ id: number; name: string }[]>(KEYS)).find(
    ({ name }) => name === 'Counter',
  )!;
  const away = () => press(`${KEYS}/${id}`, {}, { name: 'taken-away-by-somebody', method: 'DELETE' });
  expect(await away()).toEqual({ status: 204, said: '' });
  expect(await away()).toEqual({ status: 204, said: '' });
  expect((await press(`${KEYS}/${id}`, {}, { name: 'asked-for-once-more', method: 'DELETE' })).status).toBe(
    404,
  );
});

test('a refusal is not remembered, the answer stands nowhere to be read, and after two minutes it is gone', async () => {
  const body = { name: '', scopes: ['read people'] };
  expect((await press(KEYS, body, { name: 'refused-the-first-time' })).status).toBe(400);
  expect((await press(KEYS, { ...body, name: 'Van' }, { name: 'refused-the-first-time' })).status).toBe(200);
  const kept = await stage.one("select encode(answer, 'escape') as answer from press where name = $1", [
    NAME,
  ]);
  expect(JSON.stringify(kept)).not.toMatch(/token|kept/);
  clock.wind(clock.now() + 121_000);
  expect((await press(KEYS, { name: 'Till', scopes: ['read people'] })).status).toBe(409);
});
