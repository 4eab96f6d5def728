import { durationMs } from '../loops/model/basics';
import { isOff, spansOn } from '../time/openingHours';
import { minutesOf, timeOfMinutes } from '../time/clockTime';
import { addDays, instantOf, localTime } from '../time/zones';
import { withoutOne, type Calendar, type CalendarFacts, type Taken } from './calendar';

/** By what times are worked out: now (ms), the client's zone, and days on which the client is shut anyway. */
export interface BookingWorld {
  now: number;
  zone: string;
  daysOff?: readonly string[];
}

const DAY = 86_400_000;

/**
 * When a booking that begins at `from` (ms) ends, and until when it keeps its place, the gap after it
 * included.
 */
export function keptFor(calendar: Calendar, from: number): Omit<Taken, 'count'> & { ends: number } {
  const ends = from + durationMs(calendar.length);
  return { from, ends, until: ends + (calendar.gap ? durationMs(calendar.gap) : 0) };
}

/** When a booking could begin: the instant (ms), and the day and time of it by the client's clock. */
export interface FreeTime {
  from: number;
  date: string;
  time: string;
}

/**
 * When a booking could begin, in order: every time of the calendar's hours that is neither taken nor too soon
 * nor too far ahead.
 * `own` is a booking that would be moved and so takes nothing itself.
 */
export function freeTimes(
  { calendar, taken }: Pick<CalendarFacts, 'calendar' | 'taken'>,
  world: BookingWorld,
  own: number | null = null,
): FreeTime[] {
  const { now, zone, daysOff = [] } = world;
  const soonest = now + (calendar.notice ? durationMs(calendar.notice) : 0);
  const latest = now + durationMs(calendar.ahead);
  const length = durationMs(calendar.length);
  const every = Math.max(1, Math.round((length + (calendar.gap ? durationMs(calendar.gap) : 0)) / 60_000));
  const others = own === null ? taken : withoutOne(taken, own);
  const times: FreeTime[] = [];
  const last = localTime(latest, zone).date;
  let begins = instantOf(localTime(now, zone).date, '00:00', zone);
  for (let date = localTime(now, zone).date; date <= last; date = addDays(date, 1)) {
    const ends = instantOf(addDays(date, 1), '00:00', zone);
    const spans = isOff(daysOff, date) ? [] : spansOn(calendar.hours, date);
    // On most days the clock goes on evenly from midnight on; where it is changed, each time is looked up.
    const isEven = ends - begins === DAY;
    const midnight = begins;
    const at = (minute: number) =>
      isEven ? midnight + minute * 60_000 : instantOf(date, timeOfMinutes(minute), zone);
    const ofDay = others.filter((each) => each.from < ends + DAY && each.until > midnight);
    for (const span of spans)
      for (let minute = minutesOf(span.from); minute < minutesOf(span.to); minute += every) {
        const from = at(minute);
        // A time that a change of the clocks skips would come as another one.
        const time = timeOfMinutes(minute);
        const isSkipped = !isEven && localTime(from, zone).time !== time;
        if (isSkipped || from + length > at(minutesOf(span.to)) || from < soonest || from > latest) continue;
        if (isFree(calendar, ofDay, from)) times.push({ from, date, time });
      }
    begins = ends;
  }
  return times;
}

/** Whether a place is left for a booking that begins at `from` (ms): at no moment of it are all taken. */
function isFree(calendar: Calendar, taken: readonly Taken[], from: number): boolean {
  const { until } = keptFor(calendar, from);
  const within = taken.filter((each) => each.from < until && each.until > from);
  // As many as are taken at once are taken when one of them begins, or at the beginning.
  return [from, ...within.map((each) => Math.max(each.from, from))].every(
    (moment) =>
      within.reduce((sum, each) => sum + (each.from <= moment && each.until > moment ? each.count : 0), 0) <
      calendar.places,
  );
}

/** Times to offer first: the soonest, but no more of one day than leave room for others. */
export function timesToOffer(free: readonly FreeTime[], most: number): number[] {
  const ofOneDay = Math.max(1, Math.ceil(most / 2));
  const counts = new Map<string, number>();
  const chosen: number[] = [];
  for (const { from, date } of free) {
    if (chosen.length === most) break;
    const count = counts.get(date) ?? 0;
    if (count === ofOneDay) continue;
    counts.set(date, count + 1);
    chosen.push(from);
  }
  return chosen;
}
