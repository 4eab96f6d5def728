import { newStanding } from '@dart-loop/core';
import { toJson } from '../platform/db/json';
import type { Connection } from '../platform/db/pool';
import type { Changed, Changing, PersonChange } from './personChange';
import { readPeople } from './facts';

/** What a change of people comes to in the database: a few statements, whatever their number. */

/** What changes of each person, as it was asked for. */
export type Asked = Changed & { change: PersonChange };

/** Runs a statement with rows of these columns in the place of ROWS; nothing where there are none. */
async function withRows(
  db: Connection,
  clientId: number,
  { name, columns, text }: { name: string; columns: string; text: string },
  rows: object[],
): Promise<void> {
  if (rows.length === 0) return;
  await db.query({
    name,
    text: text.replace('ROWS', `json_to_recordset($2::json) as t (${columns})`),
    values: [clientId, toJson(rows)],
  });
}

export async function writePeople(db: Connection, clientId: number, changed: Changed[]): Promise<void> {
  const statement = {
    name: 'change-people',
    columns:
      'id uuid, first_name text, last_name text, language text, fields jsonb, changed jsonb, tags text[], lists text[], source text, met timestamptz, seen timestamptz',
    text: `
     insert into person (client_id, id, first_name, last_name, language, fields, changed, tags, lists, source,
       created_at, last_seen_at)
     select $1::int, id, first_name, last_name, language, fields, changed, tags, lists, source, met, seen
     from ROWS
     on conflict (client_id, id) do update
     set first_name = excluded.first_name, last_name = excluded.last_name, language = excluded.language,
       fields = excluded.fields, changed = excluded.changed, tags = excluded.tags, lists = excluded.lists`,
  };
  await withRows(
    db,
    clientId,
    statement,
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
}

export async function writeIdentities(
  db: Connection,
  { clientId, now }: Changing,
  changed: Asked[],
): Promise<void> {
  const at = new Date(now).toISOString();
  const identities = changed.flatMap(({ change }) =>
    (change.identities ?? []).map((identity) => ({
      ...identity,
      line_id: identity.lineId,
      person_id: change.id,
      standing: standingOf(change, identity.lineId),
      at,
    })),
  );
  const statement = {
    name: 'change-identities',
    columns:
      'id uuid, person_id uuid, line_id int, address text, handle text, standing jsonb, at timestamptz',
    text: `with rows as (select * from ROWS),
     talks as (
       insert into conversation (client_id, id, line_id, address, person_id, standing, last_at)
       select $1::int, id, line_id, address, person_id, standing, at from rows on conflict do nothing)
     insert into identity (client_id, id, person_id, line_id, address, handle, created_at)
     select $1::int, id, person_id, line_id, address, handle, at from rows on conflict do nothing`,
  };
  await withRows(db, clientId, statement, identities);
}

export async function writeFields(
  db: Connection,
  { clientId, now, by }: Changing,
  changed: Changed[],
): Promise<void> {
  const at = new Date(now).toISOString();
  const statement = {
    name: 'change-fields',
    columns: 'person_id uuid, field text, before jsonb, after jsonb, at timestamptz, by jsonb',
    text: `
      insert into field_change (client_id, person_id, field, before, after, at, by)
      select $1::int, person_id, field, before, after, at, by from ROWS`,
  };
  await withRows(
    db,
    clientId,
    statement,
    changed.flatMap(({ after, fields }) =>
      fields.map((field) => ({ person_id: after.id, ...field, at, by })),
    ),
  );
}

/** Who or what put tags and lists on, and took them off. */
export async function writeMarks(
  db: Connection,
  { clientId, now, by }: Changing,
  what: 'tag' | 'list',
  changed: Changed[],
): Promise<void> {
  const at = new Date(now).toISOString();
  const statement = {
    name: `change-${what}s`,
    columns: 'person_id uuid, what text, is_on boolean, at timestamptz, by jsonb',
    text: `
      insert into ${what}_change (client_id, person_id, ${what}, is_on, at, by)
      select $1::int, person_id, what, is_on, at, by from ROWS`,
  };
  await withRows(
    db,
    clientId,
    statement,
    changed.flatMap((each) => {
      const [on, off] = what === 'tag' ? [each.tagsOn, each.tagsOff] : [each.listsOn, each.listsOff];
      const entry = (mark: string, is_on: boolean) => ({
        person_id: each.after.id,
        what: mark,
        is_on,
        at,
        by,
      });
      return [...on.map((mark) => entry(mark, true)), ...off.map((mark) => entry(mark, false))];
    }),
  );
}

export async function writeLedger(
  db: Connection,
  { clientId, now, by, stated, wordings = {} }: Changing,
  changed: readonly Asked[],
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
export async function setStandings(
  db: Connection,
  clientId: number,
  changed: readonly Asked[],
): Promise<void> {
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

/** How the line stands to somebody whom it has only just met. */
export function standingOf({ optIns = [], optOuts = [], everything }: PersonChange, lineId: number) {
  const optedOut = everything === 'opt-out' || optOuts.some((each) => each.lineId === lineId);
  return { ...newStanding(), optedOut, optedIn: !optedOut && optIns.some((each) => each.lineId === lineId) };
}
