import { check } from '../check';

/** Alerts that tell nobody. */
export const alertToNobody = check<'alert to nobody'>(function* ({ places }) {
  for (const { step, where, at } of places)
    if (step.kind === 'alert' && step.to.length === 0)
      yield {
        ...at,
        code: 'alert to nobody',
        severity: 'warns',
        reason: `The alert in ${where} goes to nobody; name at least one person.`,
        fix: { words: 'Remove the alert', edits: [{ edit: 'remove step', stepId: step.id }] },
      };
});
