import {
  Composer,
  LineCounter,
  Lexer,
  Parser,
  isCollection,
  isMap,
  isNode,
  isScalar,
  stringify,
  type CST,
  type Document,
} from 'yaml';
import { z } from 'zod';
import { CUE_KINDS } from '../../engine/cues';
import { Loop, MOST_STEPS, freshIds } from '../model/loop';
import { STEPS } from '../../engine/steps';
import { problemsOf, type Finding } from '../check/findings';

/** Why a file could not be used. Lines and columns count from 1. */
export interface FileProblem {
  line: number;
  column: number;
  reason: string;
}

/** `place` says where in the file a finding stands. */
export type LoopFile =
  | {
      ok: true;
      loop: Loop;
      place(finding: Pick<Finding, 'sceneId' | 'stepId' | 'cueId'>): { line: number; column: number };
    }
  | { ok: false; problems: FileProblem[] };

/** A larger file than this is refused, in characters. */
const MOST = 1_000_000;

/**
 * Reads a loop from YAML or JSON (JSON is read by the same parser). Ids that are left out are made from
 * names. Every problem names its line and column; nothing is half-read.
 */
export function readLoopFile(text: string): LoopFile {
  if (text.length > MOST)
    return refused([
      {
        line: 1,
        column: 1,
        reason: `The file has ${text.length.toLocaleString('en-GB')} characters; at most 1,000,000 are read.`,
      },
    ]);
  // Each step and cue says its kind: counted before anything is parsed.
  const kinds = text.match(/(?<![\w-])kind["']?\s*:/g)?.length ?? 0;
  if (kinds > MOST_STEPS + MOST_OTHER_KINDS)
    return refused([
      {
        line: 1,
        column: 1,
        reason: `The file has some ${kinds.toLocaleString('en-GB')} steps; a loop has at most ${MOST_STEPS.toLocaleString('en-GB')}. Part it into loops that go to each other.`,
      },
    ]);
  const lines = new LineCounter();
  const document = parsedYaml(text, lines);
  if ('reason' in document) {
    const { line, col } = lines.linePos(document.at);
    return refused([{ line, column: col, reason: document.reason }]);
  }
  if (document.errors.length > 0)
    return refused(
      document.errors.slice(0, MOST_PROBLEMS).map((error) => {
        const { line, col } = lines.linePos(error.pos[0]);
        return {
          line,
          column: col,
          reason: `This is not readable as YAML or JSON: ${error.message.replace(/\.$/, '')}.`,
        };
      }),
    );
  let raw: unknown;
  try {
    raw = document.toJS({ maxAliasCount: 100 });
  } catch (error) {
    return refused([
      { line: 1, column: 1, reason: `This is not readable as YAML or JSON: ${(error as Error).message}.` },
    ]);
  }
  if (raw === null || typeof raw !== 'object' || Array.isArray(raw))
    return refused([
      {
        line: 1,
        column: 1,
        reason: 'A loop file begins with "format: dart-loop/1" and has a name, cues and scenes.',
      },
    ]);
  const filled = fillIds(raw as Record<string, unknown>);
  const parsed = Loop.safeParse(filled);
  if (!parsed.success)
    return refused(
      parsed.error.issues
        .flatMap((issue) => spread(issue))
        .map((issue) => ({ ...placeOf(document, lines, issue), reason: sentence(issue, filled) })),
    );
  const unsound = problemsOf(parsed.data).filter(
    (problem) => problem.code === 'double id' || problem.code === 'missing target',
  );
  if (unsound.length > 0)
    return refused(
      unsound.map((problem) => ({
        ...placeOf(document, lines, { path: pathOf(parsed.data, problem) }),
        reason: problem.reason,
      })),
    );
  return {
    ok: true,
    loop: parsed.data,
    place: (finding) => placeOf(document, lines, { path: pathOf(parsed.data, finding) }),
  };
}

/** Cues, and texts that speak of a kind. */
const MOST_OTHER_KINDS = 500;
/** Deeper than any loop; the parser's own time and stack depend on it. */
const MOST_DEEP = 60;
/** With more errors than these it is not a loop with mistakes in it. */
const MOST_PROBLEMS = 100;

/**
 * Reads YAML, and stops at once where it is nested deeper or has more errors than any loop file: what comes
 * after costs nothing.
 */
function parsedYaml(text: string, lines: LineCounter): Document.Parsed | { at: number; reason: string } {
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
  let document: Document.Parsed | null = null;
  const composer = new Composer({ prettyErrors: false, uniqueKeys: true });
  for (const each of composer.compose(tokens(), true, text.length)) {
    if (stopped) break;
    document ??= each as Document.Parsed;
    // As a single document is meant, whatever follows it is a mistake.
    if (document !== each)
      return { at: each.range[0], reason: 'This holds more than one document; a file holds one loop.' };
  }
  return stopped ?? document!;
}

/** A loop as a file. The order of keys is the schema's, so that the same loop always gives the same bytes. */
export function writeLoopFile(loop: Loop, as: 'yaml' | 'json'): string {
  const ordered = Loop.parse(loop);
  return as === 'json'
    ? `${JSON.stringify(ordered, null, 2)}\n`
    : stringify(ordered, { lineWidth: 0, blockQuote: 'literal' });
}

/** The published JSON Schema of a loop file. */
export function loopJsonSchema(): object {
  return { title: 'A Dart Loop loop', ...z.toJSONSchema(Loop, { io: 'input' }) };
}

/** Where in the loop's data a finding stands. */
function pathOf(
  loop: Loop,
  { sceneId, stepId, cueId }: Pick<Finding, 'sceneId' | 'stepId' | 'cueId'>,
): (string | number)[] {
  if (cueId !== null) return ['cues', loop.cues.findIndex((cue) => cue.id === cueId)];
  const scene = loop.scenes.findIndex((each) => each.id === sceneId);
  if (scene < 0) return [];
  const step = loop.scenes[scene]!.steps.findIndex((each) => each.id === stepId);
  return step < 0 ? ['scenes', scene] : ['scenes', scene, 'steps', step];
}

function refused(problems: FileProblem[]): LoopFile {
  return { ok: false, problems };
}

/** Gives ids to scenes, steps, choices and cues that have none. */
function fillIds(raw: Record<string, unknown>): Record<string, unknown> {
  const copy = structuredClone(raw);
  const objects = (value: unknown): Record<string, unknown>[] =>
    Array.isArray(value)
      ? value.filter((each): each is Record<string, unknown> => each !== null && typeof each === 'object')
      : [];
  const fill = (items: Record<string, unknown>[], wish: (item: Record<string, unknown>) => unknown) => {
    const fresh = freshIds(items.flatMap((item) => (typeof item.id === 'string' ? [item.id] : [])));
    for (const item of items)
      if (item.id === undefined) {
        const id = fresh(String(wish(item) ?? 'x'));
        const rest = { ...item };
        for (const key of Object.keys(item)) delete item[key];
        Object.assign(item, { id }, rest);
      }
  };
  fill(objects(copy.cues), (cue) => cue.kind);
  const scenes = objects(copy.scenes);
  fill(scenes, (scene) => scene.name);
  fill(
    scenes.flatMap((scene) => objects(scene.steps)),
    (step) => step.kind,
  );
  for (const step of scenes.flatMap((scene) => objects(scene.steps))) {
    fill(objects(step.choices), (choice) => choice.label);
    fill(objects(step.options), (option) => option.label);
    if (step.kind === 'vary') fill(objects(step.arms), () => 'arm');
  }
  return copy;
}

/** A union's inner issues say more than the union's own. */
function spread(issue: z.core.$ZodIssue): z.core.$ZodIssue[] {
  if (issue.code === 'invalid_union' && issue.errors.length === 1)
    return issue.errors[0]!.map(
      (inner) => ({ ...inner, path: [...issue.path, ...inner.path] }) as z.core.$ZodIssue,
    );
  return [issue];
}

function placeOf(
  document: Document,
  lines: LineCounter,
  issue: { path: PropertyKey[]; code?: string; keys?: string[] },
): { line: number; column: number } {
  const path = [...issue.path];
  const named = issue.code === 'unrecognized_keys' ? issue.keys?.[0] : undefined;
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

const listed = (words: readonly string[]) => `${words.slice(0, -1).join(', ')} and ${words.at(-1)}`;
const KINDS_OF: Record<string, string> = {
  steps: `step; the kinds are ${listed(Object.keys(STEPS))}`,
  cues: `cue; the kinds are ${listed(CUE_KINDS)}`,
  changes:
    'change; a set can do "field", "calculate", "now", "copy", "clear", "add tag", "remove tag", "join list", "leave list", "opt in" or "opt out"',
};

/** One sentence for a schema issue: the place, what was found, what is expected. */
function sentence(issue: z.core.$ZodIssue, root: unknown): string {
  const at = issue.path.map(String);
  const place = at.length === 0 ? 'The file' : `“${at.join('.')}”`;
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
      last === 'kind' || last === 'do' ? at.filter((part) => part in KINDS_OF).at(-1) : undefined;
    return collection
      ? `${place} is not a kind of ${KINDS_OF[collection]}.${shown}`
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
