import type { Condition } from '../people/condition';
import { conditionWords } from '../people/conditionWords';
import type { MappedColumn, Mapping, Origin } from './mapping';

/**
 * What of a destination is the same for every client it is copied to; its address and token are each client's
 * own.
 */
export interface CopiedDestination {
  kind: string;
  settings: Readonly<Record<string, unknown>>;
  mapping: Mapping;
  triggers: Readonly<Record<string, unknown>>;
  who: Condition | null;
}

/** What a copy has otherwise than what it was copied from, in sentences; empty where they are the same. */
export function copyDifferences(from: CopiedDestination, copy: CopiedDestination): string[] {
  if (from.kind !== copy.kind) return ['It is of another kind.'];
  const found: string[] = [];
  const settings = new Set([...Object.keys(from.settings), ...Object.keys(copy.settings)]);
  for (const name of settings)
    if (name !== 'address' && !isSame(from.settings[name], copy.settings[name]))
      found.push(`Set up otherwise: ${spoken(name)}.`);
  for (const column of from.mapping) {
    const own = copy.mapping.find(({ to }) => to === column.to);
    if (!own) found.push(`The column ${column.to} is missing.`);
    else if (!isSame(own, column))
      found.push(`The column ${column.to} takes ${wordsOf(own)} there, ${wordsOf(column)} here.`);
  }
  for (const { to } of copy.mapping)
    if (!from.mapping.some((column) => column.to === to)) found.push(`It has a column ${to} of its own.`);
  if (!isSame(from.triggers, copy.triggers)) found.push('Other changes bring a delivery about.');
  if (!isSame(from.who, copy.who))
    found.push(`It is for ${whomOf(copy.who)} there, ${whomOf(from.who)} here.`);
  return found;
}

const isSame = (one: unknown, other: unknown): boolean =>
  JSON.stringify(inOrder(one)) === JSON.stringify(inOrder(other));
/** JSON with its keys in order, as databases give them back in theirs. */
function inOrder(value: unknown): unknown {
  if (Array.isArray(value)) return value.map(inOrder);
  if (value === null || typeof value !== 'object') return value;
  return Object.fromEntries(
    Object.entries(value)
      .filter(([, each]) => each !== undefined)
      .sort(([a], [b]) => (a < b ? -1 : 1))
      .map(([key, each]) => [key, inOrder(each)]),
  );
}

const spoken = (setting: string): string =>
  ({
    findBy: 'the column a contact is found by',
    listAt: 'where the list stands',
    idAt: 'where the id stands',
    key: 'the column that names a row',
    body: 'the body',
  })[setting] ?? setting;
const whomOf = (who: Condition | null): string => (who ? `“${conditionWords(who)}”` : 'everybody');
const originOf = (origin: Origin): string =>
  origin.from === 'field'
    ? `the field ${origin.field}`
    : origin.from === 'fact'
      ? `their ${origin.fact}`
      : `“${origin.text}”`;
const wordsOf = ({ origin, as, otherwise }: MappedColumn): string =>
  `${originOf(origin)} as ${as}${otherwise ? `, else “${otherwise}”` : ''}`;

/** The fields that a mapping and its sentence need a client to have. */
export function fieldsNeeded({
  mapping,
  triggers,
  who,
}: Pick<CopiedDestination, 'mapping' | 'triggers' | 'who'>): string[] {
  const fields = new Set(mapping.flatMap(({ origin }) => (origin.from === 'field' ? [origin.field] : [])));
  if (Array.isArray(triggers.fields)) for (const field of triggers.fields as string[]) fields.add(field);
  const walk = (condition: Condition): void => {
    if (condition.field) fields.add(condition.field);
    for (const part of [
      ...(condition.all ?? []),
      ...(condition.any ?? []),
      ...(condition.not ? [condition.not] : []),
    ])
      walk(part);
  };
  if (who) walk(who);
  return [...fields];
}

/**
 * A loop or calendar that triggers name and that the client has not: without it they never bring anything
 * about.
 */
export interface MissingName {
  what: 'loop' | 'calendar';
  name: string;
}

/** What of the names that triggers give a client has not, whatever their case. */
export function namesMissing(
  triggers: CopiedDestination['triggers'],
  there: { loops: readonly string[]; calendars: readonly string[] },
): MissingName[] {
  const missing = (what: MissingName['what'], wanted: unknown, names: readonly string[]): MissingName[] =>
    (Array.isArray(wanted) ? (wanted as string[]) : [])
      .filter((name) => !names.some((each) => each.toLowerCase() === name.toLowerCase()))
      .map((name) => ({ what, name }));
  return [
    ...missing('loop', triggers.runs, there.loops),
    ...missing('calendar', triggers.bookings, there.calendars),
  ];
}
