import fc from 'fast-check';
import pg from 'pg';
import type { PersonFacts } from '@dart-loop/core';
import { ABOUT_NOW, LOOPS, SEGMENTS, person, rule } from '../../../packages/core/test/peopleArbitraries';
import { wallClock } from '../src/platform/clock';
import { toJson } from '../src/platform/db/json';
import { makeLog } from '../src/platform/log';
import { Resting } from '../src/platform/jobs/resting';
import { segmentSql } from '../src/people/segmentSql';
import { beginTallies, countByTally, foldTallies } from '../src/people/tally';
import { tsquery, type TermQuery } from '../src/people/termQuery';
import { termsOf } from '../src/people/terms';
import { makeDatabase, until } from './support/stage';
import { remains } from './support/remains';

const CLIENT = 1;
const asked = {
  clientId: CLIENT,
  now: ABOUT_NOW,
  client: {
    name: 'Saltmarsh Ferries',
    brief: {},
    country: 'GB',
    timeZone: 'Europe/London',
    languages: ['en', 'es'],
    openingHours: {},
  },
  segments: SEGMENTS,
  loopIds: LOOPS,
};
const idOf = (n: number) => `00000000-0000-7000-8000-${n.toString().padStart(12, '0')}`;

let url: string;
let db: pg.Client;
beforeAll(async () => {
  ({ owner: url } = await makeDatabase());
  db = new pg.Client({ connectionString: url });
  await db.connect();
  await db.query("insert into agency (name) values ('Halfmoon Relay')");
  for (const slug of ['a', 'b'])
    await db.query('insert into client (agency_id, slug, name) values (1, $1, $1)', [slug]);
  await db.query('insert into tallied (client_id) values ($1)', [CLIENT]);
  await isCounting(CLIENT);
});
afterAll(() => db.end());

const asPool = () => db as unknown as pg.Pool;
/** Lets the server's own work write all that it would by and by. */
async function fold(now = Date.now()): Promise<void> {
  while (await foldTallies(asPool(), { now: () => now }, new Resting(wallClock, makeLog('silent'))));
}
/**
 * A tally begins to count once nothing is under way that it could miss, in any database of the cluster: other
 * tests have theirs there.
 */
const isCounting = (clientId: number) =>
  until(
    async () => {
      await fold();
      return (await db.query<{ state: string }>('select state from tallied where client_id = $1', [clientId]))
        .rows[0]?.state;
    },
    (state) => state === 'counting',
  );
const foldSome = (most: number) => db.query('select fold_tally($1, $2, now())', [CLIENT, most]);

async function write(
  people: readonly { id: string; person: PersonFacts }[],
  on: pg.Client = db,
): Promise<void> {
  const rows = people.map(({ id, person: each }) => {
    const { terms, texts, search } = termsOf({ ...each, addresses: [] });
    return { id, texts, search, terms: terms.map((term) => `${CLIENT}:${term}`) };
  });
  await on.query(
    `
     insert into person_terms (client_id, person_id, terms, texts, search)
     select ${CLIENT}, id, array_to_tsvector(terms), texts, search
     from json_to_recordset($1::json) as t (id uuid, terms text[], texts jsonb, search text)
     on conflict (client_id, person_id) do update
     set terms = excluded.terms, texts = excluded.texts, search = excluded.search`,
    [toJson(rows)],
  );
}

/** Asks the rows and the bits; they must agree. False where the rule is no question of terms alone. */
async function agree(each: Parameters<typeof segmentSql>[0]): Promise<boolean> {
  const { terms, where, values } = segmentSql(each, asked, 2);
  if (!terms) return false;
  const { rows } = await db.query<{ count: number }>(
    `select count(*)::int as count from person_terms t where t.client_id = $1 and ${where}`,
    [CLIENT, ...values],
  );
  const counted = await countByTally(db as never, CLIENT, terms, where, values);
  expect({ rule: each, counted }).toEqual({ rule: each, counted: rows[0]!.count });
  return true;
}

test('whatever happens to people, and however little of it is written yet, the tally counts as the rows do', async () => {
  const ids = fc.integer({ min: 0, max: 30 }).map(idOf);
  const step = fc.oneof(
    {
      weight: 4,
      arbitrary: fc.record({
        do: fc.constant('write' as const),
        people: fc.array(fc.record({ id: ids, person }), { minLength: 1, maxLength: 8 }),
      }),
    },
    {
      weight: 2,
      arbitrary: fc.record({
        do: fc.constant('remove' as const),
        ids: fc.array(ids, { minLength: 1, maxLength: 4 }),
      }),
    },
    {
      weight: 3,
      arbitrary: fc.record({ do: fc.constant('fold' as const), most: fc.integer({ min: 1, max: 12 }) }),
    },
  );
  let asks = 0;
  await fc.assert(
    fc.asyncProperty(
      fc.array(step, { minLength: 3, maxLength: 12 }),
      fc.array(rule, { minLength: 6, maxLength: 6 }),
      async (steps, rules) => {
        for (const each of steps) {
          if (each.do === 'write')
            await write([...new Map(each.people.map((one) => [one.id, one])).values()]);
          else if (each.do === 'remove')
            await db.query('delete from person_terms where client_id = $1 and person_id = any ($2::uuid[])', [
              CLIENT,
              each.ids,
            ]);
          else await foldSome(each.most);
          for (const one of rules) if (await agree(one)) asks++;
        }
      },
    ),
    { numRuns: 40 },
  );
  expect(asks).toBeGreaterThan(500);
  // Once nobody is left, nothing of anybody is.
  await db.query('delete from person_terms');
  await fold(Date.now() + 1_200_000);
  for (const table of ['tally', 'tally_open', 'tally_stale', 'person_seat'])
    expect([
      table,
      (await db.query<{ n: number }>(`select count(*)::int as n from ${table}`)).rows[0]!.n,
    ]).toEqual([table, 0]);
});

test('somebody who is changed while the tally is written is counted rightly before, meanwhile and after', async () => {
  const [one] = fc.sample(person, { numRuns: 1, seed: 7 });
  const tagged = (...tags: string[]) => ({ ...one!, tags });
  await write([
    { id: idOf(1), person: tagged('vip') },
    { id: idOf(2), person: tagged('vip', 'press') },
  ]);
  await fold(Date.now() + 2_400_000);
  const other = new pg.Client({ connectionString: url });
  await other.connect();
  try {
    // Open and changed, but not committed, while the tally is written.
    await write([{ id: idOf(1), person: tagged('press') }]);
    await other.query('begin');
    await write([{ id: idOf(1), person: tagged('gone') }], other);
    await foldSome(100);
    await agree({ tag: 'vip' });
    await agree({ tag: 'press' });
    await other.query('commit');
    for (let times = 0; times < 2; times++) {
      for (const tag of ['vip', 'press', 'gone']) await agree({ tag });
      await foldSome(100);
    }
    await other.query('begin');
    await other.query('delete from person_terms where person_id = $1', [idOf(1)]);
    await foldSome(100);
    await agree({ tag: 'gone' });
    await other.query('commit');
    await agree({ tag: 'gone' });
    // Who is gone leaves no word behind, though they had just been changed.
    await write([{ id: idOf(2), person: tagged('zzleftover') }]);
    await foldSome(100);
    await write([{ id: idOf(2), person: tagged('zzlater') }]);
    await db.query('delete from person_terms where person_id = $1', [idOf(2)]);
    expect(await remains(asPool(), 'zzl')).toEqual([]);
    expect(await remains(asPool(), idOf(2))).toEqual([]);
  } finally {
    await other.end();
  }
});

test('a client that grows large gets a tally by itself, over several blocks, of few and of many', async () => {
  const many = 20_500;
  await db.query(
    `
     insert into person_terms (client_id, person_id, terms, texts, search)
     select 2, ('00000000-0000-7000-8000-' || lpad(n::text, 12, '0'))::uuid,
       array_to_tsvector(array['2:', '2:g:all', '2:v:n|n|' || lpad(to_hex(n % 97), 16, '0'), case
         when n % 3 = 0 then '2:g:third' else '2:g:other' end, case when n % 5000 = 1 then '2:g:rare'
         else '2:g:none' end]), '{}', ''
     from generate_series(1, ${many}) n`,
  );
  await beginTallies(asPool());
  await isCounting(2);
  await fold(Date.now() + 3_600_000);
  const count = async (query: TermQuery) =>
    countByTally(db as never, 2, query, 't.terms @@ $2::tsquery', [tsquery(query, 2)]);
  expect(
    (await db.query<{ n: number }>('select count(distinct block)::int as n from tally where client_id = 2'))
      .rows[0]!.n,
  ).toBe(3);
  expect(await count({ term: 'g:all' })).toBe(many);
  expect(await count({ term: 'g:third' })).toBe(Math.floor(many / 3));
  expect(await count({ not: { term: 'g:third' } })).toBe(many - Math.floor(many / 3));
  expect(await count({ term: 'g:rare' })).toBe(5);
  expect(await count({ all: [{ term: 'g:third' }, { term: 'g:rare' }] })).toBe(2);
  expect(await count({ term: 'v:n|n|000000000000000', begins: true })).toBe(
    [...Array(many).keys()].filter((n) => (n + 1) % 97 < 16).length,
  );
  expect(await count({ any: [{ term: 'g:rare' }, { term: 'g:nobody' }] })).toBe(5);
  // Many of them change and go, so that bitmaps become lists and lists bitmaps; asked before anything is
  // written, and after.
  const questions: TermQuery[] = ['g:all', 'g:third', 'g:other', 'g:moved', 'g:rare', 'g:none'].map(
    (term) => ({ term }),
  );
  const check = async () => {
    for (const query of [...questions, { all: [{ term: 'g:all' }, { not: { term: 'g:moved' } }] }]) {
      const { rows } = await db.query<{ n: number }>(
        'select count(*)::int as n from person_terms where client_id = 2 and terms @@ $1::tsquery',
        [tsquery(query, 2)],
      );
      expect([query, await count(query)]).toEqual([query, rows[0]!.n]);
    }
  };
  await db.query(
    `
      update person_terms set terms = array_to_tsvector(array['2:', '2:g:all', '2:g:moved'])
      where client_id = 2 and person_id between $1 and $2`,
    [idOf(100), idOf(900)],
  );
  await check();
  await fold(Date.now() + 5_000_000);
  await check();
  await db.query('delete from person_terms where client_id = 2 and person_id between $1 and $2', [
    idOf(16_500),
    idOf(20_400),
  ]);
  await check();
  await fold(Date.now() + 6_000_000);
  await check();
});
