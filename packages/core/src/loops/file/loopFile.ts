import { stringify } from 'yaml';
import { z } from 'zod';
import { CUE_KINDS } from '../../engine/cues';
import { Loop, MOST_STEPS, freshIds } from '../model/loop';
import { STEPS } from '../../engine/steps';
import { problemsOf, type Finding } from '../check/findings';
import {
  problemsIn,
  readOneYaml,
  readYaml,
  type FilePlace,
  type FileProblem,
  type YamlDocument,
} from './yamlFile';

export type { FileProblem } from './yamlFile';

/** `place` says where in the file a finding stands. */
export type LoopFile =
  | {
      ok: true;
      loop: Loop;
      place(finding: Pick<Finding, 'sceneId' | 'stepId' | 'cueId'>): FilePlace;
    }
  | { ok: false; problems: FileProblem[] };

const BEGINNING = 'A loop file begins with "format: dart-loop/1" and has a name, cues and scenes.';

/**
 * Reads a loop from YAML or JSON. Ids that are left out are made from names. Every problem names its line and
 * column; nothing is half-read.
 */
export function readLoopFile(text: string): LoopFile {
  const tooMany = stepsBeyond(text, 1);
  if (tooMany) return tooMany;
  const read = readOneYaml(text, BEGINNING);
  return read.ok ? loopIn(read.document) : read;
}

/** Reads a file that may hold several loops, parted by lines of `---`; at least one is given back. */
export function readLoopFiles(text: string): LoopFile[] {
  const tooMany = stepsBeyond(text, 1 + (text.match(/^---/gm)?.length ?? 0));
  if (tooMany) return [tooMany];
  const read = readYaml(text, BEGINNING);
  return read.ok ? read.documents.map(loopIn) : [read];
}

/** Each step and cue says its kind: counted before anything is parsed. Null where so many may be. */
function stepsBeyond(text: string, loops: number): Extract<LoopFile, { ok: false }> | null {
  const kinds = text.match(/(?<![\w-])kind["']?\s*:/g)?.length ?? 0;
  if (kinds <= (MOST_STEPS + MOST_OTHER_KINDS) * loops) return null;
  return refused([
    {
      line: 1,
      column: 1,
      reason: `The file has some ${kinds.toLocaleString('en-GB')} steps; a loop has at most ${MOST_STEPS.toLocaleString('en-GB')}. Part it into loops that go to each other.`,
    },
  ]);
}

function loopIn(document: YamlDocument): LoopFile {
  const filled = fillIds(document.raw);
  const parsed = Loop.safeParse(filled);
  if (!parsed.success) return refused(problemsIn(document, filled, parsed.error.issues, KINDS_OF));
  const unsound = problemsOf(parsed.data).filter(
    (problem) => problem.code === 'double id' || problem.code === 'missing target',
  );
  if (unsound.length > 0)
    return refused(
      unsound.map((problem) => ({
        ...document.placeOf(pathOf(parsed.data, problem)),
        reason: problem.reason,
      })),
    );
  return {
    ok: true,
    loop: parsed.data,
    place: (finding) => document.placeOf(pathOf(parsed.data, finding)),
  };
}

/** Cues, and texts that speak of a kind. */
const MOST_OTHER_KINDS = 500;
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

function refused(problems: FileProblem[]): Extract<LoopFile, { ok: false }> {
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

const listed = (words: readonly string[]) => `${words.slice(0, -1).join(', ')} and ${words.at(-1)}`;
const KINDS_OF: Record<string, string> = {
  steps: `step; the kinds are ${listed(Object.keys(STEPS))}`,
  cues: `cue; the kinds are ${listed(CUE_KINDS)}`,
  changes:
    'change; a set can do "field", "calculate", "now", "copy", "clear", "add tag", "remove tag", "join list", "leave list", "opt in" or "opt out"',
};
