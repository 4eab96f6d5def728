import type { ChannelKind, FieldDefinition, Value } from '@dart-loop/core';
import type { CellWorld } from '@dart-loop/core/people/cellReading';
import type { PersonRecord } from '@dart-loop/core/people/record';
import type { ImportSpec } from '@dart-loop/contract';
import type { Connection, Db } from '../platform/db/pool';
import { newId } from '../platform/ids';
import { addressHash } from '../platform/secrets';
import { cellWorldOf } from './cellWorld';
import type { PersonChange } from './personChange';
import { readPeople, type KnownPerson } from './facts';
import type { ReadRow } from './rows';
import { contactOf } from './terms';

/** The client that people are brought to. */
export interface Setting {
  clientId: number;
  cells: CellWorld;
  fields: Map<string, Pick<FieldDefinition, 'type' | 'options'>>;
  lines: Map<string, { id: number; key: string; channel: ChannelKind }>;
}

/** What a client has that people are brought to: its fields, its lines, and how its texts are read. */
export async function settingOf(db: Connection | Db, clientId: number, now: number): Promise<Setting> {
  const { rows: fields } = await db.query<Pick<FieldDefinition, 'key' | 'type' | 'options'>>(
    'select key, type, options from field where client_id = $1',
    [clientId],
  );
  const { rows: lines } = await db.query<{ id: number; key: string; channel: ChannelKind }>(
    'select id, key, channel from line where client_id = $1',
    [clientId],
  );
  return {
    clientId,
    cells: await cellWorldOf(db, clientId, now),
    fields: new Map(fields.map(({ key, ...field }) => [key, field])),
    lines: new Map(lines.map((line) => [line.key, line])),
  };
}

export interface Met {
  id: string;
  known: KnownPerson | null;
}

/** What is there already of the people in some rows. */
export interface Meeting {
  /** By the row's number. */
  met: Map<number, Met>;
  /** Conversations by line and address: "3|+447700900144". */
  there: Map<string, { id: string; personId: string | null }>;
  /** Addresses of people who had opted out before they were erased. */
  erased: Set<string>;
}

/**
 * Who each row is: somebody who is known by id, address, number or email address, or somebody of an earlier
 * row, or somebody new.
 */
export async function meet(
  db: Connection,
  setting: Setting,
  rows: readonly ReadRow[],
  key: Buffer,
): Promise<Meeting> {
  const { clientId } = setting;
  const addressKey = ({ line, address }: PersonRecord['identities'][number]) =>
    `${setting.lines.get(line)?.id ?? 0}|${address}`;
  const addresses = rows.flatMap(({ record }) =>
    record.identities.map(({ line, address }) => ({ line: setting.lines.get(line)?.id ?? 0, address })),
  );
  const byContact = new Map(
    (
      await db.query<{ value: string; person_id: string }>({
        name: 'meet-contacts',
        text: `
          select value, min(person_id::text) as person_id from contact
          where client_id = $1 and value = any ($2) group by value`,
        values: [clientId, rows.flatMap(({ record }) => contactsOf(record))],
      })
    ).rows.map((row) => [row.value, row.person_id]),
  );
  const there = new Map(
    (
      await db.query<{ line_id: number; address: string; id: string; person_id: string | null }>({
        name: 'meet-addresses',
        text: `
               select c.line_id, c.address, c.id, c.person_id from conversation c
               join unnest($2::int[], $3::text[]) as t (line_id, address) on c.client_id = $1
                 and t.line_id = c.line_id and t.address = c.address`,
        values: [clientId, addresses.map(({ line }) => line), addresses.map(({ address }) => address)],
      })
    ).rows.map((row) => [`${row.line_id}|${row.address}`, { id: row.id, personId: row.person_id }]),
  );
  const hashes = new Map(
    addresses.map(({ line, address }) => [
      addressHash(key, clientId, line, address).toString('hex'),
      `${line}|${address}`,
    ]),
  );
  const erased = new Set(
    (
      await db.query<{ hash: string }>({
        name: 'meet-erased',
        text: `
          select encode(address_hash, 'hex') as hash from erased_opt_out
          where client_id = $1 and line_id = any ($2) and address_hash = any ($3)`,
        values: [
          clientId,
          addresses.map(({ line }) => line),
          [...hashes.keys()].map((hash) => Buffer.from(hash, 'hex')),
        ],
      })
    ).rows.map((row) => hashes.get(row.hash)!),
  );
  const found = new Set([
    ...rows.flatMap(({ record }) => record.id ?? []),
    ...byContact.values(),
    ...[...there.values()].flatMap(({ personId }) => personId ?? []),
  ]);
  const known = new Map((await readPeople(db, clientId, [...found])).map((person) => [person.id, person]));
  const inFile = new Map<string, string>();
  const met = new Map<number, Met>();
  for (const { number, record } of rows) {
    const keys = [...record.identities.map(addressKey), ...contactsOf(record)];
    // Two people of our own with the same number stay two: each is told from the other by their id.
    const own = record.id === null ? null : `id:${record.id}`;
    const before = own
      ? (inFile.get(own) ?? record.id)
      : keys
          .map((each) => inFile.get(each) ?? there.get(each)?.personId ?? byContact.get(each))
          .find((id) => id);
    const id = before ?? newId(setting.cells.now);
    met.set(number, { id, known: known.get(id) ?? null });
    for (const each of own ? [own] : keys) if (!inFile.has(each)) inFile.set(each, id);
  }
  return { met, there, erased };
}

const contactsOf = (record: PersonRecord): string[] => [
  ...Object.values(record.fields).flatMap((value: Value) => contactOf(value) ?? []),
  ...record.identities.flatMap(({ address }) => (address.startsWith('+') ? [`p:${address}`] : [])),
];

/**
 * What these people have opted out of by themselves or on the team's word: "everything", "line:3",
 * "list:News". No file takes that back.
 */
export async function optedOutBefore(
  db: Connection,
  clientId: number,
  ids: string[],
): Promise<Map<string, Set<string>>> {
  const { rows } = await db.query<{ person_id: string; about: string }>(
    `
     select person_id, about from (
       select distinct on (person_id, about) person_id, about, what from (
         select person_id, id, what, case scope when 'line' then 'line:' || line_id
           when 'list' then 'list:' || list else scope end as about
         from consent_now where client_id = $1 and person_id = any ($2::uuid[])) entries
       order by person_id, about, id desc) last
     where what = 'opt-out'`,
    [clientId, ids],
  );
  const out = new Map<string, Set<string>>();
  for (const { person_id, about } of rows) out.set(person_id, (out.get(person_id) ?? new Set()).add(about));
  return out;
}

/**
 * The record with an identity on every line that the file as a whole opts people in on, where it has a number
 * for it.
 */
export function withOptIns(record: PersonRecord, setting: Setting, spec: ImportSpec): PersonRecord {
  const number = Object.values(record.fields).find((value) => value.type === 'phone');
  const identities = [...record.identities];
  for (const line of spec.optIn) {
    const at = identities.findIndex((identity) => identity.line === line);
    const { channel } = setting.lines.get(line)!;
    if (at >= 0) identities[at] = { ...identities[at]!, consent: identities[at]!.consent ?? 'opted in' };
    else if (number && (channel === 'sms' || channel === 'whatsapp'))
      identities.push({ line, address: String(number.value), handle: null, consent: 'opted in' });
  }
  return { ...record, identities };
}

/**
 * What a row says of a person's identities, against what is there: whom an address belongs to already keeps
 * it, and an opt-out stands.
 */
export function identitiesOf(
  setting: Setting,
  record: PersonRecord,
  met: Met,
  { there, erased }: Meeting,
  out: ReadonlySet<string>,
) {
  const identities: NonNullable<PersonChange['identities']>[number][] = [];
  const optIns: { lineId: number }[] = [];
  const optOuts: { lineId: number }[] = [];
  let passedOver = 0;
  for (const { line: lineKey, address, handle, consent } of record.identities) {
    const line = setting.lines.get(lineKey);
    if (!line) continue;
    const key = `${line.id}|${address}`;
    const conversation = there.get(key);
    if (conversation?.personId && conversation.personId !== met.id) continue;
    if (!conversation) {
      const id = newId(setting.cells.now);
      identities.push({ id, lineId: line.id, line, address, handle });
      there.set(key, { id, personId: met.id });
    }
    const isErased = erased.has(key);
    const refuses = out.has('everything') || out.has(`line:${line.id}`) || isErased;
    if (consent === 'opted in' && refuses) passedOver++;
    if (consent === 'opted out' || (!conversation && isErased)) optOuts.push({ lineId: line.id });
    else if (consent === 'opted in' && !refuses) optIns.push({ lineId: line.id });
  }
  return { identities, optIns, optOuts, passedOver };
}
