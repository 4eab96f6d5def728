import type { ClientFacts, LineFacts } from '../model/client';
import { valueWords, type PersonFacts } from '../model/person';

/** A text taken apart: plain words and merge fields, in order. `start` and `end` are offsets into the text. */
export type TextPart =
  { kind: 'words'; text: string } | { kind: 'merge'; source: string; path: string; fallback: string | null; start: number; end: number };

export interface MergeProblem {
  /** Offset of the faulty merge field in the text. */
  at: number;
  reason: string;
}

export interface MergeWorld {
  client: ClientFacts;
  line: LineFacts;
  person: PersonFacts;
}

const FIELD = /\{\{([\s\S]*?)\}\}/g;
const INSIDE = /^\s*([a-z]+\.[a-z][a-z0-9_]*)\s*(?:\|\s*default:\s*("([^"]*)"|'([^']*)')\s*)?$/;

/**
 * Takes a text apart into words and merge fields such as `{{ person.first_name | default: "there" }}`.
 * What cannot be read as a merge field is reported with its offset and kept as words.
 */
export function parseMerge(text: string): { parts: TextPart[]; problems: MergeProblem[] } {
  const parts: TextPart[] = [];
  const problems: MergeProblem[] = [];
  let from = 0;
  const words = (until: number) => {
    if (until > from) parts.push({ kind: 'words', text: text.slice(from, until) });
  };
  for (const found of text.matchAll(FIELD)) {
    const inside = INSIDE.exec(found[1]!);
    const path = inside?.[1];
    if (!inside || !path || !/^(person|brief|client|line)\./.test(path)) {
      problems.push({
        at: found.index,
        reason: `"${found[0]}" is not a merge field: write {{ person.first_name | default: "there" }}, with person, brief, client or line before the dot`,
      });
      continue;
    }
    words(found.index);
    from = found.index + found[0].length;
    parts.push({ kind: 'merge', source: found[0], path, fallback: inside[3] ?? inside[4] ?? null, start: found.index, end: from });
  }
  words(text.length);
  const rest = parts
    .filter((part) => part.kind === 'words')
    .map((part) => part.text)
    .join(' ');
  if (problems.length === 0 && /\{\{|\}\}/.test(rest))
    problems.push({
      at: Math.max(0, text.search(/\{\{|\}\}/)),
      reason: 'a merge field is opened with {{ and closed with }}; one of the two is missing',
    });
  return { parts, problems };
}

/** Every merge field's value is looked up here, so that the script's picker and the engine offer the same. */
function lookUp(path: string, world: MergeWorld): string | null {
  const [group, key] = path.split('.') as [string, string];
  const own = (record: Record<string, unknown>) => (Object.hasOwn(record, key) ? record[key] : undefined);
  if (group === 'client') return key === 'name' ? world.client.name : null;
  if (group === 'line') return key === 'name' ? world.line.name : null;
  if (group === 'brief') return (own(world.client.brief) as string | undefined) || null;
  if (key === 'first_name' && world.person.firstName) return world.person.firstName;
  if (key === 'last_name' && world.person.lastName) return world.person.lastName;
  const value = own(world.person.fields) as PersonFacts['fields'][string] | undefined;
  return value ? valueWords(value) : null;
}

const parsed = new Map<string, TextPart[]>();

/**
 * The text with its merge fields filled. A missing value gives its fallback, or nothing; braces never reach
 * a person: what cannot be read is left out.
 */
export function merge(text: string, world: MergeWorld): string {
  if (!text.includes('{{') && !text.includes('}}')) return text;
  let parts = parsed.get(text);
  if (!parts) {
    parts = parseMerge(text).parts;
    if (parsed.size > 5_000) parsed.clear();
    parsed.set(text, parts);
  }
  let merged = parts
    .map((part) => (part.kind === 'words' ? part.text.replace(FIELD, '') : (lookUp(part.path, world) ?? part.fallback ?? '')))
    .join('');
  // Taking a pair away can bring another together.
  while (/\{\{|\}\}/.test(merged)) merged = merged.replace(/\{{2,}|\}{2,}/g, '');
  return merged.replace(/ {2,}/g, ' ').replace(/ +([,.;:!?])/g, '$1');
}

/** How a merge field reads in the script: `first name, or “there”`. */
export function mergeWords(path: string, fallback: string | null): string {
  const [group, key] = path.split('.') as [string, string];
  const name = key.replace(/_/g, ' ');
  const words = group === 'person' || group === 'brief' ? name : `${group} ${name}`;
  return fallback === null ? words : `${words}, or “${fallback}”`;
}
