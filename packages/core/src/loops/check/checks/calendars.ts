import { fold } from '../../../language/fold';
import { check } from '../check';

/** Calendars that a loop books in and that the client does not have. */
export const calendars = check<'missing calendar'>(function* ({ places, known }) {
  if (!known.calendars) return;
  const names = new Set(known.calendars.map(({ calendar }) => fold(calendar.name)));
  for (const { step, where, at } of places)
    if (step.kind === 'book' && !names.has(fold(step.calendar)))
      yield {
        ...at,
        code: 'missing calendar',
        severity: 'stops',
        about: step.calendar,
        reason: `The client has no calendar “${step.calendar}”, in which the book in ${where} books.`,
      };
});
