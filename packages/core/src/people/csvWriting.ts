import { valueWords, type Value } from './person';
import { defused } from './formulas';
import type { PersonRecord } from './record';

/**
 * The columns of our own files, before those of the fields, which go by their keys. Every one has a space in
 * it, which no key has. For each line there are three: `on KEY`, `handle on KEY`, `consent on KEY`.
 */
export const OWN_COLUMNS = [
  'person id',
  'first name',
  'last name',
  'spoken language',
  'came from',
  'first met',
  'last seen',
  'all tags',
  'all lists',
] as const;
export const ofLine = (line: string) => [`on ${line}`, `handle on ${line}`, `consent on ${line}`] as const;

/** The columns of a file with these lines and fields. */
export const csvColumns = (lines: readonly string[], fields: readonly string[]): string[] => [
  ...OWN_COLUMNS,
  ...lines.flatMap((line) => [...ofLine(line)]),
  ...fields,
];

/**
 * One person as a line of our own file, with its line end. Ids are text, formulas are defused, telephone
 * numbers untouched.
 */
export function csvLine(person: PersonRecord, lines: readonly string[], fields: readonly string[]): string {
  const moment = (at: number | null) => (at === null ? '' : new Date(at).toISOString());
  return cellsLine([
    person.id ?? '',
    person.firstName ?? '',
    person.lastName ?? '',
    person.language ?? '',
    person.source ?? '',
    moment(person.met),
    moment(person.seen),
    joined(person.tags),
    joined(person.lists),
    ...lines.flatMap((line) => {
      const identity = person.identities.find((each) => each.line === line);
      return [identity?.address ?? '', identity?.handle ?? '', identity?.consent ?? ''];
    }),
    ...fields.map((field) => (person.fields[field] ? valueCell(person.fields[field]) : '')),
  ]);
}

/** Cells as a line of a file (RFC 4180). */
export function cellsLine(cells: readonly string[]): string {
  return `${cells.map((cell) => quoted(defused(cell))).join(',')}\r\n`;
}

const quoted = (cell: string) =>
  /[",\r\n\uFEFF]|^\s|\s$/.test(cell) ? `"${cell.replaceAll('"', '""')}"` : cell;

/** Several names in one cell, parted by semicolons. */
export const joined = (names: readonly string[]): string =>
  names.map((name) => name.replace(/[\\;]/g, '\\$&')).join('; ');
/** What {@link joined} was given. `commas`: where no semicolon parts them, commas do. */
export function parted(cell: string, commas = false): string[] {
  const names: string[] = [''];
  for (const [mark] of cell.matchAll(/\\.|;|[^\\;]+|\\/gs))
    if (mark === ';') names.push('');
    else names[names.length - 1] += /^\\./s.test(mark) ? mark.slice(1) : mark;
  const found = names.map((name) => name.trim()).filter(Boolean);
  return commas && found.length === 1 && !cell.includes(';') && cell.includes(',')
    ? cell.split(',').flatMap((name) => name.trim() || [])
    : found;
}

/** A value in a cell, from which it reads back as the same. */
function valueCell(value: Value): string {
  switch (value.type) {
    case 'several of':
      return joined(value.value);
    case 'place': {
      const { latitude, longitude, name } = value.value;
      return [latitude, longitude, ...(name === undefined ? [] : [name])].join(', ');
    }
    case 'file':
      return JSON.stringify(value.value);
    default:
      return valueWords(value);
  }
}
