import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import pg from 'pg';
import { parse } from 'yaml';
import { ROOT } from '../../../cli/places';
import { readConfig } from '../src/platform/config';
import { startServer, type RunningServer } from '../src/server';
import { Stage, cluster, until } from './support/stage';

const TOKEN = 'a token for figures';
let stage: Stage;
let second: RunningServer;
beforeAll(async () => {
  stage = await Stage.open();
  // Another server on the same database, which tells its figures.
  await stage.server.stop();
  second = await startServer(
    readConfig({
      DARTLOOP_APP_DATABASE: stage.databases.app,
      DARTLOOP_LANE_DATABASE: stage.databases.lane,
      DARTLOOP_KEY: cluster().key,
      DARTLOOP_PORT: new URL(stage.server.address).port,
      DARTLOOP_TELEGRAM: stage.standinsAddress,
      DARTLOOP_GRAPH: `${stage.standinsAddress}/graph`,
      DARTLOOP_SMS_GATEWAY: `${stage.standinsAddress}/sms`,
      DARTLOOP_STANDINS: stage.standinsAddress,
      DARTLOOP_THREADS: cluster().server.replace('server.mjs', 'threads.mjs'),
      DARTLOOP_METRICS_PORT: '0',
      DARTLOOP_METRICS_TOKEN: TOKEN,
      DARTLOOP_DRAIN: '1',
      DARTLOOP_LOG: 'silent',
    }),
  );
  stage.server = second;
});
afterAll(() => stage.closeStandins());

async function figures(): Promise<Map<string, number>> {
  const answer = await fetch(second.figures!, { headers: { authorization: `Bearer ${TOKEN}` } });
  expect(answer.status).toBe(200);
  return new Map(
    (await answer.text())
      .split('\n')
      .filter((line) => line && !line.startsWith('#'))
      .map((line) => {
        const at = line.lastIndexOf(' ');
        return [line.slice(0, at), Number(line.slice(at + 1))] as const;
      }),
  );
}

test('what people write is counted as it is received, decided and sent, and nothing of them is told', async () => {
  await stage.write('66001', 'sailings');
  await stage.hears('66001', 1);
  // What became of a message is written down a moment after its channel has taken it.
  const told = await until(
    figures,
    (now) => now.get('dartloop_send_seconds_count{channel="telegram"}') === 1,
  );
  expect(told.get('dartloop_events_received_total{channel="telegram"}')).toBe(1);
  expect(told.get('dartloop_events_decided_total')).toBeGreaterThanOrEqual(1);
  const sent = [...told].filter(([name]) => /^dartloop_sends_total\{.*result="sent"/.test(name));
  expect(sent).toEqual([[expect.stringContaining('channel="telegram"'), 1]]);
  expect(told.get('dartloop_webhook_seconds_count{channel="telegram"}')).toBe(1);
  expect(told.get('dartloop_database_reachable')).toBe(1);
  expect(told.get('dartloop_undecided')).toBe(0);
  expect(told.get('dartloop_pool_connections{pool="message path",state="waited for"}')).toBe(0);
  expect([...told.keys()].join('\n')).not.toMatch(/66001|Mira|sailings/i);
});

test('what waits is told with its age, whoever left it waiting', async () => {
  // The first server may have been stopped in the middle of asking a line whether it works.
  await stage.db.query(
    `
      update line set failing_since = case when id = (select max(id) from line) then now() end,
        failure = case when id = (select max(id) from line) then '{}'::jsonb end`,
  );
  await stage.db.query(
    `
      insert into aside (client_id, line_id, received_at, reason, body)
      values (1, 1, now(), 'made for the test', 'x')`,
  );
  const told = await figures();
  expect(told.get('dartloop_lines_failing')).toBe(1);
  expect(told.get('dartloop_set_aside')).toBe(1);
});

test('whoever has no token is told nothing, and the figures stand nowhere else', async () => {
  expect((await fetch(second.figures!)).status).toBe(401);
  const wrong = await fetch(second.figures!, { headers: { authorization: 'Bearer something else' } });
  expect(wrong.status).toBe(401);
  expect((await fetch(`${second.address}/metrics`)).status).toBe(404);
});

test('each rule of the alarms asks for figures that are told', async () => {
  const told = [...(await figures()).keys()].map((name) => name.replace(/\{.*/, ''));
  const { groups } = parse(readFileSync(join(ROOT, 'docs/alarms.yaml'), 'utf8')) as {
    groups: { rules: { alert: string; expr: string }[] }[];
  };
  const rules = groups.flatMap((group) => group.rules);
  expect(rules.length).toBeGreaterThan(10);
  for (const { alert, expr } of rules)
    for (const name of expr.match(/\b(?:dartloop|nodejs)_\w+/g) ?? [])
      expect({ alert, name, told: told.includes(name) }).toEqual({ alert, name, told: true });
});

test('what a process does by itself may stand still altogether, and a webhook is taken all the same', async () => {
  const owner = new pg.Client({ connectionString: stage.databases.owner });
  await owner.connect();
  try {
    await owner.query('begin');
    // What a process only looks at by itself, or for other systems.
    await owner.query(
      'lock table task, tallied, destination, delivery, aside, loop in access exclusive mode',
    );
    const standing = async () =>
      (
        await stage.db.query(
          `
            select from pg_stat_activity where datname = current_database() and wait_event_type = 'Lock'
              and application_name = 'dart-loop background'`,
        )
      ).rowCount;
    await until(standing, (count) => count === 5);
    await stage.write('66002', 'hello');
    const { rows } = await owner.query("select from event where body ->> 'words' = 'hello'");
    expect(rows).toHaveLength(1);
  } finally {
    await owner.query('rollback').finally(() => owner.end());
  }
});

test('a load balancer is told whether work may come, and requests have a name', async () => {
  const ask = (path: string, headers: Record<string, string> = {}) =>
    fetch(`${second.address}${path}`, { headers });
  const status = async (path: string) => (await ask(path)).status;
  expect([await status('/livez'), await status('/readyz'), await status('/healthz')]).toEqual([
    200, 200, 200,
  ]);
  const named = await ask('/readyz', { 'x-request-id': 'from-the-proxy-1' });
  expect(named.headers.get('x-request-id')).toBe('from-the-proxy-1');
  const own = (await ask('/api/session', { 'x-request-id': 'a b\tc' })).headers.get('x-request-id');
  expect(own).toMatch(/^[0-9a-f-]{36}$/);
  expect((await ask('/hooks/none')).headers.get('x-request-id')).toMatch(/^[0-9a-f-]{36}$/);
  // Told to end: no new work, while what comes is still answered; then nothing is.
  const ended = second.stop();
  const draining = await ask('/readyz');
  expect([draining.status, await draining.json()]).toEqual([503, { status: 'draining' }]);
  expect([await status('/livez'), await status('/schemas/loop.json')]).toEqual([200, 200]);
  await ended;
  await expect(ask('/livez')).rejects.toThrow();
});
