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
