import {
  newStanding,
  type ClientFacts,
  type LineTie,
  type PersonFacts,
  type Standing,
} from '@dart-loop/core';
import { toJson } from '../platform/db/json';
import type { Connection, Db } from '../platform/db/pool';
import { knownBy, PERSON_COLUMNS, type StoredPerson } from './stored';
import { termsOf, type Termed } from './terms';

/** A person as the core sees them, with the addresses they are reached at. */
export interface KnownPerson extends PersonFacts {
  addresses: string[];
}

interface Row extends StoredPerson {
  ties:
    | (Pick<LineTie, 'key' | 'channel'> & {
        standing: Partial<Standing> | null;
        address: string;
        handle: string | null;
      })[]
    | null;
}

/**
 * Several people of one client, in no order. Those that are not there are left out. `lock`: nobody else
 * changes them meanwhile.
 */
export async function readPeople(
  db: Connection | Db,
  clientId: number,
  ids: readonly string[],
  lock = false,
): Promise<KnownPerson[]> {
  if (lock)
    await db.query(
      'select from person where client_id = $1 and id = any($2::uuid[]) order by id for no key update',
      [clientId, ids],
    );
  const { rows } = await db.query<Row>(
    `
     select p.id, ${PERSON_COLUMNS},
       (select jsonb_agg(jsonb_build_object('key', l.key, 'channel', l.channel, 'standing', c.standing,
         'address', i.address, 'handle', i.handle) order by i.created_at, i.id)
        from identity i join line l on l.client_id = i.client_id and l.id = i.line_id
        left join conversation c on c.client_id = i.client_id and c.id = i.id
        where i.client_id = p.client_id and i.person_id = p.id) as ties
     from person p where p.client_id = $1 and p.id = any($2::uuid[])`,
    [clientId, ids],
  );
  return rows.map((row) => ({
    ...knownBy(row),
    ties: (row.ties ?? []).map(({ key, channel, standing }) => {
      const { optedIn, optedOut } = { ...newStanding(), ...standing };
      return { key, channel, optedIn, optedOut };
    }),
    addresses: (row.ties ?? []).flatMap(({ address, handle }) => (handle ? [address, handle] : [address])),
  }));
}

/** Writes anew what these people are found by, from what is known of them now. */
export async function indexPeople(
  db: Connection | Db,
  clientId: number,
  ids: readonly string[],
): Promise<void> {
  if (ids.length > 0) await writeTerms(db, clientId, await readPeople(db, clientId, ids));
}

/** A client as the core sees it. */
export async function clientFacts(db: Connection | Db, clientId: number): Promise<ClientFacts> {
  const { rows } = await db.query<ClientFacts>(
    `
      select name, brief, country, time_zone as "timeZone", languages, opening_hours as "openingHours",
        files_of(id) as files
      from client where id = $1`,
    [clientId],
  );
  return rows[0]!;
}

export type TermsRow = ReturnType<typeof termsRow>;
export const WRITE_TERMS = `
  with rows as materialized (
    select * from json_to_recordset($1::json) as t (client_id int, person_id uuid, terms text[], texts jsonb,
      search text, contacts text[])
  ), gone as (
    delete from contact c using rows r where c.client_id = r.client_id and c.person_id = r.person_id
      and c.value <> all (r.contacts)
  ), contacts as (
    insert into contact (client_id, person_id, value) select client_id, person_id, unnest(contacts)
    from rows on conflict do nothing
  )
  insert into person_terms (client_id, person_id, terms, texts, search)
  select client_id, person_id, array_to_tsvector(terms), texts, search from rows
  on conflict (client_id, person_id) do update
  set terms = excluded.terms, texts = excluded.texts, search = excluded.search`;

/** What somebody is found by, as it is written. Terms begin with the client. */
export function termsRow(clientId: number, personId: string, person: Termed) {
  const { terms, ...rest } = termsOf(person);
  return {
    client_id: clientId,
    person_id: personId,
    terms: terms.map((term) => `${clientId}:${term}`),
    ...rest,
  };
}

/** Writes what people are found by. */
export async function writeTerms(
  db: Connection | Db,
  clientId: number,
  people: readonly KnownPerson[],
): Promise<void> {
  const rows = people.map((person) => {
    return termsRow(clientId, person.id, person);
  });
  await db.query({ name: 'write-terms', text: WRITE_TERMS, values: [toJson(rows)] });
}

/**
 * People of before there was an index, or that were put in beside it: a thousand at a time. Returns whether
 * there may be more.
 */
export async function indexUnindexed(db: Db): Promise<boolean> {
  const { rows } = await db.query<{ client_id: number; id: string }>(
    `
      select p.client_id, p.id from person p
      where not exists (select from person_terms t where t.client_id = p.client_id and t.person_id = p.id)
      limit 1000`,
  );
  for (const clientId of new Set(rows.map((row) => row.client_id)))
    await indexPeople(
      db,
      clientId,
      rows.filter((row) => row.client_id === clientId).map((row) => row.id),
    );
  return rows.length === 1_000;
}
