import { parse, stringify } from 'yaml';
import { z } from 'zod';
import { Scene, freshId, type Loop } from '../model/loop';
import type { FieldTypes } from '../../people/person';
import { exitsOf, Step } from '../../engine/steps';
import { withValueAt } from './edits';
import { typeInto, type TypedInto } from './typedSteps';

/**
 * Steps, or whole scenes, as they travel over the clipboard: within a loop, into others, and into other
 * clients.
 */
const Clipping = z
  .object({
    format: z.literal('dart-loop/clipping/1'),
    steps: z.array(Step).max(100).optional(),
    scenes: z.array(Scene).max(300).optional(),
  })
  .strict();

const BEGINS = 'format: dart-loop/clipping/1';

/** Steps as text for the clipboard, in the order of the loop. */
export function clipSteps(loop: Loop, stepIds: readonly string[]): string {
  const steps = loop.scenes.flatMap((scene) => scene.steps).filter((step) => stepIds.includes(step.id));
  return stringify({ format: 'dart-loop/clipping/1', steps }, { lineWidth: 0 });
}

/** Scenes as text for the clipboard. */
export function clipScenes(loop: Loop, sceneIds: readonly string[]): string {
  return stringify(
    { format: 'dart-loop/clipping/1', scenes: loop.scenes.filter((scene) => sceneIds.includes(scene.id)) },
    { lineWidth: 0 },
  );
}

/**
 * Puts what is on the clipboard into a scene: steps or scenes that were copied here or elsewhere, with ids of
 * their own; any other text is read as if it were typed. What led to scenes that did not come along leads to
 * the next step.
 */
export function paste(
  loop: Loop,
  at: { sceneId: string; index: number },
  text: string,
  types: FieldTypes = {},
): TypedInto {
  if (!text.trimStart().startsWith(BEGINS)) return typeInto(loop, at, text, types);
  const read = Clipping.safeParse(readYaml(text));
  const nothing = (problem: string): TypedInto => ({ loop, stepIds: [], ...at, problem });
  if (!read.success) return nothing(`What was copied cannot be read: ${read.error.issues[0]!.message}.`);
  const { steps = [], scenes = [] } = read.data;
  const taken = new Set(loop.scenes.flatMap((scene) => scene.steps.map((step) => step.id)));
  const sceneIds = new Map<string, string>();
  const takenScenes = new Set(loop.scenes.map((scene) => scene.id));
  for (const scene of scenes) {
    const id = takenScenes.has(scene.id) ? freshId(scene.name, takenScenes) : scene.id;
    sceneIds.set(scene.id, id);
    takenScenes.add(id);
  }
  const stepIds: string[] = [];
  const renewed = (step: Step): Step => {
    const id = taken.has(step.id) ? freshId(step.kind, taken) : step.id;
    taken.add(id);
    stepIds.push(id);
    return exitsOf(step).reduce<Step>(
      (made, exit) => {
        const to =
          exit.to === 'next' || exit.to === 'end'
            ? exit.to
            : (sceneIds.get(exit.to) ?? (takenScenes.has(exit.to) ? exit.to : 'next'));
        return withValueAt(made, exit.path, to);
      },
      { ...step, id },
    );
  };
  const here = loop.scenes.findIndex((scene) => scene.id === at.sceneId);
  if (here < 0) return nothing('The scene to paste into is not there any more.');
  if ((loop.scenes[here]?.steps.length ?? 0) + steps.length > 100)
    return nothing('A scene has at most 100 steps; paste into another.');
  if (loop.scenes.length + scenes.length > 300) return nothing('A loop has at most 300 scenes.');
  const added = steps.map(renewed);
  const pasted = scenes.map((scene) => ({
    ...scene,
    id: sceneIds.get(scene.id)!,
    steps: scene.steps.map(renewed),
  }));
  const all = loop.scenes
    .map((scene, index) =>
      index === here ? { ...scene, steps: scene.steps.toSpliced(at.index, 0, ...added) } : scene,
    )
    .toSpliced(here + 1, 0, ...pasted);
  return {
    loop: { ...loop, scenes: all },
    stepIds,
    sceneId: at.sceneId,
    index: at.index + added.length,
    problem: null,
  };
}

function readYaml(text: string): unknown {
  try {
    return parse(text);
  } catch {
    return null;
  }
}
