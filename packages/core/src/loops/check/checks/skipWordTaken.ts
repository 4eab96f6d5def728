import { isSkipWord } from '../../../consent/words';
import { check } from '../check';

/** Options that are also words for passing over their question. */
export const skipWordTaken = check<'skip word taken'>(function* ({ places }) {
  for (const { step, where, at } of places)
    if (step.kind === 'ask' && step.skip && (step.options ?? []).some((option) => isSkipWord(option.label)))
      yield {
        ...at,
        code: 'skip word taken',
        severity: 'warns',
        reason: `An option of the question in ${where} is also a word for skipping it; it is read as the option when tapped, and as skipping when typed.`,
        fix: {
          words: 'Let it not be skipped',
          edits: [{ edit: 'step', stepId: step.id, path: ['skip'], value: undefined }],
        },
      };
});
