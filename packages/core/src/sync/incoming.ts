import { z } from 'zod';
import { FieldKey } from '../loops/model/basics';
import { FieldType, type Value } from '../people/person';
import type { CellWorld } from '../people/cellReading';
import { guessMapping, type KnownToMapping } from '../people/mapping';
import type { Given } from './given';
import { cellOf, convert, type Cell, type Mapping } from './mapping';
import { valueAt } from './path';
import { Winner } from './settle';

export const BodyPath = z
  .string()
  .regex(/^[^.\s][^.]*(\.[^.]+)*$/, 'a path is names with dots between, such as "contact.email"')
  .max(200);

/** What a part of a body goes into. */
export const Into = z.discriminatedUnion('as', [
  z.object({ as: z.literal('first name') }).strict(),
  z.object({ as: z.literal('last name') }).strict(),
  z.object({ as: z.literal('whole name') }).strict(),
  z.object({ as: z.literal('language') }).strict(),
  z.object({ as: z.literal('tags') }).strict(),
  z.object({ as: z.literal('field'), field: FieldKey, type: FieldType }).strict(),
]);
export type Into = z.infer<typeof Into>;

/**
 * By what a body names its person: our id, the id that the other side has given, an email address, a number.
 */
export const WHO_BY = ['their id', 'email', 'phone', 'id'] as const;
export type WhoBy = (typeof WHO_BY)[number];

/**
 * How bodies of another system are read: who is meant, when it was changed over there, and what goes where,
 * with who wins.
 */
export const IncomingMapping = z
  .object({
    /** Tried in this order; the first that finds somebody says who it is. */
    who: z
      .array(z.object({ by: z.enum(WHO_BY), from: BodyPath }).strict())
      .min(1, 'say what in it tells who it is')
      .max(WHO_BY.length),
    changedAt: BodyPath.nullable().default(null),
    /** When a name or language was changed here nobody knows: there the newest is theirs. */
    parts: z
      .array(z.object({ from: BodyPath, into: Into, wins: Winner.default('theirs') }).strict())
      .max(100),
  })
  .strict()
  .superRefine(({ parts, who }, context) => {
    const taken = new Set<string>();
    parts.forEach(({ into }, at) => {
      const key = into.as === 'field' ? `the field “${into.field}”` : into.as;
      if (taken.has(key))
        context.addIssue({ code: 'custom', path: ['parts', at, 'into'], message: `${key} is filled twice` });
      taken.add(key);
    });
    if (new Set(who.map(({ by }) => by)).size !== who.length)
      context.addIssue({
        code: 'custom',
        path: ['who'],
        message: 'each way of saying who it is stands once',
      });
  });
export type IncomingMapping = z.infer<typeof IncomingMapping>;

/** What a body says. A path that leads nowhere says nothing; null says that there is nothing. */
export interface Heard {
  who: { by: WhoBy; value: string }[];
  /** ms; null where the body does not say. */
  at: number | null;
  names: { what: 'first name' | 'last name' | 'language'; value: string | null; wins: Winner }[];
  tags: string[];
  fields: Record<string, { given: Given; wins: Winner }>;
  /** What could not be made anything of, in sentences. */
  passedOver: string[];
}

/** Reads a body as the mapping says. */
export function readIncoming({ who, changedAt, parts }: IncomingMapping, body: unknown): Heard {
  const heard: Heard = {
    who: [],
    at: changedAt === null ? null : momentOf(valueAt(body, changedAt)),
    names: [],
    tags: [],
    fields: {},
    passedOver: [],
  };
  for (const { by, from } of who) {
    const value = valueAt(body, from);
    if ((typeof value === 'string' && value.trim() !== '') || typeof value === 'number')
      heard.who.push({ by, value: String(value).trim() });
  }
  if (changedAt !== null && heard.at === null && valueAt(body, changedAt) !== undefined)
    heard.passedOver.push(`${changedAt}: it is no moment, so what it tells counts from now`);
  for (const { from, into, wins } of parts) {
    const value = valueAt(body, from);
    if (value === undefined) continue;
    const given = asGiven(value);
    if (given === undefined) {
      heard.passedOver.push(`${from}: it is neither one value nor a list of texts`);
      continue;
    }
    if (into.as === 'field') heard.fields[into.field] = { given, wins };
    else if (into.as === 'tags') heard.tags.push(...textsOf(given));
    else heard.names.push(...namesIn(into.as, textsOf(given).join(' ').trim(), wins));
  }
  return heard;
}

function namesIn(
  as: 'first name' | 'last name' | 'whole name' | 'language',
  text: string,
  wins: Winner,
): Heard['names'] {
  const value = text === '' ? null : text.slice(0, 120);
  if (as === 'language')
    return value !== null && /^[a-z]{2}\b/i.test(value)
      ? [{ what: as, value: value.slice(0, 2).toLowerCase(), wins }]
      : [];
  if (as !== 'whole name') return [{ what: as, value, wins }];
  const [first, ...last] = (value ?? '').split(/\s+/);
  return [
    { what: 'first name', value: first || null, wins },
    { what: 'last name', value: last.join(' ') || null, wins },
  ];
}

const textsOf = (given: Given): string[] =>
  given === null ? [] : Array.isArray(given) ? given : String(given) === '' ? [] : [String(given)];

function asGiven(value: unknown): Given | undefined {
  if (value === null || typeof value === 'string' || typeof value === 'number' || typeof value === 'boolean')
    return value;
  return Array.isArray(value) && value.every((each) => typeof each === 'string') ? value : undefined;
}

/**
 * A moment as systems write them: ISO 8601, or seconds or milliseconds since 1970; ms, null for anything
 * else.
 */
export function momentOf(value: unknown): number | null {
  if (typeof value === 'number' || (typeof value === 'string' && /^\d{9,14}$/.test(value))) {
    const number = Number(value);
    return number > 1e11 ? number : number > 1e8 ? number * 1_000 : null;
  }
  const at = typeof value === 'string' && /^\d{4}-\d{2}-\d{2}/.test(value) ? Date.parse(value) : NaN;
  return Number.isNaN(at) ? null : at;
}

/** A value of a body that can be pointed at. */
export interface Leaf {
  path: string;
  value: string | number | boolean | null | string[];
}
const MOST_LEAVES = 200;

/** Every single value of a body, and every list of texts, in its order. */
export function leavesOf(body: unknown): Leaf[] {
  const leaves: Leaf[] = [];
  const walk = (value: unknown, path: string) => {
    if (leaves.length >= MOST_LEAVES) return;
    const given = asGiven(value);
    if (given !== undefined) {
      if (path !== '') leaves.push({ path, value: given });
      return;
    }
    if (value === null || typeof value !== 'object') return;
    for (const [key, each] of Object.entries(value))
      if (key !== '' && !key.includes('.')) walk(each, path === '' ? key : `${path}.${key}`);
  };
  walk(body, '');
  return leaves;
}

/**
 * What each part of a received body probably is; by its name first, then by what it looks like. `tied`:
 * whether it comes from a destination that knows ids.
 */
export function guessIncoming(
  body: unknown,
  known: KnownToMapping,
  world: CellWorld,
  tied: boolean,
): IncomingMapping {
  const leaves = leavesOf(body);
  const nameOf = (path: string) => path.split('.').at(-1)!;
  const words = ({ value }: Leaf) =>
    value === null ? '' : Array.isArray(value) ? value.join('; ') : String(value);
  const columns = guessMapping(
    leaves.map(({ path }) => nameOf(path).replace(/_/g, ' ')),
    [leaves.map(words)],
    known,
    world,
  );
  const mapping: IncomingMapping = { who: [], changedAt: null, parts: [] };
  leaves.forEach((leaf, at) => {
    const { path } = leaf;
    const { use } = columns[at]!;
    if (
      mapping.changedAt === null &&
      /(changed|updated|modified|occurred)/i.test(nameOf(path)) &&
      momentOf(leaf.value) !== null
    )
      mapping.changedAt = path;
    else if (tied && /^id$/i.test(nameOf(path)) && /(contact|customer|person|data)/i.test(path))
      mapping.who.unshift({ by: 'their id', from: path });
    else if (use.as === 'field' && (use.field === 'email' || use.field === 'phone')) {
      mapping.who.push({ by: use.field, from: path });
      mapping.parts.push({ from: path, into: use, wins: 'newest' });
    } else if (use.as === 'field' && known.fields.some(({ key }) => key === use.field))
      mapping.parts.push({ from: path, into: use, wins: 'newest' });
    else if (
      use.as === 'first name' ||
      use.as === 'last name' ||
      use.as === 'whole name' ||
      use.as === 'language' ||
      use.as === 'tags'
    )
      mapping.parts.push({ from: path, into: use, wins: 'theirs' });
  });
  return mapping;
}

/** What stands in a column in which nothing stands. */
export const NOTHING = '';

/**
 * The columns of a destination that a field goes into as it is, with the cell that a value is there; {@link
 * NOTHING} where there is none.
 */
export function columnsFor(
  mapping: Mapping,
  field: string,
  value: Value | null,
): { column: string; cell: Cell }[] {
  return mapping.flatMap(({ to, as, origin }) => {
    if (origin.from !== 'field' || origin.field !== field) return [];
    if (value === null) return [{ column: to, cell: NOTHING }];
    const converted = convert(cellOf(value), as);
    return converted.ok ? [{ column: to, cell: converted.value }] : [];
  });
}
