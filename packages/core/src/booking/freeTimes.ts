import { durationMs } from '../model/basics';
import { addDays, instantOf, localTime, minutesOf, timeOfMinutes, WEEKDAYS } from '../time/zones';
import { withoutOne, type Calendar, type CalendarFacts, type Taken } from './calendar';

/** By what times are worked out: now (ms), the client's zone, and days on which the client is shut anyway. */
export interface BookingWorld {
  now: number;
  zone: string;
  daysOff?: readonly string[];
}

/** When a booking that begins at `from` (ms) ends, and until when it keeps its place, the gap after it included. */
export function keptFor(calendar: Calendar, from: number): Omit<Taken, 'count'> & { ends: number } {
  const ends = from + durationMs(calendar.length);
  return { from, ends, until: ends + (calendar.gap ? durationMs(calendar.gap) : 0) };
}

/**
 * When a booking could begin (ms), in order: every time of the calendar's hours that is neither taken nor too soon nor too far ahead.
 * `own` is a booking that would be moved and so takes nothing itself.
 */
export function freeTimes(
  { calendar, taken }: Pick<CalendarFacts, 'calendar' | 'taken'>,
  world: BookingWorld,
  own: number | null = null,
): number[] {
  const { now, zone, daysOff = [] } = world;
  const soonest = now + (calendar.notice ? durationMs(calendar.notice) : 0);
  const latest = now + durationMs(calendar.ahead);
  const length = durationMs(calendar.length);
  const every = Math.max(1, Math.round((length + (calendar.gap ? durationMs(calendar.gap) : 0)) / 60_000));
  const others = own === null ? taken : withoutOne(taken, own);
  const times: number[] = [];
  const first = localTime(now, zone).date;
  const last = localTime(latest, zone).date;
  for (let date = first; date <= last; date = addDays(date, 1)) {
    if (daysOff.includes(date) || calendar.hours.daysOff?.includes(date)) continue;
    for (const span of calendar.hours[weekdayOf(date)] ?? []) {
      const ends = instantOf(date, span.to, zone);
      for (let minute = minutesOf(span.from); minute < minutesOf(span.to); minute += every) {
        const from = instantOf(date, timeOfMinutes(minute), zone);
        // A time that a change of the clocks skips would come as another one.
        if (localTime(from, zone).time !== timeOfMinutes(minute) || from + length > ends || from < soonest || from > latest) continue;
        if (isFree(calendar, others, from)) times.push(from);
      }
    }
  }
  return times;
}

/** Whether a place is left for a booking that begins at `from` (ms): at no moment of it are all taken. */
function isFree(calendar: Calendar, taken: readonly Taken[], from: number): boolean {
  const { until } = keptFor(calendar, from);
  const within = taken.filter((each) => each.from < until && each.until > from);
  // As many as are taken at once are taken when one of them begins, or at the beginning.
  return [from, ...within.map((each) => Math.max(each.from, from))].every(
    (moment) => within.reduce((sum, each) => sum + (each.from <= moment && each.until > moment ? each.count : 0), 0) < calendar.places,
  );
}

const weekdayOf = (date: string) => WEEKDAYS[(new Date(`${date}T12:00:00Z`).getUTCDay() + 6) % 7]!;

/** Times to offer first: the soonest, but no more of one day than leave room for others. */
export function timesToOffer(free: readonly number[], most: number, zone: string): number[] {
  const ofOneDay = Math.max(1, Math.ceil(most / 2));
  const counts = new Map<string, number>();
  const chosen: number[] = [];
  for (const from of free) {
    if (chosen.length === most) break;
    const { date } = localTime(from, zone);
    const count = counts.get(date) ?? 0;
    if (count === ofOneDay) continue;
    counts.set(date, count + 1);
    chosen.push(from);
  }
  return chosen;
}
