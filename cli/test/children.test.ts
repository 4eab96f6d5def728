import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { createServer } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { keepRunning, startChild } from '../children';
import { freePort, takePort } from '../machine';

let folder: string;
beforeAll(() => void (folder = mkdtempSync(join(tmpdir(), 'children-'))));
afterAll(() => rmSync(folder, { recursive: true }));

const script = (name: string, body: string): string => {
  const file = join(folder, name);
  writeFileSync(file, body);
  return file;
};

test('a child that ends by itself is brought back after growing pauses, and none is after it was stopped', async () => {
  const file = script(
    'dies.cjs',
    `process.send({ address: String(process.pid) }); process.on('message', () => process.exit(3)); process.on('disconnect', () => process.exit());`,
  );
  const said: string[] = [];
  let heard = () => undefined as void;
  const says = (words: string) => {
    said.push(words);
    heard();
  };
  const next = (words: string) =>
    new Promise<void>((resolve) => {
      heard = () => {
        if (said.at(-1) === words) resolve();
      };
      heard();
    });
  const pauses: number[] = [];
  const kept = await keepRunning(
    'it',
    () => startChild(file, [], {}, join(folder, 'log')),
    says,
    async (ms) => void pauses.push(ms),
  );
  try {
    const first = kept.child;
    const back = next('it runs again');
    first.process.send({});
    await back;
    expect(said).toEqual(['it has ended by itself (3) and is brought back', 'it runs again']);
    expect(kept.child.address).not.toBe(first.address);
    // The next time it waits longer.
    said.length = 0;
    const again = next('it runs again');
    kept.child.process.send({});
    await again;
    expect(pauses).toEqual([1_000, 2_000]);
    said.length = 0;
  } finally {
    await kept.stop();
  }
  expect(said).toEqual([]);
}, 30_000);

test('a port is ours from when it was taken, and it is none that connections are given', async () => {
  const taken = await takePort(0);
  expect(taken.port).toBeGreaterThanOrEqual(20_000);
  expect(taken.port).toBeLessThan(32_768);
  const other = createServer();
  const refused = await new Promise<string>((resolve) => {
    other.once('error', (error: NodeJS.ErrnoException) => resolve(error.code!));
    other.listen(taken.port, '127.0.0.1');
  });
  expect(refused).toBe('EADDRINUSE');
  expect(await freePort(taken.port)).not.toBe(taken.port);
  await taken.release();
  expect(await freePort(taken.port)).toBe(taken.port);
});
