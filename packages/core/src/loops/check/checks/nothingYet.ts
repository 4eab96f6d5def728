import { check } from '../check';

/** A loop that cannot begin: no cue, no scene, or a scene with nothing in it. */
export const nothingYet = check<'no cue' | 'no scene' | 'empty scene'>(function* ({ loop }) {
  if (loop.cues.length === 0)
    yield { code: 'no cue', severity: 'stops', reason: 'Nothing starts this loop yet: add a cue to it.' };
  if (loop.scenes.length === 0)
    yield {
      code: 'no scene',
      severity: 'stops',
      reason: 'There is no scene yet: add one with at least one step.',
    };
  for (const [index, scene] of loop.scenes.entries())
    if (scene.steps.length === 0)
      yield {
        code: 'empty scene',
        severity: 'stops',
        sceneId: scene.id,
        reason: `Scene ${index + 1} (${scene.name}) has no steps; add one or remove the scene.`,
        fix: { words: 'Remove the scene', edits: [{ edit: 'remove scene', sceneId: scene.id }] },
      };
});
