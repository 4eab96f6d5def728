import { newStanding, stranger, type FieldTypes, type LineTie, type Value } from '@dart-loop/core';
import { toJson } from '../platform/db/json';
import type { Connection } from '../platform/db/pool';
import type { ChangedBy } from '../conversations/changes';
import { cuesChanged } from '../loops/cueRevision';
import { readPeople, writeTerms, type KnownPerson } from './facts';

/** What is to become of one person; what is left out stays as it is. A value of null takes the field away. */
export interface PersonChange {
  id: string;
  /** Somebody new; met at this moment (ms), where it is not now. */
  isNew?: { met?: number; seen?: number; source: string | null };
  firstName?: string | null;
  lastName?: string | null;
  language?: string | null;
  fields?: Record<string, Value | null>;
  /** When the fields were changed (ms), where that was not now. */
  fieldsAt?: number;
  tags?: { on?: readonly string[]; off?: readonly string[] };
  /** Lists that are joined need what that rests on. */
  lists?: { on?: readonly string[]; off?: readonly string[] };
  identities?: readonly NewIdentity[];
  optIns?: readonly { lineId: number }[];
  optOuts?: readonly { lineId: number }[];
  everything?: 'opt-out';
}

/** An identity that is brought in: a number or account on one of the client's lines. */
export interface NewIdentity {
  /** Also its conversation's. */
  id: string;
  lineId: number;
  line: Pick<LineTie, 'key' | 'channel'>;
  address: string;
  handle: string | null;
}

/** Who changes, when, and what new opt-ins rest on. */
export interface Changing {
  clientId: number;
  now: number;
  by: ChangedBy;
  /** Where an opt-in comes from that nobody here has seen: "till form, June 2026". */
  stated: string | null;
  /** The wordings of lists as they are now, by name. */
  wordings?: Readonly<Record<string, { words: string; version: number | null }>>;
  /** Whose entries of the ledger are written here; left out: everybody's. */
  ledgerOf?: (personId: string) => boolean;
}

/** A person before and after, as far as it is another now. */
export interface Changed {
  before: KnownPerson | null;
  after: KnownPerson;
  tagsOn: string[];
  tagsOff: string[];
  listsOn: string[];
  listsOff: string[];
  fields: { field: string; before: Value | null; after: Value | null }[];
}

/**
 * Changes people, all in the caller's transaction and with a few statements whatever their number: the
 * people, who or what changed each value, the ledger, and what they are found by. Somebody to be changed who
 * is not there is left out.
 */
export async function changePeople(
  db: Connection,
  changing: Changing,
  changes: readonly PersonChange[],
): Promise<Changed[]> {
  const { clientId, now } = changing;
  const known = new Map(
    (
      await readPeople(
        db,
        clientId,
        changes.flatMap((change) => (change.isNew ? [] : [change.id])),
        true,
      )
    ).map((person) => [person.id, person]),
  );
  const changed = changes.flatMap((change) => {
    const before = known.get(change.id) ?? null;
    return before || change.isNew ? [{ change, ...changedBy(before, change, now) }] : [];
  });
  if (changed.length === 0) return [];
  const at = new Date(now).toISOString();
  const rows = (name: string, columns: string, text: string, some: object[]) =>
    some.length === 0
      ? Promise.resolve(null)
      : db.query({
          name,
          text: text.replace('ROWS', `json_to_recordset($2::json) as t (${columns})`),
          values: [clientId, toJson(some)],
        });

  await rows(
    'change-people',
    'id uuid, first_name text, last_name text, language text, fields jsonb, changed jsonb, tags text[], lists text[], source text, met timestamptz, seen timestamptz',
    `
     insert into person (client_id, id, first_name, last_name, language, fields, changed, tags, lists, source,
       created_at, last_seen_at)
     select $1::int, id, first_name, last_name, language, fields, changed, tags, lists, source, met, seen
     from ROWS
     on conflict (client_id, id) do update
     set first_name = excluded.first_name, last_name = excluded.last_name, language = excluded.language,
       fields = excluded.fields, changed = excluded.changed, tags = excluded.tags, lists = excluded.lists`,
    changed.map(({ after }) => ({
      id: after.id,
      first_name: after.firstName,
      last_name: after.lastName,
      language: after.language,
      fields: after.fields,
      changed: after.changed,
      tags: after.tags,
      lists: after.lists,
      source: after.source,
      met: new Date(after.met).toISOString(),
      seen: new Date(after.seen).toISOString(),
    })),
  );
  const identities = changed.flatMap(({ change }) =>
    (change.identities ?? []).map((identity) => ({
      ...identity,
      line_id: identity.lineId,
      person_id: change.id,
      standing: standingOf(change, identity.lineId),
      at,
    })),
  );
  await rows(
    'change-identities',
    'id uuid, person_id uuid, line_id int, address text, handle text, standing jsonb, at timestamptz',
    `with rows as (select * from ROWS),
     talks as (
       insert into conversation (client_id, id, line_id, address, person_id, standing, last_at)
       select $1::int, id, line_id, address, person_id, standing, at from rows on conflict do nothing)
     insert into identity (client_id, id, person_id, line_id, address, handle, created_at)
     select $1::int, id, person_id, line_id, address, handle, at from rows on conflict do nothing`,
    identities,
  );
  await rows(
    'change-fields',
    'person_id uuid, field text, before jsonb, after jsonb, at timestamptz, by jsonb',
    `
      insert into field_change (client_id, person_id, field, before, after, at, by)
      select $1::int, person_id, field, before, after, at, by from ROWS`,
    changed.flatMap(({ after, fields }) =>
      fields.map((field) => ({ person_id: after.id, ...field, at, by: changing.by })),
    ),
  );
  for (const [table, column] of [
    ['tag_change', 'tag'],
    ['list_change', 'list'],
  ] as const)
    await rows(
      `change-${column}s`,
      'person_id uuid, what text, is_on boolean, at timestamptz, by jsonb',
      `
        insert into ${table} (client_id, person_id, ${column}, is_on, at, by)
        select $1::int, person_id, what, is_on, at, by from ROWS`,
      changed.flatMap((each) => {
        const [on, off] = column === 'tag' ? [each.tagsOn, each.tagsOff] : [each.listsOn, each.listsOff];
        const entry = (what: string, is_on: boolean) => ({
          person_id: each.after.id,
          what,
          is_on,
          at,
          by: changing.by,
        });
        return [...on.map((what) => entry(what, true)), ...off.map((what) => entry(what, false))];
      }),
    );
  const { ledgerOf } = changing;
  await writeLedger(db, changing, ledgerOf ? changed.filter(({ after }) => ledgerOf(after.id)) : changed);
  await setStandings(db, clientId, changed);
  await writeTerms(
    db,
    clientId,
    changed.map(({ after }) => after),
  );
  return changed;
}

function changedBy(before: KnownPerson | null, change: PersonChange, now: number): Changed {
  const { isNew } = change;
  const from: KnownPerson = before ?? {
    ...stranger(change.id, isNew?.met ?? now),
    seen: isNew?.seen ?? isNew?.met ?? now,
    source: isNew?.source ?? null,
    addresses: [],
  };
  const set = (
    had: readonly string[],
    { on = [], off = [] }: { on?: readonly string[]; off?: readonly string[] } = {},
  ) => [...new Set([...had, ...on])].filter((each) => !off.includes(each)).sort();
  const fields = Object.entries(change.fields ?? {}).flatMap(([field, after]) => {
    const was = from.fields[field] ?? null;
    return toJson(was) === toJson(after) ? [] : [{ field, before: was, after }];
  });
  const after: KnownPerson = {
    ...from,
    firstName: change.firstName === undefined ? from.firstName : change.firstName,
    lastName: change.lastName === undefined ? from.lastName : change.lastName,
    language: change.language === undefined ? from.language : change.language,
    fields: { ...from.fields },
    changed: { ...from.changed },
    tags: set(from.tags, change.tags),
    lists: set(from.lists, change.lists),
    ties: [...from.ties],
    addresses: [
      ...from.addresses,
      ...(change.identities ?? []).flatMap(({ address, handle }) => (handle ? [address, handle] : [address])),
    ],
  };
  for (const { field, after: value } of fields) {
    if (value === null) delete after.fields[field];
    else after.fields[field] = value;
    after.changed[field] = change.fieldsAt ?? now;
  }
  for (const { line, lineId } of change.identities ?? []) {
    const { optedIn, optedOut } = standingOf(change, lineId);
    after.ties.push({ ...line, optedIn: optedIn === true, optedOut: optedOut === true });
  }
  const without = (one: readonly string[], other: readonly string[]) =>
    one.filter((each) => !other.includes(each));
  return {
    before,
    after,
    fields,
    tagsOn: without(after.tags, from.tags),
    tagsOff: without(from.tags, after.tags),
    listsOn: without(after.lists, from.lists),
    listsOff: without(from.lists, after.lists),
  };
}

function standingOf({ optIns = [], optOuts = [], everything }: PersonChange, lineId: number) {
  const optedOut = everything === 'opt-out' || optOuts.some((each) => each.lineId === lineId);
  return { ...newStanding(), optedOut, optedIn: !optedOut && optIns.some((each) => each.lineId === lineId) };
}

type Applied = Changed & { change: PersonChange };

async function writeLedger(
  db: Connection,
  { clientId, now, by, stated, wordings = {} }: Changing,
  changed: readonly Applied[],
): Promise<void> {
  const entries = changed.flatMap(({ change, listsOn, listsOff, after }) => {
    const entry = (what: 'opt-in' | 'opt-out', scope: string, more: object) => ({
      person_id: after.id,
      what,
      scope,
      ...more,
    });
    return [
      ...listsOn.map((list) =>
        entry('opt-in', 'list', {
          list,
          words: wordings[list]?.words || stated || 'by the team',
          wording: wordings[list]?.version ?? null,
        }),
      ),
      ...listsOff.map((list) => entry('opt-out', 'list', { list, words: stated ?? 'by the team' })),
      ...(change.optIns ?? []).map(({ lineId }) =>
        entry('opt-in', 'line', { line_id: lineId, words: stated ?? 'by the team' }),
      ),
      ...(change.optOuts ?? []).map(({ lineId }) =>
        entry('opt-out', 'line', { line_id: lineId, words: stated ?? 'by the team' }),
      ),
      ...(change.everything ? [entry('opt-out', 'everything', { words: stated ?? 'by the team' })] : []),
    ];
  });
  if (entries.length === 0) return;
  await db.query({
    name: 'change-ledger',
    text: `
           insert into consent (client_id, person_id, line_id, conversation_id, what, words, at, by, scope,
             list, wording, stated)
           select $1, t.person_id, t.line_id, i.id, t.what, t.words, $3, $4, t.scope, t.list, t.wording, $5
           from json_to_recordset($2::json) as t (person_id uuid, line_id int, what text, words text,
             scope text, list text, wording int)
           left join identity i on t.line_id is not null and i.client_id = $1 and i.person_id = t.person_id
             and i.line_id = t.line_id`,
    values: [clientId, toJson(entries), new Date(now), toJson(by), stated],
  });
}

/** Conversations that are there already remember what the ledger now says of them. */
async function setStandings(db: Connection, clientId: number, changed: readonly Applied[]): Promise<void> {
  const said = changed.flatMap(({ change }) => [
    ...(change.optIns ?? []).map(({ lineId }) => ({
      person_id: change.id,
      line_id: lineId,
      opted_out: false,
    })),
    ...(change.optOuts ?? []).map(({ lineId }) => ({
      person_id: change.id,
      line_id: lineId,
      opted_out: true,
    })),
    ...(change.everything ? [{ person_id: change.id, line_id: null, opted_out: true }] : []),
  ]);
  if (said.length === 0) return;
  await db.query(
    `
     update conversation c
     set standing = c.standing || jsonb_build_object('optedOut', t.opted_out, 'optedIn', not t.opted_out)
     from json_to_recordset($2::json) as t (person_id uuid, line_id int, opted_out boolean)
     where c.client_id = $1 and c.person_id = t.person_id and (t.line_id is null or c.line_id = t.line_id)`,
    [clientId, toJson(said)],
  );
  const again = said.map(({ person_id }) => person_id);
  const fresh = new Map((await readPeople(db, clientId, again)).map((person) => [person.id, person.ties]));
  for (const { after } of changed) after.ties = fresh.get(after.id) ?? after.ties;
}

/** Makes fields that a client does not have yet, of the types that they are used with. */
export async function makeFields(db: Connection, clientId: number, types: FieldTypes): Promise<void> {
  const keys = Object.keys(types);
  if (keys.length === 0) return;
  await db.query(
    `
      insert into field (client_id, key, type, name) select $1, *
      from unnest($2::text[], $3::text[], $4::text[]) on conflict do nothing`,
    [clientId, keys, Object.values(types), keys.map((key) => key.replaceAll('_', ' '))],
  );
}

/**
 * The same, of those that the client does not have by its setting; lets the lane know that there are more.
 */
export async function makeMissing(
  db: Connection,
  { clientId, fields }: { clientId: number; fields: ReadonlyMap<string, unknown> },
  used: FieldTypes,
): Promise<void> {
  const missing = Object.entries(used).filter(([field]) => !fields.has(field));
  if (missing.length === 0) return;
  await makeFields(db, clientId, Object.fromEntries(missing));
  await cuesChanged(db, clientId);
}
