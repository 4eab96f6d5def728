import { weekdayOf } from './clockTime';
import { hasHours, isOff, spansOn, type OpeningHours, type Span } from './openingHours';
import { addDays, instantOf, localTime } from './zones';

/**
 * The next dates, from one on within a year, that are otherwise than their weekday: closed, or with other
 * hours; at most `most`.
 */
export function specialDates(
  hours: OpeningHours,
  from: string,
  most: number,
): { date: string; spans: Span[] }[] {
  const found: { date: string; spans: Span[] }[] = [];
  for (let ahead = 0; ahead <= 366 && found.length < most; ahead++) {
    const date = addDays(from, ahead);
    const usual = hours[weekdayOf(date)] ?? [];
    const isSpecial =
      hours.otherHours?.[date] !== undefined || (usual.length > 0 && isOff(hours.daysOff, date));
    if (isSpecial) found.push({ date, spans: spansOn(hours, date) });
  }
  return found;
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
