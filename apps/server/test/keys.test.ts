import {
  closeSync,
  existsSync,
  mkdtempSync,
  readFileSync,
  rmSync,
  statSync,
  writeFileSync,
  writeSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { openLog, rotate } from '../../../cli/logs';
import { KeyDoesNotFit, Keyring } from '../src/platform/keyring';
import { seal } from '../src/platform/secrets';
import { startServer } from '../src/server';
import { Stage } from './support/stage';

let stage: Stage;
beforeAll(async () => void (stage = await Stage.open()));
afterAll(() => stage.close());

const sealed = () =>
  stage.db.query<{ secrets: Buffer }>('select secrets from line where secrets is not null order by id');

test('keys are changed while the server runs: every secret is sealed anew, and everything goes on, before and after the next start', async () => {
  const before = (await sealed()).rows.map(({ secrets }) => secrets.toString('hex'));
  const ring = await Keyring.open(stage.databases.lane, stage.config.key);
  const next = Buffer.alloc(32, 7);
  expect(await ring.rotate(next)).toBe(before.length);
  const after = (await sealed()).rows.map(({ secrets }) => secrets.toString('hex'));
  expect(after.filter((each) => before.includes(each))).toEqual([]);
  // Each names its key, and all the same one.
  expect(new Set(after.map((each) => each.slice(0, 24))).size).toBe(1);
  // The server that runs still has the old key: it looks for the new one.
  stage.server.path.lines.forget();
  await stage.write('64101', 'sailings');
  expect((await stage.hears('64101', 1))[0]).toContain('Saltmarsh Ferries');
  // What is derived stays as it was: webhooks and signatures need nothing new.
  const opened = await Keyring.open(stage.databases.lane, next);
  expect(opened.root.equals(ring.root)).toBe(true);
  await stage.server.stop();
  const config = { ...stage.config, key: next, port: Number(new URL(stage.server.address).port) };
  stage.server = await startServer(config);
  await stage.write('64102', 'sailings');
  expect((await stage.hears('64102', 1))[0]).toContain('Saltmarsh Ferries');
  // At the next change the first key counts no more.
  await (await Keyring.open(stage.databases.lane, next)).rotate(Buffer.alloc(32, 9));
  await expect(Keyring.open(stage.databases.lane, stage.config.key)).rejects.toThrow(KeyDoesNotFit);
});

test('what was sealed before secrets named their key is opened still', async () => {
  const ring = await Keyring.open(stage.databases.lane, Buffer.alloc(32, 9));
  expect(await ring.unseal(seal(ring.root, { token: 'of old' }))).toEqual({ token: 'of old' });
});

test('a start with a key that does not fit says so and does not start', async () => {
  await expect(startServer({ ...stage.config, key: Buffer.alloc(32, 1), port: 0 })).rejects.toThrow(
    /DARTLOOP_KEY is not the key that this database was set up with/,
  );
});

test('logs are their owner’s alone, and are begun anew when they have grown large, also while somebody writes to them', () => {
  const folder = mkdtempSync(join(tmpdir(), 'logs-'));
  try {
    const file = join(folder, 'server.log');
    writeFileSync(file, 'of before\n', { mode: 0o644 });
    const log = openLog(file);
    expect(statSync(file).mode & 0o777).toBe(0o600);
    writeSync(log, 'x'.repeat(100));
    rotate(file, 50);
    writeSync(log, 'after\n');
    closeSync(log);
    expect(readFileSync(file, 'utf8')).toBe('after\n');
    expect(readFileSync(`${file}.1`, 'utf8')).toContain('of before');
    expect(statSync(`${file}.1`).mode & 0o777).toBe(0o600);
    for (let n = 0; n < 8; n++) {
      writeFileSync(file, 'y'.repeat(60));
      rotate(file, 50);
    }
    expect(existsSync(`${file}.5`)).toBe(true);
    expect(existsSync(`${file}.6`)).toBe(false);
  } finally {
    rmSync(folder, { recursive: true });
  }
});
