import { shownName, shownValue } from '@dart-loop/core/people/shownName';
import type { By, PersonPage } from '@dart-loop/contract';
import type { Connection } from '../platform/db/pool';
import { notFound } from '../platform/problem';
import type { ChangedBy } from '../conversations/changes';
import { PARTED_WITHIN_MS } from './merge';
import { alikeOf } from './alike';
import { byWords } from './byWords';
import { PERSON_COLUMNS, type StoredPerson } from './stored';
import { timelineOf } from './timeline';

/** A person's name as shown: their name, else the handle or address that they were met by. */
export const NAME = `coalesce(nullif(concat_ws(' ', p.first_name, p.last_name), ''), (select coalesce(i.handle, i.address) from identity i where i.client_id = p.client_id and i.person_id = p.id order by i.created_at limit 1), 'somebody')`;

/** The person's id and those of the people who have become them; a 404 when there is no such person. */
export async function whoIs(db: Connection, clientId: number, personId: string): Promise<string[]> {
  const { rows } = await db.query<{ who: string[] }>(
    `
      select array(select p.id union all select m.gone from merge m
        where m.client_id = p.client_id and m.kept = p.id and m.parted_at is null) as who from person p
      where p.client_id = $1 and p.id = $2`,
    [clientId, personId],
  );
  if (!rows[0]) throw notFound('person');
  return rows[0].who;
}

/** Everything that the person's own page shows. `who`: as {@link whoIs} says. */
export async function personPage(
  db: Connection,
  clientId: number,
  personId: string,
  who: string[],
  now: number,
): Promise<PersonPage> {
  const person = await rowOf(db, clientId, personId);
  const identities = await identitiesOf(db, clientId, personId);
  const fields = await db.query<{ key: string; name: string; personal: boolean }>(
    'select key, name, personal from field where client_id = $1',
    [clientId],
  );
  const saidField = await lastSaid(db, clientId, who, 'field');
  const saidTag = await lastSaid(db, clientId, who, 'tag');
  const saidList = await lastSaid(db, clientId, who, 'list');
  const merged = await mergedInto(db, clientId, personId, now);
  const definition = new Map(fields.rows.map((field) => [field.key, field]));
  return {
    id: person.id,
    name: shownName(person.name),
    firstName: person.first_name,
    lastName: person.last_name,
    language: person.language,
    source: person.source,
    createdAt: person.created_at.toISOString(),
    lastSeenAt: person.last_seen_at.toISOString(),
    identities,
    facts: Object.entries(person.fields).map(([field, value]) => ({
      key: field,
      name: definition.get(field)?.name ?? field,
      type: value.type,
      words: shownValue(value),
      personal: definition.get(field)?.personal ?? false,
      ...saidField(field),
    })),
    tags: person.tags.map((tag) => ({ tag, ...saidTag(tag) })),
    lists: person.lists.map((list) => ({ list, ...saidList(list) })),
    timeline: await timelineOf(
      db,
      clientId,
      who,
      new Map(fields.rows.map((field) => [field.key, field.name])),
    ),
    alike: await alikeOf(db, clientId, personId),
    merged,
  };
}

interface PersonRow extends StoredPerson {
  name: string;
}

async function rowOf(db: Connection, clientId: number, personId: string): Promise<PersonRow> {
  const { rows } = await db.query<PersonRow>(
    `
      select p.id, ${NAME} as name, ${PERSON_COLUMNS} from person p where p.client_id = $1 and p.id = $2`,
    [clientId, personId],
  );
  // Somebody may be erased, or merged into another, just between.
  if (!rows[0]) throw notFound('person');
  return rows[0];
}

async function identitiesOf(
  db: Connection,
  clientId: number,
  personId: string,
): Promise<PersonPage['identities']> {
  const { rows } = await db.query<Omit<PersonPage['identities'][number], 'since'> & { since: Date }>(
    `
     select i.id, l.channel, l.name as line, l.id as "lineId", i.address, i.handle, i.created_at as since,
       coalesce((c.standing ->> 'optedOut')::boolean, false) as "optedOut",
         coalesce((c.standing ->> 'optedIn')::boolean, false) as "optedIn"
     from identity i join line l on l.client_id = i.client_id and l.id = i.line_id
     left join conversation c on c.client_id = i.client_id and c.id = i.id
     where i.client_id = $1 and i.person_id = $2 order by i.created_at`,
    [clientId, personId],
  );
  return rows.map((identity) => ({ ...identity, since: identity.since.toISOString() }));
}

/** Who or what said what is known now: the last change of each field, tag or list. */
async function lastSaid(
  db: Connection,
  clientId: number,
  who: string[],
  of: 'field' | 'tag' | 'list',
): Promise<(what: string) => { at: string | null; by: By | null }> {
  const { rows } = await db.query<{ what: string; at: Date; by: ChangedBy }>(
    `
      select distinct on (${of}) ${of} as what, at, by from ${of}_change
      where client_id = $1 and person_id = any ($2::uuid[]) ${of === 'field' ? '' : 'and is_on'}
      order by ${of}, id desc`,
    [clientId, who],
  );
  const last = new Map(rows.map((row) => [row.what, row]));
  return (what) => {
    const change = last.get(what);
    return { at: change?.at.toISOString() ?? null, by: change ? byWords(change.by) : null };
  };
}

/** Those who have become this person and can still be parted from them. */
async function mergedInto(
  db: Connection,
  clientId: number,
  personId: string,
  now: number,
): Promise<PersonPage['merged']> {
  const { rows } = await db.query<{ id: string; at: Date; name: string | null }>(
    `
     select id, at, nullif(concat_ws(' ', before #>> '{gone,first_name}', before #>> '{gone,last_name}'), '')
       as name from merge
     where client_id = $1 and kept = $2 and parted_at is null and at > $3 order by at desc`,
    [clientId, personId, new Date(now - PARTED_WITHIN_MS)],
  );
  return rows.map(({ id, at, name }) => ({
    id,
    name: name ?? 'somebody',
    at: at.toISOString(),
    until: new Date(at.getTime() + PARTED_WITHIN_MS).toISOString(),
  }));
}
