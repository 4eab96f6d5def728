import type { Loop, Scene } from '../model/loop';
import { Cue } from '../../engine/cues';
import { Step } from '../../engine/steps';

/** Something that both have changed otherwise: ours stands, theirs is kept here. */
export interface Clash {
  /** Where: the step, cue or scene by its id; null for the loop itself. */
  stepId: string | null;
  sceneId: string | null;
  cueId: string | null;
  /** Below that: ["text"], ["choices", "yes", "label"]. */
  path: string[];
  theirs: unknown;
}

/**
 * Brings two drafts together that began from the same one: what only one has changed is taken over, step by
 * step and entry by entry. Where both have changed the same text, ours stands and theirs is named. A step
 * that one removed and the other wrote in stays; a step stands where it was moved to.
 */
export function mergeDrafts(base: Loop, mine: Loop, theirs: Loop): { loop: Loop; clashes: Clash[] } {
  const clashes: Clash[] = [];
  /** What fits together is taken together; where that makes nothing sound, ours stands as a whole. */
  const merged =
    (what: Omit<Clash, 'path' | 'theirs'>, schema?: typeof Step | typeof Cue) =>
    (a: unknown, b: unknown, c: unknown) => {
      const own: Clash[] = [];
      const value = merge(a, b, c, [], (path, theirs_) => own.push({ ...what, path, theirs: theirs_ }));
      const sound = !schema || schema.safeParse(value).success;
      clashes.push(...(sound ? own : [{ ...what, path: [], theirs: c }]));
      return sound ? value : b;
    };
  const nowhere = { stepId: null, sceneId: null, cueId: null };

  const { scenes: _a, cues: _b, ...bareBase } = base;
  const { scenes: _c, cues: _d, ...bareMine } = mine;
  const { scenes: _e, cues: _f, ...bareTheirs } = theirs;
  const bare = merged(nowhere)(bareBase, bareMine, bareTheirs) as Omit<Loop, 'scenes' | 'cues'>;

  const cues = mergeById(base.cues, mine.cues, theirs.cues, (id) => merged({ ...nowhere, cueId: id }, Cue));
  const steps = new Map(
    mergeById(allSteps(base), allSteps(mine), allSteps(theirs), (id) =>
      merged({ ...nowhere, stepId: id }, Step),
    ).map((step) => [step.id, step]),
  );
  const bareScenes = (loop: Loop) => loop.scenes.map(({ id, name }) => ({ id, name }));
  const scenes = mergeById(bareScenes(base), bareScenes(mine), bareScenes(theirs), (id) =>
    merged({ ...nowhere, sceneId: id }),
  );
  const homes = [base, mine, theirs].map(homesOf) as [
    Map<string, string>,
    Map<string, string>,
    Map<string, string>,
  ];
  const homeOf = (id: string) => {
    const [before, ours, others] = homes.map((each) => each.get(id));
    return ours !== undefined && ours !== before ? ours : (others ?? ours ?? before!);
  };
  // A step that stays keeps its scene, even where the other has removed it.
  for (const id of steps.keys()) {
    const home = homeOf(id);
    if (scenes.some((scene) => scene.id === home)) continue;
    const gone = [...mine.scenes, ...theirs.scenes, ...base.scenes].find((scene) => scene.id === home)!;
    scenes.push({ id: gone.id, name: gone.name });
  }
  const inScene = (loop: Loop, sceneId: string) =>
    loop.scenes.find((scene) => scene.id === sceneId)?.steps.map(({ id }) => id) ?? [];
  const built = scenes.map(({ id, name }): Scene => {
    const order = mergeOrder(inScene(base, id), inScene(mine, id), inScene(theirs, id));
    const here = [...steps.keys()].filter((step) => homeOf(step) === id);
    const sorted = [
      ...order.filter((step) => here.includes(step)),
      ...here.filter((step) => !order.includes(step)),
    ];
    return { id, name, steps: sorted.map((step) => steps.get(step)!) };
  });
  const { format, name, lines, ...rest } = bare;
  return { loop: { format, name, lines, cues, scenes: built, ...rest } as Loop, clashes };
}

const allSteps = (loop: Loop): Step[] => loop.scenes.flatMap((scene) => scene.steps);
const homesOf = (loop: Loop) =>
  new Map(loop.scenes.flatMap((scene) => scene.steps.map((step) => [step.id, scene.id] as const)));
/** The same content, whatever the order of its entries: the server writes them in the schema's. */
function same(a: unknown, b: unknown): boolean {
  if (a === b) return true;
  if (Array.isArray(a) && Array.isArray(b))
    return a.length === b.length && a.every((each, at) => same(each, b[at]));
  if (!isRecord(a) || !isRecord(b)) return false;
  const keys = new Set([...Object.keys(a), ...Object.keys(b)]);
  return [...keys].every((key) => same(a[key], b[key]));
}
const isRecord = (value: unknown): value is Record<string, unknown> =>
  value !== null && typeof value === 'object' && !Array.isArray(value);
const isList = (value: unknown): value is { id: string }[] =>
  Array.isArray(value) &&
  value.every((each) => isRecord(each) && typeof each.id === 'string') &&
  new Set(value.map(({ id }) => id)).size === value.length;

/** Three values of one place. `clash` is told what of theirs is passed over. */
function merge(
  base: unknown,
  mine: unknown,
  theirs: unknown,
  path: string[],
  clash: (path: string[], theirs: unknown) => void,
): unknown {
  if (same(mine, theirs) || same(base, theirs)) return mine;
  if (same(base, mine)) return theirs;
  if (isRecord(mine) && isRecord(theirs)) {
    const before = isRecord(base) ? base : {};
    const all: Record<string, unknown> = {};
    for (const key of new Set([...Object.keys(mine), ...Object.keys(theirs)])) {
      const value = merge(before[key], mine[key], theirs[key], [...path, key], clash);
      if (value !== undefined) all[key] = value;
    }
    return all;
  }
  if (isList(mine) && isList(theirs) && (base === undefined || isList(base)))
    return mergeById(base ?? [], mine, theirs, (id) => (a, b, c) => merge(a, b, c, [...path, id], clash));
  clash(path, theirs);
  return mine;
}

/**
 * Lists of things with ids: each is merged by itself; one that one side removed goes, unless the other has
 * changed it.
 */
function mergeById<T extends { id: string }>(
  base: readonly T[],
  mine: readonly T[],
  theirs: readonly T[],
  merged: (id: string) => (base: unknown, mine: unknown, theirs: unknown) => unknown,
): T[] {
  const [before, ours, others] = [base, mine, theirs].map(
    (list) => new Map(list.map((each) => [each.id, each])),
  ) as [Map<string, T>, Map<string, T>, Map<string, T>];
  const ids = mergeOrder(
    base.map(({ id }) => id),
    mine.map(({ id }) => id),
    theirs.map(({ id }) => id),
  );
  const kept = [...new Set([...ids, ...ours.keys(), ...others.keys()])];
  return kept.flatMap((id) => {
    const [a, b, c] = [before.get(id), ours.get(id), others.get(id)];
    if (b && c) return merged(id)(a, b, c) as T;
    if (b) return !a || !same(a, b) ? b : [];
    if (c) return !a || !same(a, c) ? c : [];
    return [];
  });
}

/**
 * The order of ids: that of whoever has changed it, ours where both have; what the other has added stands
 * after what it stood after.
 */
function mergeOrder(base: readonly string[], mine: readonly string[], theirs: readonly string[]): string[] {
  const common = (list: readonly string[]) =>
    list.filter((id) => base.includes(id) && mine.includes(id) && theirs.includes(id));
  const moved = !same(common(mine), common(base));
  const [lead, other] = moved || same(common(theirs), common(base)) ? [mine, theirs] : [theirs, mine];
  const order = [...lead];
  for (const [at, id] of other.entries()) {
    if (order.includes(id)) continue;
    const before = other.slice(0, at).findLast((each) => order.includes(each));
    order.splice(before === undefined ? 0 : order.indexOf(before) + 1, 0, id);
  }
  return order;
}
