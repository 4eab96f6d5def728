import { check } from '../check';

/** Other systems that did not take what was sent to them last. */
export const failingOutside = check<'destination failing'>(function* ({ places, known }) {
  for (const { step, where, at } of places) {
    const reason = step.kind === 'send out' ? known.failing?.[step.address] : undefined;
    if (step.kind === 'send out' && reason !== undefined)
      yield {
        ...at,
        code: 'destination failing',
        severity: 'warns',
        about: step.address,
        reason: `The address that the send out in ${where} goes to did not take the last delivery: ${reason}.`,
      };
  }
});
