import { valueWords, type Value } from '@dart-loop/core';
import type { MergePreview } from '@dart-loop/contract';
import { toJson } from '../platform/db/json';
import { type Connection } from '../platform/db/pool';
import { newId } from '../platform/ids';
import type { ChangedBy } from '../conversations/changes';
import { indexPeople, readPeople, type KnownPerson } from './facts';
import { INTO_PERSON, PERSON_COLUMNS, PERSON_RECORD, type StoredPerson } from './stored';
import { sameJson } from '@dart-loop/core/sameJson';

/** For so long two people that became one can be parted again. */
export const PARTED_WITHIN_MS = 30 * 86_400_000;

/** What a merge keeps of both, so that everything can be put back. */
interface Before {
  kept: Snapshot;
  gone: Snapshot;
  /** Identities and conversations that came over. */
  identities: string[];
  conversations: string[];
  bookings?: string[];
}
/** As JSON has it. */
interface Snapshot extends Omit<StoredPerson, 'id' | 'created_at' | 'last_seen_at'> {
  created_at: string;
  last_seen_at: string;
}

export const nameOf = (person: KnownPerson) =>
  [person.firstName, person.lastName].filter(Boolean).join(' ') || person.addresses[0] || 'somebody';

/** What becoming one would mean; null when one of them is not there. */
export async function mergePreview(
  db: Connection,
  clientId: number,
  keptId: string,
  goneId: string,
  names: Record<string, string>,
): Promise<MergePreview | null> {
  const people = await readPeople(db, clientId, [keptId, goneId]);
  const kept = people.find((person) => person.id === keptId);
  const gone = people.find((person) => person.id === goneId);
  if (!kept || !gone || keptId === goneId) return null;
  const differing: MergePreview['differing'] = [];
  const compare = (key: string, name: string, mine: string | null, theirs: string | null) => {
    if (theirs !== null && mine !== theirs) differing.push({ key, name, kept: mine, gone: theirs });
  };
  compare('first name', 'First name', kept.firstName, gone.firstName);
  compare('last name', 'Last name', kept.lastName, gone.lastName);
  for (const key of [...new Set([...Object.keys(kept.fields), ...Object.keys(gone.fields)])].sort()) {
    const words = (value: Value | undefined) => (value ? valueWords(value) : null);
    compare(key, names[key] ?? key.replaceAll('_', ' '), words(kept.fields[key]), words(gone.fields[key]));
  }
  const without = (one: readonly string[], other: readonly string[]) =>
    one.filter((each) => !other.includes(each));
  return {
    kept: { id: kept.id, name: nameOf(kept) },
    gone: { id: gone.id, name: nameOf(gone) },
    differing,
    comesOver: [
      ...gone.ties.map(
        (tie, at) => `the identity on ${tie.key}${gone.addresses[at] ? `, ${gone.addresses[at]}` : ''}`,
      ),
      ...without(gone.tags, kept.tags).map((tag) => `the tag ${tag}`),
      ...without(gone.lists, kept.lists).map((list) => `the list ${list}`),
      'all conversations, runs and entries of the ledger',
    ],
  };
}

const SNAPSHOT = `
  select p.id, ${PERSON_COLUMNS} from person p
  where client_id = $1 and id = any ($2::uuid[]) order by id for update`;

/**
 * Makes one person out of two. `take` names what is the other's where both have a value; what only one has is
 * kept. Their conversations are locked, so that no event of either is decided meanwhile. Gives the id of the
 * merge; null when one of them is not there.
 */
export async function mergePeople(
  db: Connection,
  clientId: number,
  keptId: string,
  goneId: string,
  { take, by, now }: { take: readonly string[]; by: ChangedBy; now: number },
): Promise<string | null> {
  if (keptId === goneId) return null;
  await db.query(
    'select from conversation where client_id = $1 and person_id = any ($2::uuid[]) order by id for update',
    [clientId, [keptId, goneId]],
  );
  const { rows } = await db.query<Snapshot & { id: string }>(SNAPSHOT, [clientId, [keptId, goneId]]);
  const kept = rows.find((row) => row.id === keptId);
  const gone = rows.find((row) => row.id === goneId);
  if (!kept || !gone) return null;
  const theirs = (key: string, mine: unknown) => take.includes(key) || mine === null || mine === undefined;
  const fields = {
    ...gone.fields,
    ...Object.fromEntries(
      Object.entries(kept.fields).filter(([key]) => !(take.includes(key) && gone.fields[key])),
    ),
  };
  const history = { ...gone.history };
  for (const [loop, passage] of Object.entries(kept.history))
    if (!history[loop] || history[loop].started <= passage.started) history[loop] = passage;
  const moved = async (table: 'identity' | 'conversation' | 'booking') =>
    (
      await db.query<{ id: string }>(
        `update ${table} set person_id = $3 where client_id = $1 and person_id = $2 returning id`,
        [clientId, goneId, keptId],
      )
    ).rows.map((row) => row.id);
  const before: Before = {
    kept,
    gone,
    identities: await moved('identity'),
    conversations: await moved('conversation'),
    bookings: await moved('booking'),
  };
  await ownBookingChanges(db, clientId, before.bookings!, keptId);
  const together = (one: string[], other: string[]) => [...new Set([...one, ...other])].sort();
  await db.query(
    `
       update person set first_name = $3, last_name = $4, language = $5, fields = $6, changed = $7, tags = $8,
         lists = $9, history = $10,
       created_at = least(created_at, $11), last_seen_at = greatest(last_seen_at, $12)
       where client_id = $1 and id = $2`,
    [
      clientId,
      keptId,
      theirs('first name', kept.first_name) ? (gone.first_name ?? kept.first_name) : kept.first_name,
      theirs('last name', kept.last_name) ? (gone.last_name ?? kept.last_name) : kept.last_name,
      kept.language ?? gone.language,
      fields,
      { ...gone.changed, ...kept.changed },
      together(kept.tags, gone.tags),
      together(kept.lists, gone.lists),
      history,
      gone.created_at,
      gone.last_seen_at,
    ],
  );
  await noteFields(db, clientId, keptId, kept.fields, fields, by, now);
  // Whoever had become the one that goes is the kept one's now.
  await db.query('update merge set kept = $3 where client_id = $1 and kept = $2 and parted_at is null', [
    clientId,
    goneId,
    keptId,
  ]);
  for (const table of ['person_terms', 'contact'])
    await db.query(`delete from ${table} where client_id = $1 and person_id = $2`, [clientId, goneId]);
  await db.query('delete from person where client_id = $1 and id = $2', [clientId, goneId]);
  await agree(db, clientId, keptId);
  await indexPeople(db, clientId, [keptId]);
  const id = newId(now);
  await db.query(
    'insert into merge (client_id, id, kept, gone, before, at, by) values ($1, $2, $3, $4, $5, $6, $7)',
    [clientId, id, keptId, goneId, toJson(before), new Date(now), toJson(by)],
  );
  return id;
}

const ownBookingChanges = (db: Connection, clientId: number, bookings: string[], personId: string) =>
  db.query(
    'update booking_change set person_id = $3 where client_id = $1 and booking_id = any ($2::uuid[])',
    [clientId, bookings, personId],
  );

/** Adds what of a person's fields is another now to its history. */
async function noteFields(
  db: Connection,
  clientId: number,
  personId: string,
  before: Record<string, Value>,
  after: Record<string, Value>,
  by: ChangedBy,
  now: number,
): Promise<void> {
  const changed = Object.keys({ ...before, ...after }).filter(
    (field) => !sameJson(before[field], after[field]),
  );
  await db.query(
    `
     insert into field_change (client_id, person_id, field, before, after, at, by)
     select $1, $2, t.field, t.before, t.after, $4, $5
     from json_to_recordset($3::json) as t (field text, before jsonb, after jsonb)`,
    [
      clientId,
      personId,
      toJson(changed.map((field) => ({ field, before: before[field] ?? null, after: after[field] ?? null }))),
      new Date(now),
      toJson(by),
    ],
  );
}

/** An opt-out of everything by one of them is one of the person that they have become. */
async function agree(db: Connection, clientId: number, personId: string): Promise<void> {
  await db.query(
    `
     update conversation c set standing = c.standing || '{"optedOut": true, "optedIn": false}'
     where c.client_id = $1 and c.person_id = $2 and not coalesce((c.standing ->> 'optedOut')::boolean, false)
       and refusal($1, c.id, null, false) is not null`,
    [clientId, personId],
  );
}

/**
 * Parts two people again: the one that had gone is as it was, the other without what came over, where nobody
 * has changed that since. Null when it is too late or done.
 */
export async function partPeople(
  db: Connection,
  clientId: number,
  mergeId: string,
  { by, now }: { by: ChangedBy; now: number },
): Promise<{ kept: string; gone: string } | null> {
  const { rows } = await db.query<{ kept: string; gone: string; before: Before }>(
    `
      select kept, gone, before from merge where client_id = $1 and id = $2 and parted_at is null
        and at > $3 for update`,
    [clientId, mergeId, new Date(now - PARTED_WITHIN_MS)],
  );
  const merge = rows[0];
  if (!merge) return null;
  const { kept, gone, before } = merge;
  await db.query('select from conversation where client_id = $1 and person_id = $2 order by id for update', [
    clientId,
    kept,
  ]);
  const present = (await db.query<Snapshot>(SNAPSHOT, [clientId, [kept]])).rows[0];
  if (!present) return null;
  await db.query(
    `
     insert into person (client_id, id, ${INTO_PERSON})
     select $1, $2, ${PERSON_COLUMNS} from json_to_record($3::json) as p (${PERSON_RECORD})`,
    [clientId, gone, toJson(before.gone)],
  );
  await db.query('update identity set person_id = $3 where client_id = $1 and id = any ($2::uuid[])', [
    clientId,
    before.identities,
    gone,
  ]);
  await db.query('update conversation set person_id = $3 where client_id = $1 and id = any ($2::uuid[])', [
    clientId,
    before.conversations,
    gone,
  ]);
  // Those of before there were bookings moved none.
  const bookings = before.bookings ?? [];
  await db.query('update booking set person_id = $3 where client_id = $1 and id = any ($2::uuid[])', [
    clientId,
    bookings,
    gone,
  ]);
  await ownBookingChanges(db, clientId, bookings, gone);
  const fields = { ...present.fields };
  for (const [key, value] of Object.entries(before.gone.fields)) {
    if (!sameJson(present.fields[key], value) || sameJson(before.kept.fields[key], value)) continue;
    if (before.kept.fields[key]) fields[key] = before.kept.fields[key];
    else delete fields[key];
  }
  const cameOver = (had: string[], theirs: string[]) => theirs.filter((each) => !had.includes(each));
  const history = { ...present.history };
  for (const [loop, passage] of Object.entries(before.gone.history)) {
    if (!sameJson(history[loop], passage)) continue;
    if (before.kept.history[loop]) history[loop] = before.kept.history[loop];
    else delete history[loop];
  }
  const name = (mine: string | null, theirs: string | null, is: string | null) => (is === theirs ? mine : is);
  await db.query(
    `
      update person set first_name = $3, last_name = $4, language = $5, fields = $6, tags = $7, lists = $8,
        history = $9, created_at = $10 where client_id = $1 and id = $2`,
    [
      clientId,
      kept,
      name(before.kept.first_name, before.gone.first_name, present.first_name),
      name(before.kept.last_name, before.gone.last_name, present.last_name),
      name(before.kept.language, before.gone.language, present.language),
      fields,
      present.tags.filter((tag) => !cameOver(before.kept.tags, before.gone.tags).includes(tag)),
      present.lists.filter((list) => !cameOver(before.kept.lists, before.gone.lists).includes(list)),
      history,
      before.kept.created_at,
    ],
  );
  await noteFields(db, clientId, kept, present.fields, fields, by, now);
  await db.query('update merge set parted_at = $3 where client_id = $1 and id = $2', [
    clientId,
    mergeId,
    new Date(now),
  ]);
  await db.query(
    `
      insert into not_same (client_id, one, other, at)
      values ($1, least($2::uuid, $3::uuid), greatest($2::uuid, $3::uuid), $4) on conflict do nothing`,
    [clientId, kept, gone, new Date(now)],
  );
  await indexPeople(db, clientId, [kept, gone]);
  return { kept, gone };
}
