import { nobodyFound, wrong } from '../platform/problem';
import { readReply, type ChannelKind, type FieldType, type Value } from '@dart-loop/core';
import { emptyRecord, type PersonRecord } from '@dart-loop/core/people/record';
import { readGiven, type Given } from '@dart-loop/core/sync/given';
import { settled, type Winner } from '@dart-loop/core/sync/settle';
import type { PersonBy } from '@dart-loop/contract';
import type { Connection } from '../platform/db/pool';
import type { ChangedBy } from '../conversations/changes';
import { wordingsOf } from './actions';
import { changePeople, makeMissing } from './change';
import type { PersonChange } from './personChange';
import { readPeople, type KnownPerson } from './facts';
import { identitiesOf, meet, optedOutBefore, type Meeting, type Met, type Setting } from './meeting';
import { raiseCues } from './starting';
import { contactOf } from './terms';

/** What another system says of one person. Moments in ms. */
export interface Told {
  by: PersonBy;
  firstName?: string | null;
  lastName?: string | null;
  language?: string | null;
  /** Of these, those that only fill what we do not know. */
  onlyGaps?: readonly ('firstName' | 'lastName' | 'language')[];
  /** Each with who wins where we know another value. */
  fields: Record<string, { given: Given; wins: Winner }>;
  tags?: { on?: readonly string[]; off?: readonly string[] };
  lists?: { on?: readonly string[]; off?: readonly string[] };
  identities?: readonly { line: string; address: string; optIn: boolean }[];
  /** What the opt-ins rest on. */
  stated: string | null;
  /** When it was changed over there. */
  at: number;
  /** Where somebody new comes from. */
  source: string;
}

export interface Upserted {
  made: boolean;
  person: KnownPerson;
  /** The fields that are others now. */
  changed: string[];
  /** What was not taken, in sentences. */
  passedOver: string[];
  /** Fields whose value of ours stayed, though theirs is another. */
  kept: string[];
}

/**
 * Takes what another system says of a person: they are found, or made, and changed, all in the caller's
 * transaction. Throws what cannot be taken, by the part it stands in.
 */
export async function upsertPerson(
  db: Connection,
  setting: Setting,
  told: Told,
  by: ChangedBy,
  key: Buffer,
): Promise<Upserted> {
  const { clientId } = setting;
  const { now } = setting.cells;
  const { record: named, value: namedBy } = recordBy(told.by, setting);
  const values = Object.entries(readFields(told.fields, setting));
  const reached = { ...emptyRecord(), identities: identitiesIn(told, setting) };
  await oneAtATime(db, clientId, [named, reached]);
  const rows = [named, reached].map((record, number) => ({ number, record, problems: [] }));
  const meeting = await meet(db, setting, rows, key);
  const met =
    [0, 1].map((number) => meeting.met.get(number)!).find(({ known }) => known) ?? meeting.met.get(0)!;
  // Nobody else changes them between the look at what is known and the change.
  const known = met.known && ((await readPeople(db, clientId, [met.id], true))[0] ?? null);
  if (!known && told.by.id !== undefined) throw nobodyFound('by.id', 'the client has nobody with this id');

  const { fields, kept } = settle(values, known, told.at);
  const passedOver = kept.map((field) => `${field}: what we know stays`);
  // Whom nobody was found by, that is news of the person.
  const place = namedBy && !meeting.met.get(0)!.known ? placeFor(namedBy.type, setting) : null;
  if (place !== null && !values.some(([field]) => field === place)) fields[place] = namedBy;
  const used = Object.entries(fields).flatMap(([field, value]) =>
    value ? [[field, value.type] as const] : [],
  );
  await makeMissing(db, setting, Object.fromEntries(used));

  const out = known
    ? ((await optedOutBefore(db, clientId, [known.id])).get(known.id) ?? new Set<string>())
    : new Set<string>();
  const listsOn = (told.lists?.on ?? []).filter((list) => {
    const refused = out.has('everything') || out.has(`list:${list}`);
    if (refused) passedOver.push(`list ${list}: they have opted out of it, and only they can join it again`);
    return !refused;
  });
  if (listsOn.length > 0)
    await db.query(
      'insert into list (client_id, name) select $1, unnest($2::text[]) on conflict do nothing',
      [clientId, listsOn],
    );
  const reaching = reachedAt(setting, reached, met, meeting, out, passedOver);
  const [changed] = await changePeople(
    db,
    { clientId, now, by, stated: told.stated, wordings: await wordingsOf(db, clientId) },
    [
      {
        id: met.id,
        ...(!known && { isNew: { source: told.source } }),
        ...namesOf(told, known),
        fields,
        fieldsAt: Math.min(told.at, now),
        tags: told.tags,
        lists: { on: listsOn, off: told.lists?.off },
        ...reaching,
      },
    ],
  );
  await raiseCues(db, clientId, [changed!], now);
  return {
    made: !known,
    person: changed!.after,
    changed: changed!.fields.map(({ field }) => field),
    passedOver,
    kept,
  };
}

/** What becomes of each field, and which keep a value of ours that is another than theirs. */
function settle(
  values: readonly [string, { value: Value | null; wins: Winner }][],
  known: Met['known'],
  toldAt: number,
): { fields: Record<string, Value | null>; kept: string[] } {
  const fields: Record<string, Value | null> = {};
  const kept: string[] = [];
  for (const [field, { value, wins }] of values) {
    const ours = known?.fields[field];
    const at = known?.changed[field] ?? 0;
    if (value === null) {
      if (!ours || wins === 'theirs' || (wins === 'newest' && toldAt > at)) fields[field] = null;
      else kept.push(field);
      continue;
    }
    const outcome = settled(wins, ours ? { value: ours, at } : null, { value, at: toldAt });
    if (outcome === 'take') fields[field] = value;
    if (outcome === 'keep') kept.push(field);
  }
  return { fields, kept };
}

function namesOf(told: Told, known: Met['known']): Pick<PersonChange, 'firstName' | 'lastName' | 'language'> {
  const of = (what: 'firstName' | 'lastName' | 'language') =>
    told.onlyGaps?.includes(what) && known?.[what] ? undefined : told[what];
  return { firstName: of('firstName'), lastName: of('lastName'), language: of('language') };
}

/** Who is meant, as a file would say it; with the address they are named by. */
function recordBy(by: PersonBy, { cells }: Setting): { record: PersonRecord; value: Value | null } {
  if (by.id !== undefined) return { record: { ...emptyRecord(), id: by.id }, value: null };
  const [key, written] =
    by.email !== undefined ? (['email', by.email] as const) : (['phone', by.phone!] as const);
  const reading = readReply(key, written, cells);
  if (!reading.ok) throw wrong(`by.${key}`, `“${written}” does not fit: ${reading.reason}`);
  return { record: { ...emptyRecord(), fields: { [key]: reading.value } }, value: reading.value };
}

/**
 * The field that an address of this type goes into: the one of that name, else the first of that type; null
 * where the name is taken by another type.
 */
function placeFor(type: FieldType, { fields }: Setting): string | null {
  const own = fields.get(type);
  if (!own || own.type === type) return type;
  return [...fields].find(([, field]) => field.type === type)?.[0] ?? null;
}

/** Reads what is told of fields as the client's types take it. Throws what cannot be taken, by its part. */
export function readFields(
  fields: Told['fields'],
  setting: Setting,
): Record<string, { value: Value | null; wins: Winner }> {
  const read = Object.entries(fields).map(([key, { given, wins }]) => {
    // What anybody is reached by need not have been thought of before.
    const field =
      setting.fields.get(key) ?? (key === 'email' || key === 'phone' ? { type: key, options: [] } : null);
    if (!field) throw wrong(`fields.${key}`, `the client has no field “${key}”`);
    const reading = readGiven(field, given, setting.cells);
    if (reading && !reading.ok)
      throw wrong(`fields.${key}`, `“${String(given).slice(0, 60)}” does not fit: ${reading.reason}`);
    return [key, { value: reading && reading.value, wins }] as const;
  });
  return Object.fromEntries(read);
}

const REACHED_BY_NUMBER: readonly ChannelKind[] = ['sms', 'whatsapp'];

function identitiesIn({ identities = [] }: Told, setting: Setting): PersonRecord['identities'] {
  return identities.map(({ line: key, address, optIn }, at) => {
    const line = setting.lines.get(key);
    if (!line) throw wrong(`identities.${at}.line`, `the client has no line “${key}”`);
    if (!REACHED_BY_NUMBER.includes(line.channel))
      throw wrong(
        `identities.${at}.line`,
        `on “${key}” people are met when they write; only numbers on SMS and WhatsApp can be given`,
      );
    const reading = readReply('phone' satisfies FieldType, address, setting.cells);
    if (!reading.ok) throw wrong(`identities.${at}.address`, `“${address}” does not fit: ${reading.reason}`);
    return {
      line: key,
      address: String(reading.value.value),
      handle: null,
      consent: optIn ? 'opted in' : null,
    };
  });
}

/**
 * Two calls about the same email or number wait for each other: one person is made, not two. Locks end with
 * the transaction.
 */
async function oneAtATime(db: Connection, clientId: number, records: readonly PersonRecord[]): Promise<void> {
  const keys = records.flatMap((record) => [
    ...Object.values(record.fields).flatMap((value) => contactOf(value) ?? []),
    ...record.identities.map(({ address }) => `p:${address}`),
  ]);
  for (const key of [...new Set(keys)].sort())
    await db.query('select pg_advisory_xact_lock($1, hashtext($2))', [clientId, key]);
}

function reachedAt(
  setting: Setting,
  record: PersonRecord,
  met: Met,
  meeting: Meeting,
  out: ReadonlySet<string>,
  passedOver: string[],
): Pick<PersonChange, 'identities' | 'optIns' | 'optOuts'> {
  for (const { line, address } of record.identities) {
    const owner = meeting.there.get(`${setting.lines.get(line)!.id}|${address}`)?.personId;
    if (owner && owner !== met.id) passedOver.push(`${address} on ${line}: it belongs to somebody else`);
  }
  const {
    identities,
    optIns,
    optOuts,
    passedOver: refused,
  } = identitiesOf(setting, record, met, meeting, out);
  if (refused > 0)
    passedOver.push('opt-ins on lines: they have opted out there, and only they can opt in again');
  // Whoever has opted in already does not do so again with every call.
  const isIn = (lineId: number) => {
    const line = [...setting.lines.values()].find(({ id }) => id === lineId);
    return met.known?.ties.some(({ key, optedIn }) => key === line?.key && optedIn) ?? false;
  };
  return { identities, optIns: optIns.filter(({ lineId }) => !isIn(lineId)), optOuts };
}
