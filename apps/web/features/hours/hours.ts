import {
  otherHoursWords,
  readDays,
  readOtherHours,
  readSpans,
  spansWords,
} from '@dart-loop/core/loops/edit/typedHours';
import type { OpeningHours } from '@dart-loop/core/time/openingHours';
import { WEEKDAYS } from '@dart-loop/core/time/clockTime';

/** Opening hours as they are typed: a line for each weekday, and the days on which it is closed. */
export interface TypedHours {
  days: Record<string, string>;
  daysOff: string;
  otherHours: string;
}

export const typedHoursOf = (hours: OpeningHours): TypedHours => ({
  days: Object.fromEntries(WEEKDAYS.map((day) => [day, spansWords(hours[day] ?? [])])),
  daysOff: hours.daysOff?.join(', ') ?? '',
  otherHours: otherHoursWords(hours.otherHours ?? {}),
});

/** What cannot be read of them: by its weekday, `daysOff` or `otherHours`. */
export function hoursProblems({ days, daysOff, otherHours }: TypedHours): Record<string, string> {
  const problems: Record<string, string> = {};
  for (const day of WEEKDAYS)
    if (readSpans(days[day]!) === null) problems[day] = 'Hours such as “9-12, 13:30-17”; empty is closed.';
  if (readDays(daysOff) === null) problems.daysOff = 'Days such as “2026-12-25”, or “12-25” for every year.';
  if (readOtherHours(otherHours) === null)
    problems.otherHours = 'A date and its hours on each line, once, such as “2026-12-24 9-12”.';
  return problems;
}

/** The hours that lines without problems make. */
export function hoursOf({ days, daysOff, otherHours }: TypedHours): OpeningHours {
  const other = readOtherHours(otherHours)!;
  const off = readDays(daysOff)!;
  return {
    ...Object.fromEntries(
      WEEKDAYS.flatMap((day) => {
        const spans = readSpans(days[day]!)!;
        return spans.length > 0 ? [[day, spans]] : [];
      }),
    ),
    ...(off.length > 0 && { daysOff: off }),
    ...(Object.keys(other).length > 0 && { otherHours: other }),
  };
}
