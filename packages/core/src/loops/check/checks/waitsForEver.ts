import { waitingOf } from '../../../engine/steps';
import { check } from '../check';

/** Questions that wait for ever when nobody replies, and hand-overs that wait for ever when nobody comes. */
export const waitsForEver = check<'no way out' | 'hand-over to nobody'>(function* ({ places }) {
  for (const { step, where, at } of places) {
    const waiting = waitingOf(step);
    if (waiting && !waiting.noReply)
      yield {
        ...at,
        code: 'no way out',
        severity: 'warns',
        reason: `The ${step.kind} in ${where} has no exit for when nobody replies; add “no reply in …”, so that the run does not wait for ever.`,
        fix: {
          words: 'Add “no reply in 1 d → the end”',
          edits: [{ edit: 'step', stepId: step.id, path: ['noReply'], value: { after: '1d', to: 'end' } }],
        },
      };
    if (step.kind === 'hand over' && !step.giveUp)
      yield {
        ...at,
        code: 'hand-over to nobody',
        severity: 'warns',
        reason: `The hand-over in ${where} has no exit for when nobody steps in; say after how long the loop goes on.`,
        fix: {
          words: 'Go on after 1 d',
          edits: [{ edit: 'step', stepId: step.id, path: ['giveUp'], value: { after: '1d', to: 'next' } }],
        },
      };
  }
});
