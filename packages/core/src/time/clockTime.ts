import { z } from 'zod';

/** A time of day, 00:00 to 23:59. */
export const TimeOfDay = z
  .string()
  .regex(/^([01]\d|2[0-3]):[0-5]\d$/, 'a time of day is written like "09:00" or "17:30"');

/** Whether a text is a time of day, HH:MM. */
export const isTimeOfDay = (text: string): boolean => TimeOfDay.safeParse(text).success;

export const WEEKDAYS = [
  'monday',
  'tuesday',
  'wednesday',
  'thursday',
  'friday',
  'saturday',
  'sunday',
] as const;
export const Weekday = z.enum(WEEKDAYS);
export type Weekday = z.infer<typeof Weekday>;

/** Whether YYYY-MM-DD is a day of the calendar. */
export function isDate(date: string): boolean {
  if (!/^\d{4}-\d{2}-\d{2}$/.test(date)) return false;
  const at = Date.parse(`${date}T00:00:00Z`);
  // The 30th of February is read as a day of March.
  return !Number.isNaN(at) && new Date(at).toISOString().startsWith(date);
}

/** The weekday of a day of the calendar (YYYY-MM-DD). */
export const weekdayOf = (date: string): Weekday =>
  WEEKDAYS[(new Date(`${date}T12:00:00Z`).getUTCDay() + 6) % 7]!;

/** Minutes from midnight of a time of day, and back. */
export const minutesOf = (time: string): number => Number(time.slice(0, 2)) * 60 + Number(time.slice(3));
export const timeOfMinutes = (minutes: number): string =>
  `${String(Math.floor(minutes / 60)).padStart(2, '0')}:${String(minutes % 60).padStart(2, '0')}`;

/**
 * Whether a time of day lies from `from` (included) to `to` (not included); over midnight when `to` is not
 * after `from`.
 */
export function isBetween(time: string, from: string, to: string): boolean {
  return from < to ? time >= from && time < to : time >= from || time < to;
}

/** Whether a name is a time zone of the IANA database. */
export function isZone(name: string): boolean {
  try {
    return Boolean(new Intl.DateTimeFormat('en', { timeZone: name }));
  } catch {
    return false;
  }
}
