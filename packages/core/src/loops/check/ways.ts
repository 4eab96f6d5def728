import { durationMs, type ExitKind, type Target } from '../model/basics';
import { findScene, type Loop, type Scene, type StepPlace } from '../model/loop';
import { exitsOf, kindOf, questionsOf, waitingOf, type Falling, type Step } from '../../engine/steps';
import { alwaysVisits, itemNames, returns } from '../../engine/steps/go';
import { fold } from '../../language/fold';

/** One way on from a step: by what, in the script's words, and where to; null where the run ends. */
export interface Way {
  by: ExitKind | Falling['by'];
  words: string;
  target: Target;
  to: StepPlace | null;
}

/** The place that a target leads to from a step; null for the end, and for what is missing. */
export function placeAfter(
  loop: Loop,
  { sceneIndex, stepIndex }: StepPlace,
  target: Target,
): StepPlace | null {
  if (target === 'end') return null;
  const index = target === 'next' ? sceneIndex : (findScene(loop, target)?.index ?? -1);
  return placeAt(loop, index, target === 'next' ? stepIndex + 1 : 0);
}

export function placeAt(loop: Loop, sceneIndex: number, stepIndex: number): StepPlace | null {
  const scene = loop.scenes[sceneIndex];
  const step = scene?.steps[stepIndex];
  return scene && step ? { scene, sceneIndex, step, stepIndex } : null;
}

/**
 * Every way on from a step, in the order in which they stand under it. Without one the run ends there, or
 * waits for ever.
 */
export function waysOn(loop: Loop, place: StepPlace): Way[] {
  const { step } = place;
  return [
    ...exitsOf(step).map(({ kind, words, to }): Way => ({
      by: kind,
      words,
      target: to,
      to: placeAfter(loop, place, to),
    })),
    ...kindOf(step)
      .fallsTo(step)
      .map(({ by, words }): Way => ({ by, words, target: 'next', to: placeAfter(loop, place, 'next') })),
  ];
}

/** From which steps, that go to a scene and come back, each scene can be in play, by the scenes' ids. */
function visitorsOf(loop: Loop): ReadonlyMap<string, StepPlace[]> {
  const known = visitors.get(loop);
  if (known) return known;
  const found = new Map<string, StepPlace[]>();
  for (const [sceneIndex, scene] of loop.scenes.entries())
    for (const [stepIndex, step] of scene.steps.entries()) {
      if (!returns(step)) continue;
      const open = [step.to];
      const seen = new Set<string>();
      for (let id = open.pop(); id; id = open.pop()) {
        const visited = seen.has(id) ? null : findScene(loop, id)?.scene;
        if (!visited) continue;
        seen.add(id);
        found.set(id, [...(found.get(id) ?? []), { scene, sceneIndex, step, stepIndex }]);
        // What is gone to from there to come back comes back there first.
        for (const each of visited.steps)
          if (!returns(each)) for (const exit of exitsOf(each)) open.push(exit.to);
      }
    }
  visitors.set(loop, found);
  return found;
}
const visitors = new WeakMap<Loop, ReadonlyMap<string, StepPlace[]>>();

/**
 * Where a run goes on when a scene has no more steps: after each step that may have gone there to come back;
 * null where it is over.
 */
export function onAfterScene(loop: Loop, sceneId: string, seen = new Set<string>()): (StepPlace | null)[] {
  if (seen.has(sceneId)) return [];
  seen.add(sceneId);
  const from = visitorsOf(loop).get(sceneId) ?? [];
  if (from.length === 0) return [null];
  return from.flatMap((place) => {
    const next = placeAfter(loop, place, 'next');
    return next ? [next] : onAfterScene(loop, place.scene.id, seen);
  });
}

/**
 * Whether the run stands still at the step, for the person or for time. A question that is skipped when known
 * may not, once in a while.
 */
function waits(step: Step): boolean {
  return (
    waitingOf(step) !== null ||
    step.kind === 'wait' ||
    step.kind === 'hand over' ||
    (step.kind === 'send out' && step.address !== undefined)
  );
}

/**
 * How long a way takes at least (ms): a wait that is waited out, a reply that does not come. What depends on
 * the day counts nothing.
 */
export function timeOf(step: Step, way: Pick<Way, 'by'>): number {
  if (step.kind === 'wait') return step.for ? durationMs(step.for) : 0;
  if (way.by === 'no reply') return durationMs(waitingOf(step)!.noReply!.after);
  return way.by === 'given up' && step.kind === 'hand over' && step.giveUp
    ? durationMs(step.giveUp.after)
    : 0;
}

/** A step of one of several loops that go to each other. */
export interface PlaceIn {
  loop: Loop;
  place: StepPlace;
}

/**
 * A way round through steps none of which waits, as it is walked, over the loops that go to each other; null
 * when there is none. One that does not touch `loop` is another loop's.
 */
export function circleWithoutWaiting(loop: Loop, others: readonly Loop[] = []): PlaceIn[] | null {
  const called = callable(loop, others);
  const state = new Map<Step, 'open' | 'done'>();
  for (const [sceneIndex, scene] of loop.scenes.entries())
    for (const [stepIndex, step] of scene.steps.entries()) {
      const found = walk({ loop, place: { scene, sceneIndex, step, stepIndex } }, called, state);
      if (found) return found;
    }
  return null;
}

/**
 * Where a step of a loop (`here`) that goes to another, or to a scene to come back, comes in there; null for
 * others, and where that is missing.
 */
type Called = (step: Step, here: Loop) => PlaceIn | null;

function callable(loop: Loop, others: readonly Loop[]): Called {
  const byName = new Map([...others, loop].map((each) => [fold(each.name), each]));
  return (step, here) => {
    if (returns(step)) {
      const place = placeAt(here, findScene(here, step.to)?.index ?? -1, 0);
      return place ? { loop: here, place } : null;
    }
    if (step.kind !== 'go' || step.loop === undefined) return null;
    const to = byName.get(fold(step.loop));
    const index = to ? (step.scene ? (findScene(to, step.scene)?.index ?? -1) : 0) : -1;
    const place = to && placeAt(to, index, 0);
    return place ? { loop: to, place } : null;
  };
}

/** Where the run may stand next without anybody having done anything. */
function onWithoutWaiting({ loop, place }: PlaceIn, called: Called): PlaceIn[] {
  const into = called(place.step, loop);
  // What comes back goes on once the other loop is over.
  const on = into && !endsWithoutWaiting(into, called) ? [] : waysOn(loop, place);
  return [...(into ? [into] : []), ...on.flatMap((way) => (way.to ? [{ loop, place: way.to }] : []))].filter(
    (each) => !waits(each.place.step),
  );
}

/** Whether a loop can be over, from a step on, without having waited. */
function endsWithoutWaiting(from: PlaceIn, called: Called): boolean {
  const open = waits(from.place.step) ? [] : [from];
  const seen = new Set<Step>();
  for (let here = open.pop(); here; here = open.pop()) {
    const { loop, place } = here;
    if (seen.has(place.step)) continue;
    seen.add(place.step);
    const into = called(place.step, loop);
    if (into) {
      // Where loops are called within called ones, the innermost decides; a circle of them never ends.
      if (!waits(into.place.step)) open.push(into);
      continue;
    }
    const ways = waysOn(loop, place);
    if (ways.length === 0 || ways.some((way) => way.to === null)) return true;
    for (const way of ways) if (way.to && !waits(way.to.step)) open.push({ loop, place: way.to });
  }
  return false;
}

/** Depth first with a stack of its own: a loop may have thousands of steps in a row. */
function walk(from: PlaceIn, called: Called, state: Map<Step, 'open' | 'done'>): PlaceIn[] | null {
  if (state.has(from.place.step) || waits(from.place.step)) return null;
  const trail = [{ at: from, next: onWithoutWaiting(from, called) }];
  state.set(from.place.step, 'open');
  while (trail.length > 0) {
    const here = trail.at(-1)!;
    const to = here.next.pop();
    if (!to) {
      state.set(here.at.place.step, 'done');
      trail.pop();
      continue;
    }
    const { step } = to.place;
    if (state.get(step) === 'done') continue;
    if (state.get(step) === 'open') {
      const round = trail.slice(trail.findIndex((each) => each.at.place.step === step));
      if (round.some((each) => each.at.loop === from.loop)) return round.map((each) => each.at);
      continue;
    }
    state.set(step, 'open');
    trail.push({ at: to, next: onWithoutWaiting(to, called) });
  }
  return null;
}

/** Scenes that some way leads to: from the first, and those that other loops go to. */
export function reachedScenes(loop: Loop, others: Loop[]): Set<string> {
  const asked = [loop, ...others].flatMap((other) =>
    other.scenes.flatMap((scene) =>
      scene.steps.flatMap((step) =>
        step.kind === 'go' && step.loop !== undefined && step.scene && fold(step.loop) === fold(loop.name)
          ? [step.scene]
          : [],
      ),
    ),
  );
  const open = [loop.scenes[0]?.id, ...asked].filter((id): id is string => id !== undefined);
  const reached = new Set<string>();
  while (open.length > 0) {
    const scene: Scene | undefined = loop.scenes.find((each) => each.id === open[open.length - 1]);
    open.pop();
    if (!scene || reached.has(scene.id)) continue;
    reached.add(scene.id);
    for (const step of scene.steps) for (const exit of exitsOf(step)) open.push(exit.to);
  }
  return reached;
}

/**
 * What is surely known when a step is reached: the fields and answers ("person.email", "answers.email") that
 * were stored on every way to it. What is known of a person from before is not counted. For steps that
 * nothing leads to, nothing is.
 */
export function surelyKnown(loop: Loop): { has(stepId: string, key: string): boolean } {
  const keys = new Map<string, number>();
  const bit = (key: string) => {
    if (!keys.has(key)) keys.set(key, keys.size);
    return keys.get(key)!;
  };
  const places = new Map<Step, { on: { to: Step; stores: number[] }[]; clears: number[] }>();
  for (const [sceneIndex, scene] of loop.scenes.entries())
    for (const [stepIndex, step] of scene.steps.entries()) {
      const ways = waysOn(loop, { scene, sceneIndex, step, stepIndex });
      // What was asked on the way through a scene is known when it has come back.
      const left = alwaysVisits(step) ? ways.filter(({ by }) => by === 'go') : ways;
      const on = left.flatMap((way) => {
        const next = way.to || way.target === 'end' ? [way.to] : onAfterScene(loop, scene.id);
        const stores = storedBy(step, way).map(bit);
        return next.flatMap((to) => (to ? [{ to: to.step, stores }] : []));
      });
      places.set(step, { on, clears: clearedBy(step).map(bit) });
    }
  // What is known at a step as bits; what two ways to it do not share falls away.
  const known = new Map<Step, Uint32Array>();
  const first = loop.scenes[0]?.steps[0];
  const open: Step[] = [];
  if (first) {
    known.set(first, new Uint32Array(Math.ceil(keys.size / 32)));
    open.push(first);
  }
  while (open.length > 0) {
    const step = open.pop()!;
    const { on, clears } = places.get(step)!;
    for (const { to, stores } of on) {
      const after = known.get(step)!.slice();
      for (const at of stores) after[at >> 5]! |= 1 << (at & 31);
      for (const at of clears) after[at >> 5]! &= ~(1 << (at & 31));
      const before = known.get(to);
      let less = before === undefined;
      if (before)
        for (const [at, bits] of before.entries()) {
          after[at]! &= bits;
          less ||= after[at] !== bits;
        }
      if (!less) continue;
      known.set(to, after);
      open.push(to);
    }
  }
  const byId = new Map([...known.keys()].map((step) => [step.id, step]));
  return {
    has(stepId, key) {
      const at = keys.get(key);
      const step = byId.get(stepId);
      return at !== undefined && step !== undefined && (known.get(step)![at >> 5]! & (1 << (at & 31))) !== 0;
    },
  };
}

function storedBy(step: Step, { by }: Way): string[] {
  const both = (key: string) => [`person.${key}`, `answers.${key}`];
  if (step.kind === 'ask')
    return by === 'answer' || by === 'known already'
      ? questionsOf(step).flatMap(({ field }) => both(field))
      : [];
  if (step.kind === 'book') return by === 'booked' && step.full ? [step.day, step.time].flatMap(both) : [];
  if (step.kind === 'say') return by === 'choice' ? [`answers.${step.id}`] : [];
  if (step.kind === 'go') return step.each ? itemNames(step.each).map((name) => `answers.${name}`) : [];
  if (step.kind !== 'set') return [];
  return step.changes.flatMap((change) =>
    (change.do === 'field' && !/\{\{|\{%/.test(change.value)) ||
    change.do === 'now' ||
    (change.do === 'date' && change.from === undefined && !/\{\{|\{%/.test(change.moves.join())) ||
    change.do === 'calculate'
      ? [`person.${change.field}`]
      : [],
  );
}

const clearedBy = (step: Step): string[] =>
  step.kind === 'set'
    ? step.changes.flatMap((change) => (change.do === 'clear' ? [`person.${change.field}`] : []))
    : [];

/** What a loop does that cues may wait for: "tag:added:vip", "list:News", "field:email". */
export function raisedBy(loop: Loop): string[] {
  return loop.scenes.flatMap((scene) =>
    scene.steps.flatMap((step) => {
      if (step.kind === 'ask') return questionsOf(step).map(({ field }) => `field:${field}`);
      if (step.kind === 'book') return [`field:${step.day}`, `field:${step.time}`];
      if (step.kind !== 'set') return [];
      return step.changes.flatMap((change) => {
        if (change.do === 'add tag') return [`tag:added:${change.tag}`];
        if (change.do === 'remove tag') return [`tag:removed:${change.tag}`];
        if (change.do === 'join list') return [`list:${change.list}`];
        return 'field' in change ? [`field:${change.field}`] : [];
      });
    }),
  );
}

/** What of such starts the loop. */
export function startsOn(loop: Loop): string[] {
  return loop.cues.flatMap((cue) => {
    if (cue.again === 'once') return [];
    if (cue.kind === 'tag') return [`tag:${cue.when}:${cue.tag}`];
    if (cue.kind === 'list joined') return [`list:${cue.list}`];
    return cue.kind === 'field changed' ? [`field:${cue.field}`] : [];
  });
}
