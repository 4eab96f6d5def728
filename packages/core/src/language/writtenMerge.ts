import { fold } from './fold';
import { partsOf } from './mergeParts';

/** A merge field that a text may hold: its path ("person.first_name") and how it is called ("first name"). */
export interface MergeName {
  path: string;
  words: string;
}

/** How a merge field is called by itself: "first name", "brief: hours", "the line’s name". */
export function mergeName(path: string): string {
  const [group = '', key = ''] = path.split('.');
  const name = key.replace(/[_-]/g, ' ');
  if (group === 'person' || group === 'answers') return name;
  return group === 'client' || group === 'line' ? `the ${group}’s ${name}` : `${group}: ${name}`;
}

/** A merge field as it is written: `[first name, or "there"]`. */
export const writtenMerge = (words: string, fallback: string | null = null): string =>
  fallback === null ? `[${words}]` : `[${words}, or "${fallback}"]`;

/** The merge fields and conditions of a text, as they are stored. */
const STORED = /\{\{[\s\S]*?\}\}|\{%[\s\S]*?%\}/g;
const BRACKETS = /\[[^[\]{}]+\]/g;
/** A name, and what stands where nothing is known. */
const INSIDE = /^\[\s*(.+?)(?:,? or ["“”„'‘’](.*)["“”'‘’])?\s*\]$/s;
const EITHER = new RegExp(`${STORED.source}|${BRACKETS.source}`, 'g');

/**
 * A text as a builder writes it: what is merged stands in square brackets, in words, `[first name, or
 * "there"]`; filters and conditions as they are, `[visit day, date: "long"]`, `[if person.vip]`. Back again:
 * {@link storedText}.
 */
export function writtenText(text: string, names: readonly MergeName[]): string {
  if (!text.includes('{')) return text;
  const { wordsOf } = piecesOf(text, names);
  return text.replace(STORED, (stored) => wordsOf.get(stored) ?? stored);
}

/**
 * What was written in brackets as it is stored, where they name a merge field, exactly or but for case and
 * accents; other brackets stay. `before`: the text that was being written on, whose conditions and filters
 * keep their form.
 */
export function storedText(written: string, names: readonly MergeName[], before = ''): string {
  if (!written.includes('[')) return written;
  const { storedAs, literal } = piecesOf(before, names);
  const pathOf = (name: string) => {
    const folded = fold(name);
    // "Hours" is enough for "brief: hours".
    return (
      names.find(({ words }) => fold(words) === folded) ??
      names.find(({ path }) => fold(path.split('.')[1] ?? '') === folded)
    )?.path;
  };
  return written.replace(EITHER, (whole) => {
    const known = storedAs.get(whole);
    if (known !== undefined) return known;
    if (literal.has(whole) || whole.startsWith('{')) return whole;
    const [, name = '', fallback] = INSIDE.exec(whole) ?? [];
    const path = pathOf(name);
    if (path === undefined) return whole;
    if (fallback === undefined) return `{{ ${path} }}`;
    const quote = fallback.includes('"') ? "'" : '"';
    return `{{ ${path} | default: ${quote}${fallback.replaceAll(quote, '')}${quote} }}`;
  });
}

/** How each piece of a text that is merged is written, and the other way round; each one way only. */
function piecesOf(text: string, names: readonly MergeName[]) {
  const nameOf = (path: string) => names.find((each) => each.path === path)?.words ?? mergeName(path);
  const literal = new Set(text.replace(STORED, '\n').match(BRACKETS) ?? []);
  const wordsOf = new Map<string, string>();
  const storedAs = new Map<string, string>();
  for (const stored of text.match(STORED) ?? []) {
    if (wordsOf.has(stored)) continue;
    const part = partsOf(stored)[0];
    const written =
      part?.kind === 'merge' && !part.filtered
        ? writtenMerge(nameOf(part.path), part.fallback)
        : `[${stored
            .slice(2, -2)
            .trim()
            .replace(/\b(?:person|brief|client|file|line|answers)\.[a-z][a-z0-9_-]*/g, nameOf)
            .replace(/\s*\|\s*/g, ', ')}]`;
    // What could be taken for something else stays as it is stored.
    const isClear = written.replace(BRACKETS, '') === '';
    if (!isClear || literal.has(written) || storedAs.has(written)) continue;
    wordsOf.set(stored, written);
    storedAs.set(written, stored);
  }
  return { wordsOf, storedAs, literal };
}
