import { z } from 'zod';
import { FieldKey } from '../loops/model/basics';
import type { ClientFacts } from '../people/client';
import {
  languageOf,
  valueWords,
  FieldType,
  type FieldTypes,
  type PersonFacts,
  type Value,
} from '../people/person';
import { localTime } from '../time/zones';
import { merge, parseMerge, type MergeWorld } from '../language/merge';

/** What a column of another system takes. */
export const ColumnType = z.enum(['text', 'number', 'date', 'time', 'yes/no', 'list']);
export type ColumnType = z.infer<typeof ColumnType>;

/** What is known of everybody, beside their fields. */
export const FACTS = [
  'id',
  'name',
  'first name',
  'last name',
  'phone',
  'email',
  'language',
  'tags',
  'lists',
  'source',
  'first met',
  'last seen',
] as const;
export type Fact = (typeof FACTS)[number];

/**
 * Where a column's value comes from: a field, something that is known of everybody, or a text with merge
 * fields.
 */
export const Origin = z.discriminatedUnion('from', [
  z.object({ from: z.literal('field'), field: FieldKey }).strict(),
  z.object({ from: z.literal('fact'), fact: z.enum(FACTS) }).strict(),
  z.object({ from: z.literal('text'), text: z.string().max(2_000) }).strict(),
]);
export type Origin = z.infer<typeof Origin>;

/** One column of theirs and what goes into it. */
export const MappedColumn = z
  .object({
    to: z
      .string()
      .trim()
      .min(1, 'a column needs a name')
      .max(100, 'the name of a column has at most 100 characters'),
    as: ColumnType,
    origin: Origin,
    /** What goes out where nothing is known; read as the column's type. */
    otherwise: z.string().max(500).optional(),
  })
  .strict();
export type MappedColumn = z.infer<typeof MappedColumn>;

export const Mapping = z
  .array(MappedColumn)
  .max(100, 'a mapping has at most 100 columns')
  .superRefine((columns, context) => {
    const seen = new Set<string>();
    columns.forEach(({ to }, at) => {
      if (seen.has(to))
        context.addIssue({ code: 'custom', path: [at, 'to'], message: `the column “${to}” is filled twice` });
      seen.add(to);
    });
  });
export type Mapping = z.infer<typeof Mapping>;

/** A column as the other system describes it. */
export interface TheirColumn {
  name: string;
  type: ColumnType;
  required: boolean;
}

/** Whom something is sent out about. */
export interface SyncedPerson extends PersonFacts {
  /** Addresses and handles of their identities. */
  addresses: string[];
}

export type Cell = string | number | boolean | string[];
/** What goes into one column, or why nothing can. */
export type Converted = { ok: true; value: Cell } | { ok: false; reason: string };

/**
 * A row as it goes out: columns that nothing is known for are left out, so that nothing of theirs is wiped by
 * our not knowing.
 */
export interface Row {
  cells: Record<string, Cell>;
  problems: { column: string; reason: string }[];
}

/** What is known of somebody, in the columns of another system. `now` in ms. */
export function rowOf(mapping: Mapping, person: SyncedPerson, client: ClientFacts, now: number): Row {
  const cells: Record<string, Cell> = {};
  const problems: Row['problems'] = [];
  for (const column of mapping) {
    const known = originValue(column.origin, person, client, now);
    const given =
      known ?? (column.otherwise === undefined || column.otherwise === '' ? null : column.otherwise);
    if (given === null) continue;
    const converted = convert(given, column.as);
    if (converted.ok) cells[column.to] = converted.value;
    else problems.push({ column: column.to, reason: converted.reason });
  }
  return { cells, problems };
}

/** What merge fields stand for outside of any conversation. */
export const worldOf = (person: PersonFacts, client: ClientFacts, now: number): MergeWorld => ({
  client,
  line: { key: '', name: '', channel: 'sms' },
  person,
  answers: {},
  language: languageOf(person, client),
  now,
  zone: client.timeZone,
});

/**
 * What the origin says of a person: a cell, or null when nothing is known. Moments are days in the client's
 * time zone.
 */
export function originValue(
  origin: Origin,
  person: SyncedPerson,
  client: ClientFacts,
  now: number,
): Cell | null {
  switch (origin.from) {
    case 'field': {
      const value = person.fields[origin.field];
      return value ? cellOf(value) : null;
    }
    case 'text': {
      return merge(origin.text, worldOf(person, client, now)) || null;
    }
    case 'fact':
      return factValue(origin.fact, person, client);
  }
}

/** A value as a column starts from it. */
export const cellOf = (value: Value): Cell =>
  value.type === 'number' || value.type === 'yes/no' || value.type === 'several of'
    ? value.value
    : valueWords(value);

function factValue(fact: Fact, person: SyncedPerson, client: ClientFacts): Cell | null {
  const ofType = (type: FieldType) => Object.values(person.fields).find((value) => value.type === type);
  const day = (ms: number) => localTime(ms, client.timeZone).date;
  switch (fact) {
    case 'id':
      return person.id;
    case 'name':
      return [person.firstName, person.lastName].filter(Boolean).join(' ') || null;
    case 'first name':
      return person.firstName;
    case 'last name':
      return person.lastName;
    case 'phone': {
      const own = person.fields.phone ?? ofType('phone');
      return own ? valueWords(own) : (person.addresses.find((address) => address.startsWith('+')) ?? null);
    }
    case 'email': {
      const own = person.fields.email ?? ofType('email');
      return own ? valueWords(own) : null;
    }
    case 'language':
      return languageOf(person, client);
    case 'tags':
      return person.tags;
    case 'lists':
      return person.lists;
    case 'source':
      return person.source;
    case 'first met':
      return day(person.met);
    case 'last seen':
      return day(person.seen);
  }
}

/**
 * Reads a value as the column takes it. A number that JSON could not carry to the last digit is refused
 * rather than changed.
 */
export function convert(value: Cell, as: ColumnType): Converted {
  const words = Array.isArray(value)
    ? value.join('; ')
    : value === true
      ? 'yes'
      : value === false
        ? 'no'
        : String(value);
  const not = (what: string): Converted => ({ ok: false, reason: `“${words.slice(0, 60)}” is not ${what}` });
  switch (as) {
    case 'text':
      return { ok: true, value: words };
    case 'list':
      return { ok: true, value: Array.isArray(value) ? value : [words] };
    case 'number': {
      const bare = words.trim();
      if (!/^[+-]?(\d+(\.\d*)?|\.\d+)(e[+-]?\d+)?$/i.test(bare)) return not('a number');
      if (bare.replace(/e.*$/i, '').replace(/\D/g, '').replace(/^0+/, '').length > 15)
        return {
          ok: false,
          reason: `“${bare.slice(0, 60)}” has more digits than a number carries; map it as text`,
        };
      return { ok: true, value: Number(bare) };
    }
    case 'date':
      return /^\d{4}-\d{2}-\d{2}$/.test(words)
        ? { ok: true, value: words }
        : not('a date such as 2026-11-26');
    case 'time':
      return /^\d{2}:\d{2}$/.test(words) ? { ok: true, value: words } : not('a time such as 14:30');
    case 'yes/no':
      if (/^(yes|true|1)$/i.test(words)) return { ok: true, value: true };
      return /^(no|false|0)$/i.test(words) ? { ok: true, value: false } : not('yes or no');
  }
}

/** Something about a mapping that will not work (`stops`) or may not. */
export interface MappingFinding {
  stops: boolean;
  column: string;
  reason: string;
}

/** What of a field of this type fits into a column without being looked at one by one. */
const FITS: Record<ColumnType, readonly FieldType[]> = {
  text: FieldType.options,
  list: FieldType.options,
  number: ['number'],
  date: ['date'],
  time: ['time'],
  'yes/no': ['yes/no'],
};

/**
 * What is wrong with a mapping before anything goes out. `theirs`: their columns, where the other side can
 * say.
 */
export function mappingFindings(
  mapping: Mapping,
  types: FieldTypes,
  theirs: readonly TheirColumn[] | null,
): MappingFinding[] {
  const findings: MappingFinding[] = [];
  for (const column of mapping) {
    const { to, as, origin } = column;
    const there = theirs?.find(({ name }) => name === to);
    if (theirs && !there)
      findings.push({ stops: true, column: to, reason: 'The other side has no such column.' });
    if (there && there.type !== as)
      findings.push({
        stops: true,
        column: to,
        reason: `The other side takes ${wordsOfType(there.type)} here, and gets ${wordsOfType(as)}.`,
      });
    if (origin.from === 'field') {
      const type = types[origin.field];
      if (!type)
        findings.push({ stops: true, column: to, reason: `The client has no field “${origin.field}”.` });
      else if (!FITS[as].includes(type))
        findings.push({
          stops: false,
          column: to,
          reason: `“${origin.field}” is ${type}: what is not ${wordsOfType(as)} is left out.`,
        });
    }
    if (origin.from === 'text')
      for (const { reason } of parseMerge(origin.text).problems)
        findings.push({ stops: true, column: to, reason: `${reason}.` });
    if (column.otherwise) {
      const read = convert(column.otherwise, as);
      if (!read.ok)
        findings.push({ stops: true, column: to, reason: `What goes out otherwise: ${read.reason}.` });
    }
  }
  for (const { name, required } of theirs ?? [])
    if (required && !mapping.some(({ to }) => to === name))
      findings.push({
        stops: true,
        column: name,
        reason: 'The other side needs this column, and nothing goes into it.',
      });
  return findings;
}

const wordsOfType = (type: ColumnType): string =>
  type === 'yes/no' ? 'yes or no' : type === 'text' ? 'text' : `a ${type}`;
