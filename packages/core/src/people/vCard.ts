import ICAL from 'ical.js';
import { TagName } from '../loops/model/basics';
import type { Value } from './person';
import { readReply } from '../language/replies';
import type { CellWorld } from './cellReading';
import { jsonLine, readJsonLine } from './jsonLines';
import type { CellProblem } from './rowReading';
import { emptyRecord, type PersonRecord } from './record';

const escaped = (text: string) => text.replace(/[\\;,]/g, '\\$&').replace(/\r?\n/g, '\\n');

/** A line folded at 75 bytes, as RFC 6350 asks for. */
function folded(line: string): string {
  let written = '';
  let length = 0;
  for (const letter of line) {
    const bytes = new TextEncoder().encode(letter).length;
    if (length + bytes > 75) {
      written += '\r\n ';
      length = 1;
    }
    written += letter;
    length += bytes;
  }
  return `${written}\r\n`;
}

/**
 * One person as a vCard 4.0. What vCard has no place for stands in properties of our own, so that it reads
 * back as it was.
 */
export function vCardOf(person: PersonRecord): string {
  const name = [person.firstName, person.lastName].filter(Boolean).join(' ');
  const shown = name || person.identities[0]?.handle || person.identities[0]?.address || 'somebody';
  const lines = ['BEGIN:VCARD', 'VERSION:4.0', `FN:${escaped(shown)}`];
  if (person.id) lines.push(`UID:urn:uuid:${person.id}`);
  if (name) lines.push(`N:${escaped(person.lastName ?? '')};${escaped(person.firstName ?? '')};;;`);
  if (person.language) lines.push(`LANG:${escaped(person.language)}`);
  for (const value of Object.values(person.fields)) {
    if (value.type === 'email') lines.push(`EMAIL:${escaped(value.value)}`);
    if (value.type === 'phone') lines.push(`TEL;VALUE=uri:tel:${value.value}`);
    if (value.type === 'page address') lines.push(`URL:${value.value}`);
  }
  for (const { line, address } of person.identities)
    if (address.startsWith('+')) lines.push(`TEL;VALUE=uri;X-LINE=${line}:tel:${address}`);
  if (person.tags.length > 0) lines.push(`CATEGORIES:${person.tags.map(escaped).join(',')}`);
  // A property that vCard does not know is taken as it stands.
  lines.push(`X-DART-LOOP:${jsonLine(person).trimEnd()}`, 'END:VCARD');
  return lines.map(folded).join('');
}

/** Parts the text of a file into its cards. What stands after the last whole one is given back as `rest`. */
export function partCards(text: string): { cards: string[]; rest: string } {
  const cards: string[] = [];
  let from = 0;
  for (const found of text.matchAll(/^END:VCARD[ \t]*(\r?\n|\r|$)/gim)) {
    cards.push(text.slice(from, found.index + found[0].length));
    from = found.index + found[0].length;
  }
  return { cards, rest: text.slice(from) };
}

/** Reads a card, 3.0 or 4.0. `number` counts cards from 1. */
export function readCard(
  number: number,
  card: string,
  world: CellWorld,
): { record: PersonRecord; problems: CellProblem[] } {
  const record = emptyRecord();
  const problems: CellProblem[] = [];
  const problem = (column: string | null, cell: string, reason: string) =>
    void problems.push({ row: number, column, cell: cell.slice(0, 200), reason });
  let properties: ICAL.Property[];
  try {
    properties = new ICAL.Component(
      ICAL.parse(card.trim()) as [string, unknown[], unknown[]] as never,
    ).getAllProperties();
  } catch {
    problem(null, card, 'it is no vCard; the file may have been cut off here');
    return { record, problems };
  }
  const own = properties.find((property) => property.name === 'x-dart-loop')?.getFirstValue();
  if (typeof own === 'string') {
    const kept = readJsonLine(own);
    if (kept.ok) return { record: kept.record, problems };
    problem('X-DART-LOOP', own, kept.reason);
  }
  const counted = new Map<string, number>();
  const keep = (key: string, value: Value) => {
    const count = (counted.get(key) ?? 0) + 1;
    counted.set(key, count);
    record.fields[count === 1 ? key : `${key}_${count}`] = value;
  };
  for (const property of properties) {
    const value = property.getFirstValue();
    const words = (typeof value === 'string' ? value : String(value ?? '')).trim();
    switch (property.name) {
      case 'fn':
        if (!record.firstName && !record.lastName) {
          const [first, ...rest] = words.split(/\s+/);
          record.firstName = first?.slice(0, 120) || null;
          record.lastName = rest.join(' ').slice(0, 120) || null;
        }
        break;
      case 'n': {
        const [last, first] = (Array.isArray(value) ? value : words.split(';')) as (string | string[])[];
        const named = (part: string | string[] | undefined) =>
          [part ?? ''].flat().join(' ').trim().slice(0, 120) || null;
        if (named(first) ?? named(last)) [record.firstName, record.lastName] = [named(first), named(last)];
        break;
      }
      case 'email':
      case 'tel':
      case 'url': {
        const type = { email: 'email', tel: 'phone', url: 'page address' }[property.name] as 'email';
        const read = readReply(type, words.replace(/^(tel|mailto):/i, ''), world);
        if (read.ok) keep({ email: 'email', tel: 'phone', url: 'page' }[property.name]!, read.value);
        else if (words) problem(property.name.toUpperCase(), words, read.reason);
        break;
      }
      case 'bday': {
        const read = readReply('date', words.slice(0, 10), { ...world, days: 'any' });
        if (read.ok) keep('born', read.value);
        else problem('BDAY', words, read.reason);
        break;
      }
      case 'categories':
        record.tags = property.getValues().flatMap((each) => TagName.safeParse(String(each)).data ?? []);
        break;
      case 'lang':
        record.language = /^[a-z]{2}/i.exec(words)?.[0].toLowerCase() ?? null;
        break;
      case 'org':
      case 'title':
      case 'note':
        if (words)
          keep({ org: 'company', title: 'job', note: 'note' }[property.name]!, {
            type: 'text',
            value: [value].flat().join(' ').slice(0, 4_096),
          });
        break;
      case 'uid':
        record.id =
          /^(?:urn:uuid:)?([0-9a-f]{8}(?:-[0-9a-f]{4}){3}-[0-9a-f]{12})$/i.exec(words)?.[1]?.toLowerCase() ??
          null;
    }
  }
  return { record, problems };
}
