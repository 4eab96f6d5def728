import { conditionsIn } from '../../model/condition';
import { fold } from '../../words/fold';
import { check } from '../check';

/** Segments that a split asks about and the client does not have. */
export const missingSegment = check<'missing segment'>(function* ({ places, known }) {
  const { segments } = known;
  if (!segments) return;
  for (const { step, where, at } of places) {
    if (step.kind !== 'split') continue;
    const named = new Set(step.arms.flatMap((arm) => [...conditionsIn(arm.when)].flatMap((each) => each.segment ?? [])));
    for (const name of named)
      if (!segments[fold(name)])
        yield {
          ...at,
          code: 'missing segment',
          severity: 'stops',
          about: name,
          reason: `The split in ${where} asks about the segment “${name}”, which the client does not have.`,
        };
  }
});
