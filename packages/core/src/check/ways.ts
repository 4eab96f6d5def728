import { findScene, type Loop, type Scene, type StepPlace } from '../model/loop';
import { exitsOf, waitingOf, type Step } from '../run/steps';
import { fold } from '../words/fold';

/** Whether the run stands still at the step, for the person or for time. A question that is skipped when known may not, once in a while. */
function waits(step: Step): boolean {
  return waitingOf(step) !== null || step.kind === 'wait' || step.kind === 'hand over' || step.kind === 'send out';
}

/** Steps that can come next without anything happening from outside. */
function nextSteps(loop: Loop, { sceneIndex, stepIndex, step }: StepPlace): StepPlace[] {
  const place = (target: string): StepPlace | null => {
    if (target === 'end') return null;
    const index = target === 'next' ? sceneIndex : (findScene(loop, target)?.index ?? -1);
    const at = target === 'next' ? stepIndex + 1 : 0;
    const found = loop.scenes[index];
    const next = found?.steps[at];
    return found && next ? { scene: found, sceneIndex: index, step: next, stepIndex: at } : null;
  };
  const targets = exitsOf(step).map((exit) => exit.to);
  if (step.kind !== 'end' && !(step.kind === 'go' && step.back !== true)) targets.push('next');
  return targets.flatMap((target) => place(target) ?? []);
}

/** A way round through steps none of which waits, as it is walked; null when there is none. */
export function circleWithoutWaiting(loop: Loop): StepPlace[] | null {
  const state = new Map<Step, 'open' | 'done'>();
  for (const [sceneIndex, scene] of loop.scenes.entries())
    for (const [stepIndex, step] of scene.steps.entries()) {
      const found = walk(loop, { scene, sceneIndex, step, stepIndex }, state);
      if (found) return found;
    }
  return null;
}

/** Depth first with a stack of its own: a loop may have thousands of steps in a row. */
function walk(loop: Loop, from: StepPlace, state: Map<Step, 'open' | 'done'>): StepPlace[] | null {
  if (state.has(from.step) || waits(from.step)) return null;
  const trail: { place: StepPlace; next: StepPlace[] }[] = [{ place: from, next: nextSteps(loop, from) }];
  state.set(from.step, 'open');
  while (trail.length > 0) {
    const here = trail.at(-1)!;
    const to = here.next.pop();
    if (!to) {
      state.set(here.place.step, 'done');
      trail.pop();
      continue;
    }
    if (waits(to.step) || state.get(to.step) === 'done') continue;
    if (state.get(to.step) === 'open') return trail.slice(trail.findIndex((each) => each.place.step === to.step)).map((each) => each.place);
    state.set(to.step, 'open');
    trail.push({ place: to, next: nextSteps(loop, to) });
  }
  return null;
}

/** Scenes that some way leads to: from the first, and those that other loops go to. */
export function reachedScenes(loop: Loop, others: Loop[]): Set<string> {
  const asked = [loop, ...others].flatMap((other) =>
    other.scenes.flatMap((scene) =>
      scene.steps.flatMap((step) =>
        step.kind === 'go' && step.loop !== undefined && step.scene && fold(step.loop) === fold(loop.name) ? [step.scene] : [],
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

/** What a loop does that cues may wait for: "tag:added:vip", "list:News", "field:email". */
export function raisedBy(loop: Loop): string[] {
  return loop.scenes.flatMap((scene) =>
    scene.steps.flatMap((step) => {
      if (step.kind === 'ask') return [`field:${step.field}`];
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
