/**
 * A text taken apart: plain words and merge fields, in order. `start` and `end` are offsets into the text.
 */
export type TextPart =
  | { kind: 'words'; text: string }
  /** `filtered`: it has filters beyond a fallback. */
  | {
      kind: 'merge';
      source: string;
      path: string;
      fallback: string | null;
      filtered: boolean;
      start: number;
      end: number;
    };

/** What stands before the dot of a merge field. */
export const GROUPS = ['person', 'brief', 'client', 'line', 'answers', 'file', 'today'];
export const FIELD = /\{\{([\s\S]*?)\}\}/g;
const INSIDE = /^\s*([a-z]+\.[a-z][a-z0-9_-]*)\s*(?:\|\s*default:\s*("([^"]*)"|'([^']*)')\s*)?(\|[\s\S]*)?$/;

/**
 * Takes a text apart into words and merge fields such as `{{ person.first_name | default: "there" }}`. Tags
 * such as `{% if %}` stay among the words, and so does what is no merge field.
 */
export function partsOf(text: string): TextPart[] {
  const parts: TextPart[] = [];
  let from = 0;
  const words = (until: number) => {
    if (until > from) parts.push({ kind: 'words', text: text.slice(from, until) });
  };
  for (const found of text.matchAll(FIELD)) {
    const inside = INSIDE.exec(found[1]!);
    const path = inside?.[1];
    if (!inside || !path || !GROUPS.includes(path.split('.')[0]!)) continue;
    words(found.index);
    from = found.index + found[0].length;
    parts.push({
      kind: 'merge',
      source: found[0],
      path,
      fallback: inside[3] ?? inside[4] ?? null,
      filtered: inside[5] !== undefined,
      start: found.index,
      end: from,
    });
  }
  words(text.length);
  return parts;
}

/** How a merge field reads in the script: `first name, or “there”`. */
export function mergeWords(path: string, fallback: string | null): string {
  const [group, key] = path.split('.') as [string, string];
  const name = key.replace(/[_-]/g, ' ');
  const words = group === 'person' || group === 'brief' || group === 'answers' ? name : `${group} ${name}`;
  return fallback === null ? words : `${words}, or “${fallback}”`;
}

const TAG = /\{%-?\s*([\s\S]*?)\s*-?%\}|\{\{-?\s*([\s\S]*?)\s*-?\}\}/g;
const PATH = new RegExp(
  `\\b(?:${GROUPS.filter((group) => group !== 'today').join('|')})\\.[a-z][a-z0-9_-]*`,
  'g',
);

/** How a condition within a text reads: `if first name is known:`, `otherwise:`, `end`. */
function tagWords(inside: string): string {
  const words = inside.replace(PATH, (path) => mergeWords(path, null)).replace(/\s*\|\s*/g, ', ');
  if (/^end/.test(words)) return 'end';
  if (words === 'else') return 'otherwise:';
  const [, tag, condition = ''] = /^(if|unless|elsif)\s+(.*)$/s.exec(words) ?? [];
  if (!tag) return words;
  const isCompared = /[=<>]| contains /.test(condition);
  if (tag === 'unless') return isCompared ? `unless ${condition}:` : `if ${condition} is not known:`;
  return `${tag === 'elsif' ? 'or if' : 'if'} ${condition}${isCompared ? '' : ' is known'}:`;
}

/** A text in pieces as it is shown: what stands there as it is, and what is put in, in words. */
export function shownParts(text: string): { text: string; isMerged: boolean }[] {
  return partsOf(text).flatMap((part) => {
    if (part.kind === 'merge') return [{ text: mergeWords(part.path, part.fallback), isMerged: true }];
    const pieces: { text: string; isMerged: boolean }[] = [];
    let from = 0;
    for (const found of part.text.matchAll(TAG)) {
      if (found.index > from) pieces.push({ text: part.text.slice(from, found.index), isMerged: false });
      pieces.push({ text: tagWords(found[1] ?? found[2]!), isMerged: true });
      from = found.index + found[0].length;
    }
    if (from < part.text.length) pieces.push({ text: part.text.slice(from), isMerged: false });
    return pieces;
  });
}
