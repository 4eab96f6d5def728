import {
  Composer,
  LineCounter,
  Lexer,
  Parser,
  isCollection,
  isMap,
  isNode,
  isScalar,
  type CST,
  type Document,
} from 'yaml';
import type { z } from 'zod';

/** Why a file could not be used. Lines and columns count from 1. */
export interface FileProblem {
  line: number;
  column: number;
  reason: string;
}

/** Where something stands in a file; lines and columns count from 1. */
export type FilePlace = Pick<FileProblem, 'line' | 'column'>;

/** One document of a file, as plain data, with where each part of it stands. */
export interface YamlDocument {
  raw: Record<string, unknown>;
  /** The place of what a path leads to, or of the nearest part around it; of one of its keys, if named. */
  placeOf(path: readonly PropertyKey[], key?: string): FilePlace;
}

/** A larger file than this is refused, in characters. */
const MOST = 1_000_000;
/** Documents in one file, parted by lines of `---`. */
const MOST_DOCUMENTS = 100;
/** Deeper than any loop; the parser's own time and stack depend on it. */
const MOST_DEEP = 60;
/** With more errors than these it is not a loop with mistakes in it. */
const MOST_PROBLEMS = 100;

/**
 * Reads a file of YAML or JSON (JSON is read by the same parser) into its documents, of which there is at
 * least one, and each is an entry with keys. `what` says how such a file begins, for one that is something
 * else.
 */
export function readYaml(
  text: string,
  what: string,
): { ok: true; documents: YamlDocument[] } | { ok: false; problems: FileProblem[] } {
  const refused = (place: FilePlace, reason: string) => ({
    ok: false as const,
    problems: [{ line: place.line, column: place.column, reason }],
  });
  const START = { line: 1, column: 1 };
  if (text.length > MOST)
    return refused(
      START,
      `The file has ${text.length.toLocaleString('en-GB')} characters; at most 1,000,000 are read.`,
    );
  const lines = new LineCounter();
  const at = (offset: number): FilePlace => {
    const { line, col } = lines.linePos(offset);
    return { line, column: col };
  };
  const parsed = parsedYaml(text, lines);
  if ('reason' in parsed) return refused(at(parsed.at), parsed.reason);
  const errors = parsed.flatMap((document) => document.errors);
  if (errors.length > 0)
    // Whatever comes after the first mistake is mostly read wrongly because of it.
    return refused(
      at(errors[0]!.pos[0]),
      `This is not readable as YAML or JSON: ${errors[0]!.message.replace(/\.$/, '')}.${errors.length > 1 ? ' What stands after it was not looked at.' : ''}`,
    );
  if (parsed.length === 0) return refused(START, what);
  const documents: YamlDocument[] = [];
  for (const document of parsed) {
    let raw: unknown;
    try {
      raw = document.toJS({ maxAliasCount: 100 });
    } catch (error) {
      return refused(START, `This is not readable as YAML or JSON: ${(error as Error).message}.`);
    }
    if (raw === null || typeof raw !== 'object' || Array.isArray(raw))
      return refused(
        isNode(document.contents) && document.contents.range ? at(document.contents.range[0]) : START,
        what,
      );
    documents.push({
      raw: raw as Record<string, unknown>,
      placeOf: (path, key) => placeOf(document, lines, path, key),
    });
  }
  return { ok: true, documents };
}

/** The same where a file is one document: whatever follows it is a mistake. */
export function readOneYaml(
  text: string,
  what: string,
): { ok: true; document: YamlDocument } | { ok: false; problems: FileProblem[] } {
  const read = readYaml(text, what);
  if (!read.ok) return read;
  const [document, second] = read.documents;
  return second
    ? {
        ok: false,
        problems: [{ ...second.placeOf([]), reason: 'This holds more than one document, and one is meant.' }],
      }
    : { ok: true, document: document! };
}

/** The same by a schema. */
export function readBySchema<T>(
  text: string,
  what: string,
  schema: z.ZodType<T, unknown>,
): { ok: true; data: T } | { ok: false; problems: FileProblem[] } {
  const read = readOneYaml(text, what);
  if (!read.ok) return read;
  const { raw } = read.document;
  const parsed = schema.safeParse(raw);
  return parsed.success
    ? { ok: true, data: parsed.data }
    : { ok: false, problems: problemsIn(read.document, raw, parsed.error.issues) };
}

/**
 * Reads YAML, and stops at once where it is nested deeper or has more errors than any loop file: what comes
 * after costs nothing.
 */
function parsedYaml(text: string, lines: LineCounter): Document.Parsed[] | { at: number; reason: string } {
  let stopped: { at: number; reason: string } | null = null;
  function* tokens(): Generator<CST.Token> {
    const parser = new Parser(lines.addNewLine);
    lines.addNewLine(0);
    let at = 0;
    let flow = 0;
    let block = 0;
    let errors = 0;
    const checked = function* (found: Iterable<CST.Token>) {
      for (const token of found) {
        if (token.type === 'error' && ++errors > MOST_PROBLEMS)
          stopped ??= {
            at,
            reason: 'This is not readable as YAML or JSON: it has more than 100 errors up to here.',
          };
        yield token;
      }
    };
    for (const lexeme of new Lexer().lex(text)) {
      yield* checked(parser.next(lexeme));
      at += lexeme.length;
      if (lexeme === '{' || lexeme === '[') flow++;
      else if (lexeme === '}' || lexeme === ']') flow = Math.max(0, flow - 1);
      block =
        lexeme === '-' || lexeme === '?'
          ? block + 1
          : lexeme.trim() === '' && !lexeme.includes('\n')
            ? block
            : 0;
      if (flow > MOST_DEEP || block > MOST_DEEP)
        stopped ??= { at, reason: `This is nested more than ${MOST_DEEP} levels deep, and no loop is.` };
      if (stopped) return;
    }
    yield* checked(parser.end());
  }
  const documents: Document.Parsed[] = [];
  const composer = new Composer({ prettyErrors: false, uniqueKeys: true });
  for (const each of composer.compose(tokens(), true, text.length)) {
    if (stopped) break;
    documents.push(each as Document.Parsed);
    if (documents.length > MOST_DOCUMENTS)
      return { at: each.range[0], reason: `A file holds at most ${MOST_DOCUMENTS} documents.` };
  }
  return stopped ?? documents;
}

function placeOf(
  document: Document,
  lines: LineCounter,
  path: readonly PropertyKey[],
  named?: string,
): FilePlace {
  for (let length = path.length; length >= 0; length--) {
    const node = length === 0 ? document.contents : document.getIn(path.slice(0, length), true);
    if (!isNode(node)) continue;
    const pair =
      named !== undefined && length === path.length && isMap(node)
        ? node.items.find((item) => isScalar(item.key) && item.key.value === named)
        : undefined;
    const range = pair && isNode(pair.key) ? pair.key.range : node.range;
    if (range) {
      const { line, col } = lines.linePos(range[0]);
      return { line, column: col };
    }
    if (!isCollection(node)) break;
  }
  return { line: 1, column: 1 };
}

/**
 * What a schema found in a document, each with its place and a sentence. `root`: what it looked at; `kinds`:
 * for the names of lists whose entries have kinds, which there are, after "is not a kind of".
 */
export function problemsIn(
  document: YamlDocument,
  root: unknown,
  issues: readonly z.core.$ZodIssue[],
  kinds: Record<string, string> = {},
): FileProblem[] {
  return issues
    .flatMap((issue) => spread(issue))
    .map((issue) => ({
      ...document.placeOf(issue.path, issue.code === 'unrecognized_keys' ? issue.keys[0] : undefined),
      reason: sentence(issue, root, kinds),
    }));
}

/** A union's inner issues say more than the union's own. */
function spread(issue: z.core.$ZodIssue): z.core.$ZodIssue[] {
  if (issue.code === 'invalid_union' && issue.errors.length === 1)
    return issue.errors[0]!.map(
      (inner) => ({ ...inner, path: [...issue.path, ...inner.path] }) as z.core.$ZodIssue,
    );
  return [issue];
}

/**
 * A path as it is said: "Scene 1 (Welcome), step 2, “text”". Entries of lists count from 1 and are named
 * where they have a name or a label.
 */
function pathWords(path: readonly PropertyKey[], root: unknown): string {
  const parts: string[] = [];
  let keys: string[] = [];
  let here = root;
  for (const [index, key] of path.entries()) {
    const before = path[index - 1];
    here =
      here === null || typeof here !== 'object' ? undefined : (here as Record<PropertyKey, unknown>)[key];
    if (typeof key !== 'number' || typeof before !== 'string') {
      keys.push(String(key));
      continue;
    }
    const { name, label } = (here ?? {}) as { name?: unknown; label?: unknown };
    const called = [name, label].find((each) => typeof each === 'string');
    keys.pop();
    if (keys.length > 0) parts.push(`“${keys.join('.')}”`);
    keys = [];
    const one = before.endsWith('ches') ? before.slice(0, -2) : before.replace(/s$/, '');
    parts.push(`${one} ${key + 1}${called === undefined ? '' : ` (${called as string})`}`);
  }
  if (keys.length > 0) parts.push(`“${keys.join('.')}”`);
  const all = parts.join(', ');
  return all === '' ? 'The file' : all[0]!.toUpperCase() + all.slice(1);
}

/** One sentence for a schema issue: the place, what was found, what is expected. */
function sentence(issue: z.core.$ZodIssue, root: unknown, kinds: Record<string, string>): string {
  const at = issue.path.map(String);
  const place = pathWords(issue.path, root);
  const found = issue.path.reduce<unknown>(
    (value, key) =>
      value === null || typeof value !== 'object' ? undefined : (value as Record<PropertyKey, unknown>)[key],
    root,
  );
  const shown =
    typeof found === 'string' || typeof found === 'number' || typeof found === 'boolean'
      ? ` Found ${JSON.stringify(found).slice(0, 60)}.`
      : '';
  if (issue.code === 'invalid_union') {
    // A union without its own words is one of kinds: the kind is missing or unknown.
    const last = at.at(-1);
    const collection =
      last === 'kind' || last === 'do' ? at.filter((part) => part in kinds).at(-1) : undefined;
    return collection
      ? `${place} is not a kind of ${kinds[collection]}.${shown}`
      : `${place}: ${issue.message}.${shown}`;
  }
  if (issue.code === 'unrecognized_keys')
    return `${place} has ${issue.keys.map((key) => `“${key}”`).join(' and ')}, which is not known there.`;
  if (issue.code === 'invalid_value')
    return `${place} must be ${issue.values.map((value) => JSON.stringify(value)).join(' or ')}.${shown}`;
  if (issue.code === 'invalid_type')
    return found === undefined
      ? `${place} is missing; expected ${words(issue.expected)}.`
      : `${place} must be ${words(issue.expected)}.${shown}`;
  return `${place}: ${issue.message}.${shown}`;
}

function words(expected: string): string {
  return (
    {
      string: 'a text',
      number: 'a number',
      int: 'a whole number',
      boolean: 'true or false',
      array: 'a list',
      object: 'an entry with its own lines',
    }[expected] ?? expected
  );
}
