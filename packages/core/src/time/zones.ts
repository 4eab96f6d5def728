import { DateTime } from 'luxon';
import { localeOf } from '../language/locale';
import { WEEKDAYS, isDate, type Weekday } from './clockTime';

/** The wall clock of a zone at an instant (ms since 1970, UTC). */
export function localTime(now: number, zone: string): { date: string; time: string; weekday: Weekday } {
  const at = DateTime.fromMillis(now, { zone });
  return { date: at.toFormat('yyyy-MM-dd'), time: at.toFormat('HH:mm'), weekday: WEEKDAYS[at.weekday - 1]! };
}

/** An instant (ms) as people read it: "Thu 3 Dec, 17:00". At most 20 characters in most languages. */
export const momentWords = (at: number, zone: string, language = 'en'): string =>
  DateTime.fromMillis(at, { zone, locale: localeOf(language) }).toFormat('ccc d LLL, HH:mm');

/** How a day of a month is written, by language; as in English where none is here. */
const DAY_OF_MONTH: Record<string, string> = { es: "d 'de' LLLL", pt: "d 'de' LLLL", de: 'd. LLLL' };
const WEEKDAY: Record<string, string> = { es: 'cccc, ', pt: 'cccc, ', de: 'cccc, ' };

/**
 * A day of the calendar (YYYY-MM-DD) as people read it, in a language (ISO 639-1): "Thursday 3 December",
 * short "Thu 3 Dec", or "3 December". Written by us, as engines put commas differently.
 */
export function dayWords(date: string, language: string, format: 'long' | 'short' | 'of month'): string {
  const ofMonth = DAY_OF_MONTH[language] ?? 'd LLLL';
  const pattern = {
    long: (WEEKDAY[language] ?? 'cccc ') + ofMonth,
    short: 'ccc d LLL',
    'of month': ofMonth,
  }[format];
  return DateTime.fromISO(date, { zone: 'utc', locale: localeOf(language) }).toFormat(pattern);
}

/** A calendar day moved by whole days. */
export function addDays(date: string, days: number): string {
  return DateTime.fromISO(date, { zone: 'utc' }).plus({ days }).toFormat('yyyy-MM-dd');
}

/** A calendar day moved by whole months: to the last day of one that is too short. */
export function addMonths(date: string, months: number): string {
  return DateTime.fromISO(date, { zone: 'utc' }).plus({ months }).toFormat('yyyy-MM-dd');
}

/**
 * The instant of a wall clock. A time that a change to summer time skips is taken as much later as the clocks
 * go on; one that comes twice is its first.
 */
export function instantOf(date: string, time: string, zone: string): number {
  const [hour, minute] = time.split(':').map(Number) as [number, number];
  const [year, month, day] = date.split('-').map(Number) as [number, number, number];
  const at = DateTime.fromObject({ year, month, day, hour, minute }, { zone });
  const earlier = at.minus({ hours: 1 });
  // Where an hour comes twice, the hour before has the same wall clock: that one is the first.
  return earlier.hour === hour && earlier.minute === minute && earlier.day === day
    ? earlier.toMillis()
    : at.toMillis();
}

/**
 * The next instant after `now` at which the wall clock of the zone shows `time`, on one of `weekdays` when
 * they are given.
 */
export function nextTime(
  now: number,
  zone: string,
  time: string,
  weekdays: readonly Weekday[] = WEEKDAYS,
): number {
  const today = localTime(now, zone).date;
  for (let ahead = 0; ahead <= 8; ahead++) {
    const at = instantOf(addDays(today, ahead), time, zone);
    if (at > now && weekdays.includes(localTime(at, zone).weekday)) return at;
  }
  throw new Error(`no ${time} within eight days of ${new Date(now).toISOString()}`);
}

/** When a yearly day comes next, today included: 29 February is kept on the 28th in years that lack it. */
export function nextAnniversary(date: string, today: string): string {
  const inYear = (year: number) => {
    const wished = `${String(year).padStart(4, '0')}${date.slice(4)}`;
    return isDate(wished) ? wished : `${String(year).padStart(4, '0')}-02-28`;
  };
  const year = Number(today.slice(0, 4));
  return inYear(year) >= today ? inYear(year) : inYear(year + 1);
}
