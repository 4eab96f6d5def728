import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { chromium } from '@playwright/test';
import pg from 'pg';
import { stranger, type Condition, type Value } from '@dart-loop/core';
import { conditionWords } from '@dart-loop/core/model/conditionWords';
import { readSentence } from '@dart-loop/core/edit/typedCondition';
import type { PeoplePage, TaskView, UploadPage } from '@dart-loop/contract';
import { writeTerms, type KnownPerson } from '../apps/server/src/people/facts';
import { askedOf } from '../apps/server/src/people/select';
import { segmentSql } from '../apps/server/src/people/segmentSql';
import { Api } from '../cli/api';
import { buildServers, buildWeb } from '../cli/build';
import { startChild, type Child } from '../cli/children';
import { openCluster } from '../cli/cluster';
import { demoFile } from '../cli/demoPeople';
import { chromium as browserPath, freePort, sleep } from '../cli/machine';
import { mailPortOf, serverEnvironment } from '../cli/stack';
import { makeAgency } from '../cli/world';
import { median, print } from './figures';

const PEOPLE = 1_000_000;
const AT_ONCE = 10_000;
const TRIES = 7;
const IMPORTED = 100_000;
const BIG = 'saltmarsh-ferries';
const BIG_ID = 1;
/** Turns of the wheel, and from when on a frame has been missed at 60 a second. */
const WHEELS = 150;
const LATE_MS = 34;
const LIST = 'northgate-climbing';

/** Rules as people write them, each beside what one would write against the people's own columns without an index for it. */
const RULES: [sentence: string, plain: string][] = [
  [
    'opted in on sms and town is Fenwater and not on the list Regulars',
    `exists (select from identity i join line l on l.client_id = i.client_id and l.id = i.line_id join conversation c on c.client_id = i.client_id and c.id = i.id
       where i.client_id = p.client_id and i.person_id = p.id and l.channel = 'sms' and (c.standing ->> 'optedIn')::boolean)
     and lower(p.fields -> 'town' ->> 'value') = 'fenwater' and not 'Regulars' = any (p.lists)`,
  ],
  ['tagged vip and crossings is at least 20', `'vip' = any (p.tags) and (p.fields -> 'crossings' ->> 'value')::numeric >= 20`],
  [
    'birthday is in the next 7 d and email is known',
    `(p.fields -> 'birthday' ->> 'value')::date between current_date and current_date + 7 and p.fields ? 'email'`,
  ],
  ['town is Harwick or town is "Marrow Bay"', `lower(p.fields -> 'town' ->> 'value') in ('harwick', 'marrow bay')`],
  [
    'on the list News and not tagged vip and crossings is between 3 and 5',
    `'News' = any (p.lists) and not 'vip' = any (p.tags) and (p.fields -> 'crossings' ->> 'value')::numeric between 3 and 5`,
  ],
  ['crossings is above 2', `(p.fields -> 'crossings' ->> 'value')::numeric > 2`],
];

const TOWNS = [
  'Harwick',
  'Saint Orrin',
  'Little Skerry',
  'Marrow Bay',
  'Fenwater',
  ...Array.from({ length: 45 }, (_, n) => `Village ${n}`),
];

function inventedPerson(n: number): KnownPerson {
  const field = (type: Value['type'], value: unknown) => ({ type, value }) as Value;
  const day = new Date(Date.UTC(2026, 0, 1) + (n % 365) * 86_400_000).toISOString().slice(0, 10);
  return {
    ...stranger(`00000000-0000-7000-8000-${n.toString(16).padStart(12, '0')}`, Date.now() - (n % 500) * 86_400_000),
    firstName: `Walker ${n % 5_000}`,
    lastName: `Name ${n % 977}`,
    fields: {
      town: field('text', TOWNS[(n * 7) % TOWNS.length]),
      crossings: field('number', (n * 11) % 40),
      birthday: field('date', day),
      ...(n % 3 > 0 && { email: field('email', `walker.${n}@example.org`) }),
    },
    tags: [...(n % 50 === 0 ? ['vip'] : []), ...(n % 7 === 0 ? ['season ticket'] : [])],
    lists: [...(n % 11 === 0 ? ['News'] : []), ...(n % 5 === 0 ? ['Regulars'] : [])],
    ties: [{ key: 'sms', channel: 'sms', optedIn: n % 2 === 0, optedOut: n % 2 === 1 && n % 20 === 1 }],
    addresses: [`+4470${String(n).padStart(8, '0')}`],
  };
}

/** Segments counted over a million people, a file of 100,000 brought in, and the first rows of that list. */
export async function people(folder: string): Promise<void> {
  const cluster = await openCluster(folder);
  const built = await buildServers(join(folder, 'build'));
  const standins = await startChild(built.standins, [], {}, join(folder, 'standins.log'));
  let server: Child | null = null;
  const db = new pg.Client({ connectionString: cluster.owner });
  await db.connect();
  try {
    await makeAgency(cluster.owner);
    const environment = serverEnvironment({
      cluster,
      port: await freePort(0),
      standins: standins.address,
      mailPort: await mailPortOf(standins.address),
      web: await buildWeb((words) => console.log(`(${words})`)),
      log: 'error',
    });
    server = await startChild(built.server, [], environment, join(folder, 'server.log'));
    const api = await Api.signIn(server.address, 'owner');
    await bringIn(api, server);
    await scroll(server.address);
    await segments(db, cluster.app);
    await takeAllOut(api, server);
  } finally {
    await db.end();
    await server?.stop();
    await standins.stop();
    await cluster.stop();
  }
}

async function bringIn(api: Api, server: Child): Promise<void> {
  const names = { first: Array.from({ length: 211 }, (_, n) => `First${n}`), last: Array.from({ length: 307 }, (_, n) => `Last${n}`) };
  const csv = new TextEncoder().encode(
    demoFile(
      { name: 'x', count: IMPORTED, towns: TOWNS, tag: 'x', stated: 'x', optIn: [], columns: ['Visits', 'Own shoes'] },
      names,
      1,
      Date.now(),
    ),
  );
  const before = peakOf(server);
  const began = performance.now();
  const page = await api.file<UploadPage>(`/clients/${LIST}/people/files?name=big.csv`, csv);
  const { id } = await api.post<TaskView>(`/clients/${LIST}/people/imports`, {
    uploadId: page.id,
    encoding: page.encoding,
    separator: page.separator,
    uses: page.columns.map((column) => column.use),
    known: 'file wins',
    tags: ['brought in'],
    dry: false,
  });
  for (;;) {
    const task = await api.get<TaskView>(`/clients/${LIST}/tasks/${id}`);
    if (task.state === 'done') break;
    if (task.state === 'failed') throw new Error(task.failure ?? 'the import failed');
    await sleep(100);
  }
  const seconds = (performance.now() - began) / 1_000;
  print(
    'people brought in from a CSV file of 100,000, rows/s',
    IMPORTED / seconds,
    `${(csv.length / 1e6).toFixed(1)} MB in ${seconds.toFixed(1)} s; peak memory ${before} MB before, ${peakOf(server)} MB after`,
  );
  const times: number[] = [];
  for (let at = 0; at < TRIES; at++) {
    const from = performance.now();
    const { rows } = await api.get<PeoplePage>(`/clients/${LIST}/people`);
    if (rows.length < 50) throw new Error('the list has no rows');
    times.push(performance.now() - from);
  }
  print('first rows of a list of 100,000 people, ms', median(times), 'by HTTP; reach 300');
  const taken = performance.now();
  const text = await api.text(`/clients/${LIST}/people/export?format=csv`);
  print(
    'people taken out as CSV, rows/s',
    IMPORTED / ((performance.now() - taken) / 1_000),
    `${(text.length / 1e6).toFixed(1)} MB; peak memory ${peakOf(server)} MB`,
  );
}

/** The list scrolled by its wheel, as fast as somebody looking for a name would; how its frames come. */
async function scroll(address: string): Promise<void> {
  const browser = await chromium.launch({ executablePath: browserPath()!, args: ['--no-sandbox', '--disable-gpu'] });
  try {
    const page = await browser.newPage({ viewport: { width: 1280, height: 800 }, baseURL: address });
    await page.request.post('/api/session/demo', { data: { role: 'builder' } });
    await page.goto(`/${LIST}/people`);
    await page.getByRole('link', { name: /First/ }).first().waitFor();
    // As text: it runs in the page, where nothing of ours is.
    await page.evaluate(`{
      window.frames_ = [];
      let last = performance.now();
      const next = (now) => {
        window.frames_.push(now - last);
        last = now;
        requestAnimationFrame(next);
      };
      requestAnimationFrame(next);
    }`);
    await page.mouse.move(700, 500);
    for (let at = 0; at < WHEELS; at++) {
      await page.mouse.wheel(0, 400);
      await page.waitForTimeout(40);
    }
    const frames = await page.evaluate<number[]>('window.frames_');
    const late = frames.filter((ms) => ms > LATE_MS);
    print(
      'a list of 100,000 people scrolled, frames that came late, %',
      (late.length / frames.length) * 100,
      `of ${frames.length} frames over ${(WHEELS * 400).toLocaleString('en-GB')} px, median ${median(frames).toFixed(1)} ms, longest ${Math.max(...frames).toFixed(0)} ms; reach 0`,
    );
  } finally {
    await browser.close();
  }
}

/** A million people as CSV, counted as they come: neither side holds them. */
async function takeAllOut(api: Api, server: Child): Promise<void> {
  const before = peakOf(server);
  const began = performance.now();
  const { lines, bytes } = await api.lines(`/clients/${BIG}/people/export?format=csv`);
  const seconds = (performance.now() - began) / 1_000;
  print(
    '1,000,000 people taken out as CSV, rows/s',
    (lines - 1) / seconds,
    `${(bytes / 1e6).toFixed(0)} MB in ${seconds.toFixed(1)} s; peak memory ${before} MB before, ${peakOf(server)} MB after`,
  );
}

async function segments(db: pg.Client, app: string): Promise<void> {
  await db.query("insert into line (client_id, key, name, channel, hook_token) values ($1, 'sms', 'SMS', 'sms', 'bench')", [BIG_ID]);
  // Indexes are made once everything is there.
  await db.query('drop index person_terms_terms; drop index person_terms_search');
  for (let from = 0; from < PEOPLE; from += AT_ONCE) {
    const batch = Array.from({ length: AT_ONCE }, (_, n) => inventedPerson(from + n));
    await db.query(
      `with rows as (select * from json_to_recordset($1::json) as t (id uuid, first text, last text, fields jsonb, tags text[], lists text[], at timestamptz, address text, standing jsonb)),
       people as (insert into person (client_id, id, first_name, last_name, fields, tags, lists, created_at, last_seen_at) select ${BIG_ID}, id, first, last, fields, tags, lists, at, at from rows),
       talks as (insert into conversation (client_id, id, line_id, address, person_id, standing, last_at) select ${BIG_ID}, id, (select id from line where hook_token = 'bench'), address, id, standing, at from rows)
       insert into identity (client_id, id, person_id, line_id, address, created_at) select ${BIG_ID}, id, id, (select id from line where hook_token = 'bench'), address, at from rows`,
      [
        JSON.stringify(
          batch.map((person) => ({
            id: person.id,
            first: person.firstName,
            last: person.lastName,
            fields: person.fields,
            tags: person.tags,
            lists: person.lists,
            at: new Date(person.met),
            address: person.addresses[0],
            standing: { optedIn: person.ties[0]!.optedIn, optedOut: person.ties[0]!.optedOut },
          })),
        ),
      ],
    );
    await writeTerms(db as unknown as pg.Pool, BIG_ID, batch);
  }
  await db.query('create index person_terms_terms on person_terms using gin (terms)');
  await db.query('vacuum (analyze) person');
  await db.query('vacuum (analyze) person_terms');
  await db.query('vacuum (analyze) identity');
  await db.query('vacuum (analyze) conversation');

  // As the server's own role, past row-level security like every request.
  const asApp = new pg.Client({ connectionString: app, options: '-c jit=off' });
  await asApp.connect();
  try {
    await asApp.query("select set_config('dartloop.clients', $1, false)", [String(BIG_ID)]);
    const asked = await askedOf(asApp as unknown as pg.Pool, BIG_ID, Date.now());
    const ours: number[] = [];
    const ratios: number[] = [];
    for (const [sentence, plain] of RULES) {
      const read = readSentence(sentence);
      if (!read.ok) throw new Error(`“${read.words}” cannot be read`);
      const { mine, count } = await timed(asApp, read.condition, asked);
      const scan = await scanned(asApp, plain);
      if (count !== scan.count) throw new Error(`“${sentence}” finds ${count}, the scan ${scan.count}`);
      ours.push(mine);
      ratios.push(scan.ms / mine);
      print(
        `  ${conditionWords(read.condition)}`.slice(0, 58),
        mine,
        `ms for ${count.toLocaleString('en-GB')} of them; sequential scan ${scan.ms.toFixed(0)} ms; ratio ${(scan.ms / mine).toFixed(1)}`,
      );
    }
    print(
      'a segment counted over 1,000,000 people, median, ms',
      median(ours),
      `a plain sequential scan takes ${median(ratios).toFixed(1)} times as long; reach 300 and 10 times`,
    );
  } finally {
    await asApp.end();
  }
}

async function timed(db: pg.Client, rule: Condition, asked: Awaited<ReturnType<typeof askedOf>>): Promise<{ mine: number; count: number }> {
  const { where, values, tables } = segmentSql(rule, asked, 2);
  const from = tables.person ? 'person_terms t join person p on p.client_id = t.client_id and p.id = t.person_id' : 'person_terms t';
  const times: number[] = [];
  let count = 0;
  for (let at = 0; at < TRIES; at++) {
    const began = performance.now();
    const { rows } = await db.query<{ count: number }>(`select count(*)::int as count from ${from} where t.client_id = $1 and ${where}`, [
      BIG_ID,
      ...values,
    ]);
    times.push(performance.now() - began);
    count = rows[0]!.count;
  }
  return { mine: median(times), count };
}

/** The same question against the people themselves, read from the first to the last. */
async function scanned(db: pg.Client, plain: string): Promise<{ ms: number; count: number }> {
  await db.query(
    'set enable_indexscan = off; set enable_bitmapscan = off; set enable_indexonlyscan = off; set max_parallel_workers_per_gather = 0',
  );
  const times: number[] = [];
  let count = 0;
  for (let at = 0; at < 3; at++) {
    const began = performance.now();
    const { rows } = await db.query<{ count: number }>(
      `select count(*)::int as count from person p where p.client_id = ${BIG_ID} and ${plain}`,
    );
    times.push(performance.now() - began);
    count = rows[0]!.count;
  }
  await db.query('reset enable_indexscan; reset enable_bitmapscan; reset enable_indexonlyscan; reset max_parallel_workers_per_gather');
  return { ms: median(times), count };
}

/** The most memory that a process has had, in MB. */
function peakOf({ process: { pid } }: Child): number {
  return Math.round(Number(/VmHWM:\s+(\d+)/.exec(readFileSync(`/proc/${pid}/status`, 'utf8'))?.[1] ?? 0) / 1_024);
}
