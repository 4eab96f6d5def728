import { check, whereWords, type Found } from '../check';

/** Two scenes, steps, cues or choices that cannot be told apart. */
export const doubleId = check<'double id'>(function* ({ loop, places }) {
  const ids = new Map<string, string>();
  function* claim(id: string, what: string, place: Partial<Found>): Iterable<Found<'double id'>> {
    const other = ids.get(id);
    if (other)
      yield {
        ...place,
        code: 'double id',
        severity: 'stops',
        about: id,
        reason: `The id “${id.replace(/^\w+:/, '')}” is used by ${other} and by ${what}; each needs its own.`,
      };
    else ids.set(id, what);
  }
  for (const cue of loop.cues) yield* claim(`cue:${cue.id}`, 'a cue', { cueId: cue.id });
  for (const scene of loop.scenes)
    yield* claim(`scene:${scene.id}`, whereWords(loop, scene.id), { sceneId: scene.id });
  for (const { step, where, at } of places) {
    yield* claim(`step:${step.id}`, `a step in ${where}`, at);
    const choiceIds =
      (step.kind === 'say' ? step.choices : step.kind === 'ask' ? step.options : undefined)?.map(
        ({ id }) => id,
      ) ?? [];
    const twice = choiceIds.find((id, other) => choiceIds.indexOf(id) !== other);
    if (twice)
      yield {
        ...at,
        code: 'double id',
        severity: 'stops',
        about: twice,
        reason: `Two choices in ${where} have the id “${twice}”.`,
      };
  }
});
