import { stranger, type FieldTypes } from '@dart-loop/core';
import type { Connection } from '../platform/db/pool';
import { cuesChanged } from '../loops/cueRevision';
import { readPeople, writeTerms, type KnownPerson } from './facts';
import {
  setStandings,
  standingOf,
  writeFields,
  writeIdentities,
  writeLedger,
  writeMarks,
  writePeople,
} from './changeRows';
import type { Changed, Changing, PersonChange } from './personChange';
import { sameJson } from '@dart-loop/core/sameJson';

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
  await writePeople(db, clientId, changed);
  await writeIdentities(db, changing, changed);
  await writeFields(db, changing, changed);
  await writeMarks(db, changing, 'tag', changed);
  await writeMarks(db, changing, 'list', changed);
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
    return sameJson(was, after) ? [] : [{ field, before: was, after }];
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
