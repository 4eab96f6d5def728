import pg from 'pg';
import { stranger, type Condition, type Value } from '@dart-loop/core';
import { conditionWords } from '@dart-loop/core/people/conditionWords';
import { readSentence } from '@dart-loop/core/loops/edit/typedCondition';
import { writeTerms, type KnownPerson } from '../apps/server/src/people/facts';
import { askedOf, countChosen } from '../apps/server/src/people/select';
import { beginTallies, foldTallies } from '../apps/server/src/people/tally';
import type { Connection } from '../apps/server/src/platform/db/pool';
import { wallClock } from '../apps/server/src/platform/clock';
import { makeLog } from '../apps/server/src/platform/log';
import { Resting } from '../apps/server/src/platform/jobs/resting';
import { median, print } from './figures';

const PEOPLE = 1_000_000;
const AT_ONCE = 10_000;
const TRIES = 7;
/** The client that the million belongs to. */
export const CLIENT_ID = 1;

/**
 * Rules as people write them, each beside what one would write against the people's own columns without an
 * index for it.
 */
const RULES: [sentence: string, plain: string][] = [
  [
    'opted in on sms and town is Fenwater and not on the list Regulars',
    `exists (select from identity i join line l on l.client_id = i.client_id and l.id = i.line_id join conversation c on c.client_id = i.client_id and c.id = i.id
       where i.client_id = p.client_id and i.person_id = p.id and l.channel = 'sms' and (c.standing ->> 'optedIn')::boolean)
     and lower(p.fields -> 'town' ->> 'value') = 'fenwater' and not 'Regulars' = any (p.lists)`,
  ],
  [
    'tagged vip and crossings is at least 20',
    `'vip' = any (p.tags) and (p.fields -> 'crossings' ->> 'value')::numeric >= 20`,
  ],
  [
    'birthday is in the next 7 d and email is known',
    `(p.fields -> 'birthday' ->> 'value')::date between current_date and current_date + 7 and p.fields ? 'email'`,
  ],
  [
    'town is Harwick or town is "Marrow Bay"',
    `lower(p.fields -> 'town' ->> 'value') in ('harwick', 'marrow bay')`,
  ],
  [
    'on the list News and not tagged vip and crossings is between 3 and 5',
    `'News' = any (p.lists) and not 'vip' = any (p.tags) and (p.fields -> 'crossings' ->> 'value')::numeric between 3 and 5`,
  ],
  [
    'met in the last 30 d and tagged "season ticket"',
    `p.created_at > now() - interval '30 days' and 'season ticket' = any (p.tags)`,
  ],
  ['crossings is above 2', `(p.fields -> 'crossings' ->> 'value')::numeric > 2`],
];

export const TOWNS = [
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
    ...stranger(
      `00000000-0000-7000-8000-${n.toString(16).padStart(12, '0')}`,
      Date.now() - (n % 500) * 86_400_000,
    ),
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

/** Invents a million people of a client. */
export async function fillMillion(db: pg.Client): Promise<void> {
  await db.query(
    "insert into line (client_id, key, name, channel, hook_token) values ($1, 'sms', 'SMS', 'sms', 'bench')",
    [CLIENT_ID],
  );
  // Indexes are made once everything is there.
  await db.query('drop index person_terms_terms; drop index person_terms_search');
  for (let from = 0; from < PEOPLE; from += AT_ONCE) {
    const batch = Array.from({ length: AT_ONCE }, (_, n) => inventedPerson(from + n));
    await db.query(
      `
       with rows as (select *
         from json_to_recordset($1::json) as t (id uuid, first text, last text, fields jsonb, tags text[],
         lists text[], at timestamptz, address text, standing jsonb)),
       people as (insert into person (client_id, id, first_name, last_name, fields, tags, lists, created_at,
         last_seen_at) select ${CLIENT_ID}, id, first, last, fields, tags, lists, at, at from rows),
       talks as (insert into conversation (client_id, id, line_id, address, person_id, standing, last_at)
         select ${CLIENT_ID}, id, (select id from line where hook_token = 'bench'), address, id, standing, at
       from rows)
       insert into identity (client_id, id, person_id, line_id, address, created_at)
       select ${CLIENT_ID}, id, id, (select id from line where hook_token = 'bench'), address, at from rows`,
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
    await writeTerms(db as unknown as pg.Pool, CLIENT_ID, batch);
  }
  await db.query('create index person_terms_terms on person_terms using gin (terms)');
  await db.query('vacuum (analyze) person');
  await db.query('vacuum (analyze) person_terms');
  await db.query('vacuum (analyze) identity');
  await db.query('vacuum (analyze) conversation');
}

/** Lets the tally of a client be written, as the server does by and by. */
export async function writeTally(db: pg.Client, clientId: number): Promise<void> {
  const pool = db as unknown as pg.Pool;
  await beginTallies(pool);
  for (;;) {
    await foldTallies(pool, { now: () => Date.now() + 3_600_000 }, new Resting(wallClock, makeLog('silent')));
    const { rows } = await db.query<{ written: boolean }>(
      `
        select state = 'counting' and not exists (select from tally_open where client_id = $1) as written
        from tallied where client_id = $1`,
      [clientId],
    );
    if (rows[0]?.written) break;
    await new Promise((resolve) => setTimeout(resolve, 100));
  }
  await db.query('vacuum (analyze) tally');
}

/** Rules counted over them, each beside a plain sequential scan of the people. */
export async function segments(app: string): Promise<void> {
  // As the server's own role, past row-level security like every request.
  const asApp = new pg.Client({ connectionString: app, options: '-c jit=off' });
  await asApp.connect();
  try {
    await asApp.query("select set_config('dartloop.clients', $1, false)", [String(CLIENT_ID)]);
    const asked = await askedOf(asApp as unknown as pg.Pool, CLIENT_ID, Date.now());
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

async function timed(
  db: pg.Client,
  rule: Condition,
  asked: Awaited<ReturnType<typeof askedOf>>,
): Promise<{ mine: number; count: number }> {
  const times: number[] = [];
  let count = 0;
  for (let at = 0; at < TRIES; at++) {
    const began = performance.now();
    count = await countChosen(db as unknown as Connection, { q: '', rule }, asked);
    times.push(performance.now() - began);
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
      `select count(*)::int as count from person p where p.client_id = ${CLIENT_ID} and ${plain}`,
    );
    times.push(performance.now() - began);
    count = rows[0]!.count;
  }
  await db.query(
    'reset enable_indexscan; reset enable_bitmapscan; reset enable_indexonlyscan; reset max_parallel_workers_per_gather',
  );
  return { ms: median(times), count };
}
