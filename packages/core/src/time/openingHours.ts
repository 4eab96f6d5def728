import { z } from 'zod';
import { TimeOfDay, WEEKDAYS, isDate, weekdayOf } from './clockTime';

const Span = z
  .object({ from: TimeOfDay, to: TimeOfDay })
  .strict()
  .refine((span) => span.from < span.to, 'a span of opening hours ends after it begins, on the same day');
export type Span = z.infer<typeof Span>;

/** A date (YYYY-MM-DD), or a day of every year (MM-DD). */
export function isDayOff(day: string): boolean {
  // In a leap year every day of a year is a date.
  return isDate(day) || isDate(`2024-${day}`);
}

/**
 * When people are there: spans per weekday, days off by date or every year, and other hours on single dates.
 * A weekday that is left out is closed; with none at all nothing is known.
 */
export const OpeningHours = z
  .object({
    ...(Object.fromEntries(WEEKDAYS.map((day) => [day, z.array(Span).max(6).optional()])) as Record<
      (typeof WEEKDAYS)[number],
      z.ZodOptional<z.ZodArray<typeof Span>>
    >),
    daysOff: z
      .array(
        z.string().refine(isDayOff, 'a day off is a date such as "2026-12-25", or "12-25" for every year'),
      )
      .max(200)
      .optional(),
    /** Other hours on single dates, over everything else; none: closed. */
    otherHours: z
      .record(
        z.string().refine(isDate, 'single hours are for a date such as "2026-12-24"'),
        z.array(Span).max(6),
      )
      .refine((days) => Object.keys(days).length <= 400, 'at most 400 single dates have hours of their own')
      .optional(),
  })
  .strict();
export type OpeningHours = z.infer<typeof OpeningHours>;

/** Whether any opening hours are known. Where none are, the client counts as always open. */
export function hasHours(hours: OpeningHours): boolean {
  return WEEKDAYS.some((day) => (hours[day]?.length ?? 0) > 0);
}

/** When it is open on a day of the calendar (YYYY-MM-DD). */
export function spansOn(hours: OpeningHours, date: string): Span[] {
  const single = hours.otherHours?.[date];
  if (single) return single;
  return isOff(hours.daysOff, date) ? [] : (hours[weekdayOf(date)] ?? []);
}

/** Whether a date (YYYY-MM-DD) is one of the days off. */
export const isOff = (daysOff: readonly string[] | undefined, date: string): boolean =>
  daysOff !== undefined && (daysOff.includes(date) || daysOff.includes(date.slice(5)));
