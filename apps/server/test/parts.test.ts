import { execFile } from 'node:child_process';
import { readdirSync } from 'node:fs';
import { createServer } from 'node:http';
import type { AddressInfo, Socket } from 'node:net';
import { join } from 'node:path';
import { promisify } from 'node:util';
import pg from 'pg';
import fc from 'fast-check';
import { freePort } from '../../../cli/machine';
import { ROOT } from '../../../cli/places';
import { askPlatform } from '../src/platform/ask';
import { WoundClock } from '../src/platform/clock';
import { readConfig } from '../src/platform/config';
import { migrate } from '../src/platform/db/migrate';
import { makeMonths } from '../src/platform/db/months';
import { newId, newToken } from '../src/platform/ids';
import { hashPassword, passwordFits, sameSecret, seal, unseal } from '../src/platform/secrets';
import { cluster, makeDatabase } from './support/stage';

describe('ids', () => {
  test('are UUIDs of version 7 that rise as they are made, and begin with their time', () => {
    const now = Date.UTC(2026, 10, 24);
    const ids = Array.from({ length: 3_000 }, () => newId(now));
    for (const id of ids)
      expect(id).toMatch(/^[0-9a-f]{8}-[0-9a-f]{4}-7[0-9a-f]{3}-[89ab][0-9a-f]{3}-[0-9a-f]{12}$/);
    expect([...ids].sort()).toEqual(ids);
    expect(new Set(ids).size).toBe(3_000);
    expect(Number.parseInt(ids[0]!.replace('-', '').slice(0, 12), 16)).toBe(now);
  });
  test('tokens are long and safe in an address', () => expect(newToken()).toMatch(/^[A-Za-z0-9_-]{43}$/));
});

describe('secrets', () => {
  const key = Buffer.alloc(32, 7);
  test('are opened with their key as they were sealed, never twice the same', () => {
    fc.assert(
      fc.property(fc.dictionary(fc.string(), fc.string()), (value) => {
        const sealed = seal(key, value);
        expect(unseal(key, sealed)).toEqual({ ...value });
        expect(seal(key, value).equals(sealed)).toBe(false);
      }),
      { numRuns: 50 },
    );
  });
  test('are not opened with another key or after a byte was changed', () => {
    const sealed = seal(key, { token: 'x' });
    expect(() => unseal(Buffer.alloc(32, 8), sealed)).toThrow();
    sealed[sealed.length - 1]! ^= 1;
    expect(() => unseal(key, sealed)).toThrow();
  });
  test('passwords fit only themselves', async () => {
    const kept = await hashPassword('lights-up');
    expect(kept).not.toContain('lights-up');
    expect(await passwordFits('lights-up', kept)).toBe(true);
    expect(await passwordFits('lights-down', kept)).toBe(false);
    expect(await passwordFits('lights-up', 'nonsense')).toBe(false);
    expect(sameSecret('abc', 'abc')).toBe(true);
    expect(sameSecret('abc', 'abcd')).toBe(false);
  });
});

test('what is wrong with the environment is named, all of it at once', () => {
  expect(() => readConfig({ DARTLOOP_KEY: 'short', DARTLOOP_APP_DATABASE: 'postgres://x' })).toThrow(
    /DARTLOOP_LANE_DATABASE.*DARTLOOP_KEY is not 32 bytes in hexadecimal/s,
  );
  const config = readConfig({
    DARTLOOP_KEY: '0'.repeat(64),
    DARTLOOP_APP_DATABASE: 'postgres://x/a',
    DARTLOOP_LANE_DATABASE: 'postgres://x/b',
  });
  expect(config).toMatchObject({
    demoSignIns: [],
    sending: true,
    standins: null,
    telegram: 'https://api.telegram.org',
    log: 'info',
  });
});

test('a wound clock reaches the moments on its way, in order, and never goes back', async () => {
  const clock = new WoundClock(1_000);
  const reached: string[] = [];
  void clock.until(3_000).then(() => reached.push('late'));
  void clock.until(2_000).then(() => reached.push('early'));
  await clock.until(500);
  clock.wind(5_000);
  clock.wind(4_000);
  await Promise.resolve();
  expect(reached).toEqual(['early', 'late']);
  expect(clock.now()).toBe(5_000);
});

test('a connection that was kept and closed over there meanwhile is made anew; one that is new and closed is not tried twice', async () => {
  const calls = new Map<Socket, number>();
  let closing = false;
  const server = createServer((request, response) => {
    const before = calls.get(request.socket) ?? 0;
    calls.set(request.socket, before + 1);
    if (closing || before > 0) return void request.socket.destroy();
    response.end('{"ok": true}');
  });
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
  const url = `http://127.0.0.1:${(server.address() as AddressInfo).port}/`;
  try {
    for (let call = 0; call < 3; call++)
      expect(await askPlatform(url, {})).toMatchObject({ kind: 'answer', body: { ok: true } });
    expect([...calls.values()].reduce((sum, each) => sum + each, 0)).toBe(5);
    closing = true;
    calls.clear();
    expect(await askPlatform(url, {})).toEqual({
      kind: 'silence',
      code: 'unreached',
      reason: 'it could not be reached',
    });
    expect(calls.size).toBeLessThan(3);
  } finally {
    server.closeAllConnections();
    server.close();
  }
});

test('migrations run once, by whoever comes first, and make the months around now', async () => {
  const { owner } = await makeDatabase();
  expect(await Promise.all([migrate(owner), migrate(owner)])).toEqual([[], []]);
  const db = new pg.Client({ connectionString: owner });
  await db.connect();
  const { rows } = await db.query<{ name: string }>(
    `
      select relname as name from pg_class
      where relispartition and relkind = 'r' and relname like 'message_2%' order by 1`,
  );
  expect(rows).toHaveLength(5);
  // An id of today lies in the partition of this month.
  const { rows: places } = await db.query<{ place: string }>(
    `
     insert into message (client_id, id, line_id, conversation_id, seq, address, made_at, body)
     values (1, $1, 1, $1, 1, 'x', now(), '{}')
     returning tableoid::regclass::text as place`,
    [newId(Date.now())],
  );
  expect(places[0]!.place).toBe(`message_${new Date().toISOString().slice(0, 7).replace('-', '_')}`);
  // A month whose rows came before its partition does not stand in the way of the others.
  await db.query('select make_month($1::date)', ['2031-01-01']);
  await db.query(
    `
      insert into message (client_id, id, line_id, conversation_id, seq, address, made_at, body)
      values (1, $1, 1, $1, 1, 'x', now(), '{}')`,
    [newId(Date.UTC(2031, 1, 5))],
  );
  await makeMonths(db, Date.UTC(2031, 0, 15));
  const { rows: late } = await db.query<{ name: string }>(
    `
      select relname as name from pg_class
      where relispartition and relkind = 'r' and relname like 'message_2031%' order by 1`,
  );
  expect(late.map((row) => row.name)).toEqual(['message_2031_01', 'message_2031_03', 'message_2031_04']);
  await db.end();
});

describe('the commands', () => {
  const dartloop = (...args: string[]) =>
    promisify(execFile)(join(ROOT, 'dartloop'), args).then(
      ({ stdout }) => ({ code: 0, out: stdout }),
      (error: { code: number; stdout: string; stderr: string }) => ({
        code: error.code,
        out: error.stdout + error.stderr,
      }),
    );
  test('help names them all; an unknown one is refused with their names', async () => {
    const help = await dartloop('help');
    expect(help.code).toBe(0);
    for (const name of ['demo', 'dev', 'test', 'bench', 'worker', 'reset', 'shots'])
      expect(help.out).toContain(`  ${name} `);
    const unknown = await dartloop('dance');
    expect(unknown.code).toBe(2);
    expect(unknown.out).toContain('There is no command “dance”. The commands are demo, dev,');
  });
  test('a port in use is stepped over', async () => {
    const taken = Number(new URL(cluster().owner).port);
    expect(await freePort(taken)).not.toBe(taken);
  });
});

test('a function of SQL is put in as its file has it, once for every change of the file', async () => {
  const { owner } = await makeDatabase();
  const db = new pg.Client({ connectionString: owner });
  await db.connect();
  const sourceOf = async (name: string) =>
    (await db.query<{ prosrc: string }>('select prosrc from pg_proc where proname = $1', [name])).rows.map(
      ({ prosrc }) => prosrc,
    );
  const files = readdirSync(join(__dirname, '../src/platform/db/functions'));
  const before = await sourceOf('erase_person');
  expect(before).toHaveLength(1);
  for (const file of files)
    expect([file, (await sourceOf(file.replace('.sql', ''))).length]).toEqual([file, 1]);
  await db.query(
    `
    create or replace function erase_person(of_client int, of_person uuid) returns jsonb
      language sql as $$ select '{}'::jsonb $$`,
  );
  // The file has not changed since it was put in.
  await migrate(owner);
  expect(await sourceOf('erase_person')).not.toEqual(before);
  await db.query("update function_file set digest = 'of an earlier file' where name = 'erase_person.sql'");
  await migrate(owner);
  expect(await sourceOf('erase_person')).toEqual(before);
  await db.end();
});
