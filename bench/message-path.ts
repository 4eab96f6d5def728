import { execFile } from 'node:child_process';
import { readFileSync, readdirSync } from 'node:fs';
import { join } from 'node:path';
import { promisify } from 'node:util';
import pg from 'pg';
import { Api } from '../cli/api';
import { buildServers } from '../cli/build';
import { startChild, type Child } from '../cli/children';
import { openCluster, type Cluster } from '../cli/cluster';
import { freePort, sleep } from '../cli/machine';
import { mailPortOf } from '../cli/standins';
import { serverEnvironment } from '../cli/stack';
import { makeAgency } from '../cli/demo/agency';
import { median, percentile, print } from './figures';

const run = promisify(execFile);
const LINES = 20;
const PEOPLE = 3_000;
const EVENTS_A_ROUND = 9_000;
const ROUNDS = 3;
const PGBENCH_SECONDS = 10;
const CLIENT = 'saltmarsh-ferries';

/**
 * What each person writes: starts the loop, cannot be read (a retry), then a choice; two thirds of the events
 * find a run under way.
 */
const SAYS = ['sailings', 'hm', 'b'];
const LOOP = `
format: dart-loop/1
name: Bench
cues: [{ kind: keyword, words: [sailings], match: exactly }]
scenes:
  - name: One
    steps:
      - kind: say
        text: 'Hello {{ person.first_name | default: "there" }}. Want a message when a sailing is moved?'
        choices: [{ label: "Yes, keep me posted", to: next }, { label: Not today, to: bye }]
        retry: { times: 1, text: Which of the two is it? }
        noReply: { after: 3h, to: bye }
  - id: bye
    name: Bye
    steps:
      - { kind: set, changes: [{ do: field, field: answer, value: not today }, { do: add tag, tag: asked }] }
      - { kind: say, text: Fine. Write SAILINGS whenever you like. }
`;

interface Crowd {
  sent: number;
  taken: number;
  refused: Record<number, number>;
  seconds: number;
  done: boolean;
  latencies: number[];
}

/**
 * The message path beside pgbench's TPC-B in alternating rounds of the same run, then its latency at 300
 * events/s.
 */
export async function messagePath(folder: string): Promise<void> {
  const cluster = await openCluster(folder);
  const built = await buildServers(join(folder, 'build'));
  const standins = await startChild(built.standins, [], {}, join(folder, 'standins.log'));
  let server: Child | null = null;
  const db = new pg.Client({ connectionString: cluster.owner });
  await db.connect();
  try {
    await makeAgency(cluster.owner);
    await pgbench(cluster, ['-i', '-s', '50', '-q']);
    const environment = serverEnvironment({
      cluster,
      port: await freePort(0),
      standins: standins.address,
      mailPort: await mailPortOf(standins.address),
      threads: built.threads,
      web: null,
      log: 'error',
    });
    const startServer = (more: Record<string, string>) =>
      startChild(built.server, [], { ...environment, ...more }, join(folder, 'server.log'));
    server = await startServer({ DARTLOOP_SENDING: 'no' });
    const bots = await setUp(server.address);
    await post(standins, '/control', { limits: false, keep: false });

    const ours: number[] = [];
    const theirs: number[] = [];
    const ratios: number[] = [];
    const nodeCpu: number[] = [];
    const postgresCpu: number[] = [];
    const order = { bots, numbers: [], people: PEOPLE, perSecond: 0, messages: EVENTS_A_ROUND, says: SAYS };
    await round(db, standins, { ...order, messages: 1_500 });
    for (let at = 0; at < ROUNDS; at++) {
      const tpcb = await pgbench(cluster, ['-c', '8', '-j', '2', '-T', String(PGBENCH_SECONDS)]);
      const cpuBefore = { node: cpuOf(server.process.pid!), postgres: cpuOfTree(postmaster(cluster)) };
      const seconds = await round(db, standins, order);
      nodeCpu.push(((cpuOf(server.process.pid!) - cpuBefore.node) * 1_000) / EVENTS_A_ROUND);
      postgresCpu.push(((cpuOfTree(postmaster(cluster)) - cpuBefore.postgres) * 1_000) / EVENTS_A_ROUND);
      theirs.push(tpcb);
      ours.push(EVENTS_A_ROUND / seconds);
      ratios.push(ours.at(-1)! / tpcb);
    }
    print(
      'webhook to ready-to-send, events/s, one server process',
      median(ours),
      `pgbench TPC-B (scale 50, 8 clients) ${median(theirs).toFixed(0)} tps; ratio ${median(ratios).toFixed(2)} (${ratios.map((each) => each.toFixed(2)).join(', ')}); reach 0.40`,
    );
    print(
      'the same, CPU per event, ms',
      median(nodeCpu) + median(postgresCpu),
      `Node.js ${median(nodeCpu).toFixed(2)}, PostgreSQL ${median(postgresCpu).toFixed(2)}; reach 1.00`,
    );

    // A million timers that are not due must not slow the rest.
    await db.query(
      `
       insert into timer (client_id, conversation_id, key, line_id, due_at, incoming)
       select 1, gen_random_uuid(), 'run:' || n, 1, now() + interval '1 day' + n * interval '1 second',
         '{"kind": "turn comes"}' from generate_series(1, 1000000) as n`,
    );
    await db.query('vacuum (analyze) timer');
    const laden = median([
      EVENTS_A_ROUND / (await round(db, standins, order)),
      EVENTS_A_ROUND / (await round(db, standins, order)),
      EVENTS_A_ROUND / (await round(db, standins, order)),
    ]);
    print(
      'the same with 1,000,000 timers pending, events/s',
      laden,
      `without them ${median(ours).toFixed(0)}; ratio ${(laden / median(ours)).toFixed(2)}; reach 0.90`,
    );

    await server.stop();
    await db.query("update message set status = 'failed' where status = 'queued'");
    await db.query('vacuum (analyze) message');
    server = await startServer({});
    await round(db, standins, { ...order, perSecond: 300, messages: 600 });
    const { latencies } = await crowd(db, standins, { ...order, perSecond: 300, messages: 4_500 }, true);
    const sorted = [...latencies].sort((a, b) => a - b);
    print(
      'webhook to sent at 300 events/s, median, ms',
      percentile(sorted, 0.5),
      `p95 ${percentile(sorted, 0.95).toFixed(1)}, ${sorted.length} answers; reach 10 and 30`,
    );
  } finally {
    await db.end();
    await server?.stop();
    await standins.stop();
    await cluster.stop();
  }
}

async function setUp(address: string): Promise<string[]> {
  const api = await Api.signIn(address, 'owner');
  const bots = Array.from({ length: LINES }, (_, at) => String(7_001_300_000 + at));
  for (const bot of bots)
    await api.post(`/clients/${CLIENT}/lines`, { channel: 'telegram', token: `${bot}:${'b'.repeat(35)}` });
  const { id } = await api.post<{ id: string }>(`/clients/${CLIENT}/loops/import`, { file: LOOP });
  await api.post(`/clients/${CLIENT}/loops/${id}/publish`, { revision: 1 });
  return bots;
}

/** Seconds from the first webhook to the last decision that is durable. */
async function round(db: pg.Client, standins: Child, order: object): Promise<number> {
  const start = performance.now();
  await crowd(db, standins, order);
  return (performance.now() - start) / 1_000;
}

async function crowd(db: pg.Client, standins: Child, order: object, untilSent = false): Promise<Crowd> {
  await post(standins, '/crowd', order);
  for (;;) {
    await sleep(15);
    const report = (await (await fetch(`${standins.address}/crowd`)).json()) as Crowd;
    if (!report.done) continue;
    if (report.taken !== report.sent)
      throw new Error(
        `of ${report.sent} webhooks some were not taken, by status: ${JSON.stringify(report.refused)}`,
      );
    const { rows } = await db.query<{ left: boolean }>('select exists (select from pending) as left');
    if (rows[0]!.left) continue;
    const { rows: unsent } = await db.query<{ left: boolean }>(
      "select exists (select from message where status = 'queued') as left",
    );
    if (!untilSent || !unsent[0]!.left)
      return (await (await fetch(`${standins.address}/crowd`)).json()) as Crowd;
  }
}

async function post(child: Child, path: string, body: object): Promise<void> {
  const response = await fetch(child.address + path, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify(body),
  });
  if (!response.ok) throw new Error(`${path} was answered ${response.status}: ${await response.text()}`);
}

/** Runs pgbench in a database of its own in the same cluster; gives its transactions per second. */
async function pgbench(cluster: Cluster, args: string[]): Promise<number> {
  const { username, password } = new URL(cluster.owner);
  const environment = { ...process.env, PGPASSWORD: password };
  const where = ['-h', '127.0.0.1', '-p', String(cluster.port), '-U', username];
  if (args.includes('-i'))
    await run(join(cluster.programs, 'createdb'), [...where, 'pgbench'], { env: environment });
  const { stdout } = await run(join(cluster.programs, 'pgbench'), [...where, ...args, 'pgbench'], {
    env: environment,
    maxBuffer: 10_000_000,
  });
  return Number(/tps = ([\d.]+)/.exec(stdout)?.[1] ?? 0);
}

const TICKS_A_SECOND = 100;

/** What /proc says of a process, from its state on; null when it has ended meanwhile. */
function statOf(pid: number): number[] | null {
  try {
    return readFileSync(`/proc/${pid}/stat`, 'utf8')
      .replace(/^.*\) /, '')
      .split(' ')
      .map(Number);
  } catch {
    return null;
  }
}

/** CPU seconds of a process, user and system. */
function cpuOf(pid: number, withEndedChildren = false): number {
  const stat = statOf(pid);
  return stat
    ? (stat[11]! + stat[12]! + (withEndedChildren ? stat[13]! + stat[14]! : 0)) / TICKS_A_SECOND
    : 0;
}

/** The same of PostgreSQL: its first process, its children now, and those that have ended. */
function cpuOfTree(pid: number): number {
  const children = readdirSync('/proc')
    .map(Number)
    .filter((each) => each > 0 && statOf(each)?.[1] === pid);
  return cpuOf(pid, true) + children.reduce((sum, child) => sum + cpuOf(child), 0);
}

function postmaster(cluster: Cluster): number {
  return Number(readFileSync(join(cluster.data, 'postmaster.pid'), 'utf8').split('\n')[0]);
}
