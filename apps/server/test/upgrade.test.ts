import { execFileSync } from 'node:child_process';
import { readFileSync } from 'node:fs';
import type { Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { join } from 'node:path';
import { brotliDecompressSync } from 'node:zlib';
import pg from 'pg';
import type { Session } from '@dart-loop/contract';
import { Api } from '../../../cli/api';
import { demoSignIns } from '../../../cli/demo/world';
import { freePort, postgresPrograms } from '../../../cli/machine';
import { makeStandins, type Standins } from '../../standins/src/standins';
import type { Clock } from '../src/platform/clock';
import { readConfig } from '../src/platform/config';
import { migrate } from '../src/platform/db/migrate';
import { startServer, type RunningServer } from '../src/server';
import { BOT, NUMBER, makeDatabase, until } from './support/stage';

/**
 * The demo as an earlier release left it, with people in the middle of conversations: its database as
 * `pg_dump --no-owner` wrote it, and what the platforms knew. A later release keeps one of its own beside it.
 */
const KEPT = {
  name: '0013_archived_clients',
  at: Date.parse('2026-11-30T10:50:00Z'),
  key: '9891bdefa8a8a08b8441811813a2fba24f8391dcdf7dfe36f796abbef0a6aa34',
  address: 'http://127.0.0.1:4790',
};
const kept = (file: string) => brotliDecompressSync(readFileSync(join(__dirname, 'upgrade', file)));

/** It is the day on which the release was left, and time goes on from there. */
const began = Date.now();
const clock: Clock = {
  now: () => KEPT.at + (Date.now() - began),
  until: (moment) => new Promise((resolve) => setTimeout(resolve, Math.max(0, moment - clock.now())).unref()),
};

let standins: Standins;
let standinsServer: Server;
let db: pg.Client;
let running: RunningServer | null = null;
let databases: Awaited<ReturnType<typeof makeDatabase>>;
let port: number;

beforeAll(async () => {
  databases = await makeDatabase();
  const postgres = new pg.Client({ connectionString: databases.owner.replace(/\/[^/]+$/, '/postgres') });
  await postgres.connect();
  const name = new URL(databases.owner).pathname.slice(1);
  await postgres.query(`drop database ${name}`);
  await postgres.query(`create database ${name} template template0 encoding 'UTF8'`);
  await postgres.end();
  execFileSync(
    join(postgresPrograms()!, 'psql'),
    ['--quiet', '--set=ON_ERROR_STOP=1', '--single-transaction', databases.owner],
    { input: kept(`${KEPT.name}.sql.br`), stdio: ['pipe', 'ignore', 'pipe'] },
  );
  db = new pg.Client({ connectionString: databases.owner });
  await db.connect();

  port = await freePort(0);
  standins = makeStandins();
  const state = JSON.parse(
    kept(`${KEPT.name}.standins.json.br`)
      .toString('utf8')
      .replaceAll(KEPT.address, `http://127.0.0.1:${port}`),
  ) as { telegram: never; sms: never; graph: never };
  standins.telegram.restore(state.telegram);
  standins.sms.restore(state.sms);
  standins.graph.restore(state.graph);
  standinsServer = standins.app.listen(0, '127.0.0.1');
  await new Promise((resolve) => standinsServer.once('listening', resolve));
  await standins.mail.start();
});
afterAll(async () => {
  await running?.stop();
  await db.end();
  await standins.mail.stop();
  standinsServer.closeAllConnections();
  await new Promise((resolve) => standinsServer.close(resolve));
});

/** What stands in every table, as rows are counted; what is cleared by itself is left out. */
async function counts(): Promise<Record<string, number>> {
  const { rows } = await db.query<{ name: string }>(
    `
      select c.relname as name from pg_class c
      where c.relkind in ('r', 'p') and not c.relispartition and c.relnamespace = 'public'::regnamespace`,
  );
  const found: Record<string, number> = {};
  for (const { name } of rows)
    if (!['function_file', 'rate_limit', 'session', 'timer', 'migration'].includes(name))
      found[name] = Number(
        (await db.query<{ count: string }>(`select count(*) from "${name}"`)).rows[0]!.count,
      );
  return found;
}

const heard = (who: string) =>
  (who.startsWith('+') ? standins.sms.look(NUMBER, who) : standins.telegram.look(BOT, who))
    .filter(({ from }) => from !== 'person')
    .map(({ text }) => text);
const write = (who: string, text: string) =>
  who.startsWith('+')
    ? standins.sms.write(NUMBER, who, text)
    : standins.telegram.write(BOT, who, 'Mira', text);

test('an upgrade of a database with data in it, while people write, loses nothing', async () => {
  const before = await counts();
  expect(before.message).toBeGreaterThan(600);

  // In the middle of a loop on two channels: the next thing each was asked was their email.
  const asked = ['61000066', '+447700900067'];
  const said = asked.map((who) => heard(who).length);
  const fresh = Array.from({ length: 12 }, (_, n) => [`6600${100 + n}`, `+4477009006${10 + n}`]).flat();
  // Nobody listens yet: the platforms hand over again until somebody does.
  const handed = Promise.all([
    ...asked.map((who) => write(who, `${who.replace('+', '')}@example.org`)),
    ...fresh.map((who) => write(who, 'sailings')),
  ]);

  const ran = await migrate(databases.owner);
  expect(ran.length).toBeGreaterThan(0);
  const after = await counts();
  for (const [table, rows] of Object.entries(before))
    expect({ table, rows: after[table] }).toEqual({ table, rows });

  const address = `http://127.0.0.1:${(standinsServer.address() as AddressInfo).port}`;
  running = await startServer(
    readConfig({
      DARTLOOP_APP_DATABASE: databases.app,
      DARTLOOP_LANE_DATABASE: databases.lane,
      DARTLOOP_KEY: KEPT.key,
      DARTLOOP_PORT: String(port),
      DARTLOOP_GRAPH: `${address}/graph`,
      DARTLOOP_TELEGRAM: address,
      DARTLOOP_SMS_GATEWAY: `${address}/sms`,
      DARTLOOP_STANDINS: address,
      DARTLOOP_MAIL: `smtp://127.0.0.1:${standins.mail.port}`,
      DARTLOOP_DEMO_SIGN_INS: JSON.stringify(demoSignIns()),
      DARTLOOP_LOG: 'silent',
    }),
    clock,
  );
  expect(await handed).toEqual([...asked, ...fresh].map(() => true));
  for (const who of fresh)
    expect(
      await until(
        () => heard(who),
        (texts) => texts.length > 0,
      ),
    ).toEqual([expect.stringContaining('This is Saltmarsh Ferries.')]);
  for (const [at, who] of asked.entries())
    expect(
      (
        await until(
          () => heard(who).slice(said[at]),
          (texts) => texts.length > 0,
        )
      )[0],
    ).toContain('bicycle');

  // What was kept is read as before: sessions are made with the old passwords, and Today counts the same.
  const api = await Api.signIn(running.address, 'owner');
  expect((await api.get<Session>('/session')).clients).toHaveLength(5);
  const { rows } = await db.query<{ twice: number; open: number }>(
    `
      select (select count(*) from (select 1 from event where client_id = 1 group by line_id, provider_id
        having count(*) > 1) t)::int as twice,
      (select count(*) from pending where ready_at <= now())::int as open`,
  );
  expect(rows[0]).toEqual({ twice: 0, open: 0 });
});
