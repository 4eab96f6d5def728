import { check } from '../check';
import { reachedScenes } from '../ways';

/** Scenes that nothing leads to, and steps after one that always leads elsewhere. */
export const neverReached = check<'scene never reached' | 'step never reached'>(function* (world) {
  const { loop, known, places } = world;
  const reached = reachedScenes(loop, known.others ?? []);
  for (const [index, scene] of loop.scenes.entries())
    if (!reached.has(scene.id))
      yield {
        code: 'scene never reached',
        severity: 'warns',
        sceneId: scene.id,
        reason: `Scene ${index + 1} (${scene.name}) is never reached: nothing leads there.`,
        fix: { words: 'Remove the scene', edits: [{ edit: 'remove scene', sceneId: scene.id }] },
      };
  for (const [index, { step, where, at, stepIndex }] of places.entries()) {
    const before = stepIndex > 0 ? places[index - 1] : undefined;
    if (before && !world.ways(before).some((way) => way.target === 'next'))
      yield {
        ...at,
        code: 'step never reached',
        severity: 'warns',
        reason: `The ${step.kind} in ${where} is never reached: the step before it always leads elsewhere.`,
        fix: { words: 'Remove the step', edits: [{ edit: 'remove step', stepId: step.id }] },
      };
  }
});
