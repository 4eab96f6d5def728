import type { Target } from '../model/basics';
import { findStep, freshId, type Loop, type Scene } from '../model/loop';
import { exitsOf, type Step } from '../../engine/steps';

/**
 * Edits give a new loop and never change the one they were given; a place that is not there leaves the loop
 * as it was.
 */

/** Puts `value` at `path` of a plain value; undefined takes the entry away. */
export function withValueAt<T>(from: T, path: readonly (string | number)[], value: unknown): T {
  const [head, ...rest] = path;
  if (head === undefined) return value as T;
  if (Array.isArray(from)) {
    const next = rest.length === 0 ? value : withValueAt(from[head as number] as unknown, rest, value);
    return (
      next === undefined
        ? from.filter((_, index) => index !== head)
        : from.map((each: unknown, index) => (index === head ? next : each))
    ) as T;
  }
  const record = { ...(from as Record<string, unknown>) };
  const next = rest.length === 0 ? value : withValueAt(record[head] ?? {}, rest, value);
  if (next === undefined) delete record[head];
  else record[head] = next;
  return record as T;
}

export function editStep(loop: Loop, stepId: string, edit: (step: Step) => Step): Loop {
  return {
    ...loop,
    scenes: loop.scenes.map((scene) =>
      scene.steps.some((step) => step.id === stepId)
        ? { ...scene, steps: scene.steps.map((step) => (step.id === stepId ? edit(step) : step)) }
        : scene,
    ),
  };
}

const stepIds = (loop: Loop) => loop.scenes.flatMap((scene) => scene.steps.map((step) => step.id));

/** A step as it is before anybody has written in it. */
export type NewStep = Step extends infer S ? (S extends Step ? Omit<S, 'id'> : never) : never;

/** Adds a step to a scene at `index` (its end, when left out). Gives the id it got. */
export function addStep(
  loop: Loop,
  sceneId: string,
  step: NewStep,
  index?: number,
): { loop: Loop; stepId: string } {
  const stepId = freshId(step.kind, stepIds(loop));
  const made = { id: stepId, ...step } as Step;
  const scenes = loop.scenes.map((scene) =>
    scene.id === sceneId
      ? { ...scene, steps: scene.steps.toSpliced(index ?? scene.steps.length, 0, made) }
      : scene,
  );
  return { loop: { ...loop, scenes }, stepId };
}

export function removeStep(loop: Loop, stepId: string): Loop {
  return {
    ...loop,
    scenes: loop.scenes.map((scene) =>
      scene.steps.some((step) => step.id === stepId)
        ? { ...scene, steps: scene.steps.filter((step) => step.id !== stepId) }
        : scene,
    ),
  };
}

/** Takes several steps out at once. */
export function removeSteps(loop: Loop, stepIds: readonly string[]): Loop {
  return {
    ...loop,
    scenes: loop.scenes.map((scene) => ({
      ...scene,
      steps: scene.steps.filter((step) => !stepIds.includes(step.id)),
    })),
  };
}

/** Puts steps, in the order they stand in, before the step at `index` of a scene. */
export function placeSteps(
  loop: Loop,
  stepIds: readonly string[],
  at: { sceneId: string; index: number },
): Loop {
  const scene = loop.scenes.find((each) => each.id === at.sceneId);
  const moved = loop.scenes.flatMap((each) => each.steps).filter((step) => stepIds.includes(step.id));
  if (!scene || moved.length === 0) return loop;
  const before = scene.steps.slice(0, at.index).filter((step) => !stepIds.includes(step.id)).length;
  const without = removeSteps(loop, stepIds);
  return {
    ...without,
    scenes: without.scenes.map((each) =>
      each.id === at.sceneId ? { ...each, steps: each.steps.toSpliced(before, 0, ...moved) } : each,
    ),
  };
}

/** Moves steps one line up or down together, over a scene's edge too. */
export function moveSteps(loop: Loop, stepIds: readonly string[], by: -1 | 1): Loop {
  const inOrder = loop.scenes
    .flatMap((scene) => scene.steps.map((step) => step.id))
    .filter((id) => stepIds.includes(id));
  if (inOrder.length <= 1) return inOrder[0] === undefined ? loop : moveStep(loop, inOrder[0], by);
  const edge = findStep(loop, by < 0 ? inOrder[0]! : inOrder.at(-1)!)!;
  const at = edge.stepIndex + by;
  if (at >= 0 && at < edge.scene.steps.length)
    return placeSteps(loop, inOrder, { sceneId: edge.scene.id, index: by < 0 ? at : at + 1 });
  const scene = loop.scenes[edge.sceneIndex + by];
  return scene
    ? placeSteps(loop, inOrder, { sceneId: scene.id, index: by < 0 ? scene.steps.length : 0 })
    : loop;
}

/** The same step again, right after it, with an id of its own. */
export function duplicateStep(loop: Loop, stepId: string): { loop: Loop; stepId: string } {
  const place = findStep(loop, stepId);
  if (!place) return { loop, stepId };
  const { id: _id, ...copy } = place.step;
  return addStep(loop, place.scene.id, structuredClone(copy) as NewStep, place.stepIndex + 1);
}

/** Moves a step one line up or down; over a scene's edge it goes into the neighbouring scene. */
export function moveStep(loop: Loop, stepId: string, by: -1 | 1): Loop {
  const place = findStep(loop, stepId);
  if (!place) return loop;
  const { step, sceneIndex, stepIndex, scene } = place;
  const inScene = stepIndex + by >= 0 && stepIndex + by < scene.steps.length;
  const targetScene = inScene ? sceneIndex : sceneIndex + by;
  if (targetScene < 0 || targetScene >= loop.scenes.length) return loop;
  const without = removeStep(loop, stepId);
  const index = inScene ? stepIndex + by : by < 0 ? without.scenes[targetScene]!.steps.length : 0;
  return {
    ...without,
    scenes: without.scenes.map((each, at) =>
      at === targetScene ? { ...each, steps: each.steps.toSpliced(index, 0, step) } : each,
    ),
  };
}

export function addScene(loop: Loop, name: string, index?: number): { loop: Loop; sceneId: string } {
  const sceneId = freshId(
    name,
    loop.scenes.map((scene) => scene.id),
  );
  const scene: Scene = { id: sceneId, name, steps: [] };
  return { loop: { ...loop, scenes: loop.scenes.toSpliced(index ?? loop.scenes.length, 0, scene) }, sceneId };
}

/**
 * Removes a scene; targets that led to it stay and are found by the check, so that nothing is redirected
 * unseen.
 */
export function removeScene(loop: Loop, sceneId: string): Loop {
  return { ...loop, scenes: loop.scenes.filter((scene) => scene.id !== sceneId) };
}

export function renameScene(loop: Loop, sceneId: string, name: string): Loop {
  return { ...loop, scenes: loop.scenes.map((scene) => (scene.id === sceneId ? { ...scene, name } : scene)) };
}

export function moveScene(loop: Loop, sceneId: string, by: -1 | 1): Loop {
  const index = loop.scenes.findIndex((scene) => scene.id === sceneId);
  const scene = loop.scenes[index];
  if (!scene || index + by < 0 || index + by >= loop.scenes.length) return loop;
  return { ...loop, scenes: loop.scenes.toSpliced(index, 1).toSpliced(index + by, 0, scene) };
}

/** Points one exit of a step, by its path in the step, to another target. */
export function setTarget(loop: Loop, stepId: string, path: (string | number)[], to: Target): Loop {
  return editStep(loop, stepId, (step) => withValueAt(step, path, to));
}

export function addChoice(loop: Loop, stepId: string, label: string): Loop {
  return editStep(loop, stepId, (step) => {
    if (step.kind !== 'say') return step;
    const choices = step.choices ?? [];
    return {
      ...step,
      choices: [
        ...choices,
        {
          id: freshId(
            label,
            choices.map((choice) => choice.id),
          ),
          label,
          to: 'next',
        },
      ],
    };
  });
}

/** How many exits lead to a scene: asked before it is removed. */
export function exitsTo(loop: Loop, sceneId: string): number {
  return loop.scenes
    .flatMap((scene) => scene.steps)
    .flatMap((step) => exitsOf(step))
    .filter((exit) => exit.to === sceneId).length;
}
