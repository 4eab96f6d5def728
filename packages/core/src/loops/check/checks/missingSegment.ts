import { cueWords } from '../../../engine/cues';
import { conditionsIn, type Condition } from '../../../people/condition';
import { fold } from '../../../language/fold';
import { check } from '../check';

/** Segments that a cue or a split asks about and the client does not have. */
export const missingSegment = check<'missing segment'>(function* ({ loop, places, known }) {
  const { segments } = known;
  if (!segments) return;
  const missing = (conditions: Condition[]) =>
    [
      ...new Set(conditions.flatMap((when) => [...conditionsIn(when)].flatMap((each) => each.segment ?? []))),
    ].filter((name) => !segments[fold(name)]);
  for (const cue of loop.cues)
    for (const name of missing(cue.who ? [cue.who] : []))
      yield {
        cueId: cue.id,
        code: 'missing segment',
        severity: 'stops',
        about: name,
        reason: `The cue “${cueWords(cue)}” asks about the segment “${name}”, which the client does not have.`,
      };
  for (const { step, where, at } of places)
    for (const name of missing(step.kind === 'split' ? step.arms.map((arm) => arm.when) : []))
      yield {
        ...at,
        code: 'missing segment',
        severity: 'stops',
        about: name,
        reason: `The split in ${where} asks about the segment “${name}”, which the client does not have.`,
      };
});
