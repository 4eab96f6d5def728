import fc from 'fast-check';
import pg from 'pg';
import { isInSegment, type PersonFacts } from '@dart-loop/core';
import { ABOUT_NOW, LOOPS, SEGMENTS, person, rule } from '../../../packages/core/test/peopleArbitraries';
import { times } from '../../../packages/core/test/thorough';
import { inOrder, termsOf } from '../src/people/terms';
import { rangeOf } from '../src/people/range';
import { toJson } from '../src/platform/db/json';
import { segmentSql } from '../src/people/segmentSql';
import { makeDatabase } from './support/stage';

let db: pg.Client;
const asked = {
  clientId: 1,
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

/**
 * Puts people in as the server keeps them; a stranger of another client beside each, who must never be found.
 */
async function keep(people: readonly PersonFacts[]): Promise<void> {
  await db.query('truncate person, person_terms cascade');
  const rows = people.flatMap((each, n) =>
    [1, 2].map((client) => {
      const { terms, texts, search } = termsOf({ ...each, addresses: [] });
      return {
        ...each,
        client,
        id: idOf(n),
        met: new Date(each.met),
        seen: new Date(each.seen),
        terms: terms.map((term) => `${client}:${term}`),
        texts,
        search,
      };
    }),
  );
  await db.query(
    `
     with rows as (select *
       from json_to_recordset($1::json) as t (client int, id uuid, fields jsonb, changed jsonb, history jsonb,
       met timestamptz, seen timestamptz, terms text[], texts jsonb, search text)),
     people as (insert into person (client_id, id, fields, changed, history, created_at, last_seen_at)
       select client, id, fields, changed, history, met, seen from rows)
     insert into person_terms (client_id, person_id, terms, texts, search)
     select client, id, array_to_tsvector(terms), texts, search from rows`,
    [toJson(rows)],
  );
}

beforeAll(async () => {
  const { owner } = await makeDatabase();
  db = new pg.Client({ connectionString: owner });
  await db.connect();
  await db.query("insert into agency (name) values ('Halfmoon Relay')");
  for (const slug of ['a', 'b'])
    await db.query('insert into client (agency_id, slug, name) values (1, $1, $1)', [slug]);
});
afterAll(() => db.end());

test('a rule finds in the database whom the core says it is about, with any people and any rule', async () => {
  await fc.assert(
    fc.asyncProperty(
      fc.array(person, { minLength: 8, maxLength: 40 }),
      fc.array(rule, { minLength: 20, maxLength: 20 }),
      async (people, rules) => {
        await keep(people);
        for (const each of rules) {
          const expected = people.flatMap((one, n) =>
            isInSegment(each, { ...asked, person: one }) ? [idOf(n)] : [],
          );
          for (const ranges of ['index', 'rows'] as const) {
            const { where, values } = segmentSql(each, asked, 1, ranges);
            const { rows } = await db.query<{ id: string }>({
              text: `
                select p.id from person p join person_terms t on t.client_id = p.client_id
                  and t.person_id = p.id where p.client_id = 1 and ${where} order by p.id`,
              values,
            });
            const found = rows.map((row) => row.id);
            expect({ rule: each, ranges, found }).toEqual({ rule: each, ranges, found: expected });
          }
        }
      },
    ),
    { numRuns: times(25, 60) },
  );
});

test('what a rule holds is never part of the statement', () => {
  const nasty = "'; drop table person; --";
  const { where, values } = segmentSql(
    { all: [{ tag: nasty }, { field: 'town', is: 'contains', value: nasty }, { source: nasty }] },
    asked,
  );
  expect(where).not.toContain('drop');
  expect(where.replace(/\$\d+/g, '')).toMatch(/^[a-z0-9_@:.()><'% ,\[\]-]+$/i);
  expect(JSON.stringify(values)).toContain('drop');
});

const beginnings = (low: string, high: string) => rangeOf(low, high, (term) => ({ term }))?.beginnings ?? [];

test('beginnings cover exactly what lies between', () => {
  const days = fc
    .date({ min: new Date('0001-01-01'), max: new Date('9999-12-31'), noInvalidDate: true })
    .map((day) => day.toISOString().slice(0, 10));
  fc.assert(
    fc.property(days, days, days, (low, high, day) => {
      expect(beginnings(low, high).filter((prefix) => day.startsWith(prefix)).length).toBe(
        day >= low && day <= high ? 1 : 0,
      );
    }),
  );
  const numbers = fc
    .double({ noNaN: true, noDefaultInfinity: true })
    .map((number) => (number === 0 ? 0 : number));
  fc.assert(
    fc.property(numbers, numbers, numbers, (low, high, number) => {
      const covers = beginnings(inOrder(low), inOrder(high)).filter((prefix) =>
        inOrder(number).startsWith(prefix),
      ).length;
      expect(covers).toBe(number >= low && number <= high ? 1 : 0);
    }),
  );
});
