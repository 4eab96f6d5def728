import { readDays, readSpans, spansWords } from '@dart-loop/core/loops/edit/typedHours';
import type { OpeningHours } from '@dart-loop/core/time/openingHours';
import { WEEKDAYS } from '@dart-loop/core/time/zones';

/** Opening hours as they are typed: a line for each weekday, and the days on which it is closed. */
export interface TypedHours {
  days: Record<string, string>;
  daysOff: string;
}

export const typedHoursOf = (hours: OpeningHours): TypedHours => ({
  days: Object.fromEntries(WEEKDAYS.map((day) => [day, spansWords(hours[day] ?? [])])),
  daysOff: hours.daysOff?.join(', ') ?? '',
});

/** What cannot be read of them: by its weekday, or `daysOff`. */
export function hoursProblems({ days, daysOff }: TypedHours): Record<string, string> {
  const problems: Record<string, string> = {};
  for (const day of WEEKDAYS)
    if (readSpans(days[day]!) === null) problems[day] = 'Hours such as “9-12, 13:30-17”; empty is closed.';
  if (readDays(daysOff) === null) problems.daysOff = 'Days such as “2026-12-25, 2026-12-26”.';
  return problems;
}

/** The hours that lines without problems make. */
export function hoursOf({ days, daysOff }: TypedHours): OpeningHours {
  const off = readDays(daysOff)!;
  return {
    ...Object.fromEntries(
      WEEKDAYS.flatMap((day) => {
        const spans = readSpans(days[day]!)!;
        return spans.length > 0 ? [[day, spans]] : [];
      }),
    ),
    ...(off.length > 0 && { daysOff: off }),
  };
}
