import { z } from 'zod';
import { TimeOfDay, WEEKDAYS, addDays, instantOf, isDate, localTime, weekdayOf } from './zones';

const Span = z
  .object({ from: TimeOfDay, to: TimeOfDay })
  .strict()
  .refine((span) => span.from < span.to, 'a span of opening hours ends after it begins, on the same day');
export type Span = z.infer<typeof Span>;

/**
 * When people are there: spans per weekday, and days off by date. A weekday that is left out is closed; with
 * none at all nothing is known.
 */
export const OpeningHours = z
  .object({
    ...(Object.fromEntries(WEEKDAYS.map((day) => [day, z.array(Span).max(6).optional()])) as Record<
      (typeof WEEKDAYS)[number],
      z.ZodOptional<z.ZodArray<typeof Span>>
    >),
    daysOff: z
      .array(z.string().refine(isDate, 'a day off is a date such as "2026-12-25"'))
      .max(200)
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
  return hours.daysOff?.includes(date) ? [] : (hours[weekdayOf(date)] ?? []);
}

/** Whether it is open at `now` (ms) by the zone's wall clock. */
export function isOpen(hours: OpeningHours, now: number, zone: string): boolean {
  if (!hasHours(hours)) return true;
  const { date, time } = localTime(now, zone);
  return spansOn(hours, date).some((span) => time >= span.from && time < span.to);
}

/**
 * The instant (ms) from which it is open: `now` itself when it is, else the next opening within a year; null
 * when there is none.
 */
export function nextOpening(hours: OpeningHours, now: number, zone: string): number | null {
  if (isOpen(hours, now, zone)) return now;
  const today = localTime(now, zone).date;
  for (let ahead = 0; ahead <= 366; ahead++) {
    const date = addDays(today, ahead);
    const opens = spansOn(hours, date)
      .map((span) => instantOf(date, span.from, zone))
      .filter((at) => at > now);
    if (opens.length > 0) return Math.min(...opens);
  }
  return null;
}
