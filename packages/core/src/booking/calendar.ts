import { z } from 'zod';
import { CalendarName, Duration } from '../loops/model/basics';
import { fold } from '../language/fold';
import { OpeningHours, hasHours } from '../time/openingHours';

/** What can be booked: when, for how long, how many at once. Times of day are by the client's clock. */
export const Calendar = z
  .object({
    name: CalendarName,
    /** When a booking may lie, with the days on which it may not. */
    hours: OpeningHours.refine(hasHours, 'a calendar needs the hours of at least one weekday'),
    /** How long a booking is. */
    length: Duration,
    /** What stays free after each. */
    gap: Duration.optional(),
    /** How long before it begins a time can still be booked. */
    notice: Duration.optional(),
    /** How far ahead times are offered. */
    ahead: Duration,
    /** How many can be booked for the same time. */
    places: z
      .number()
      .int()
      .min(1, 'a calendar has at least one place')
      .max(500, 'a calendar has at most 500 places'),
  })
  .strict();
export type Calendar = z.infer<typeof Calendar>;

/**
 * A stretch of time that some places are taken for, in ms since 1970: from when on, until when (the gap after
 * it included), and how many.
 */
export interface Taken {
  from: number;
  until: number;
  count: number;
}

/** A calendar of the client's with what is taken of it from now on. */
export interface CalendarFacts {
  id: string;
  calendar: Calendar;
  taken: readonly Taken[];
}

/** A booking of the person's that is still to come. Times in ms. */
export interface Booked {
  id: string;
  calendarId: string;
  from: number;
}

/** Calendars by their folded names, as steps ask for them. */
export const calendarsByName = (calendars: readonly CalendarFacts[]): Record<string, CalendarFacts> =>
  Object.fromEntries(calendars.map((each) => [fold(each.calendar.name), each]));

/** The same calendars as if nobody had booked in them. */
export const withNothingTaken = (calendars: readonly Omit<CalendarFacts, 'taken'>[]): CalendarFacts[] =>
  calendars.map((each) => ({ ...each, taken: [] }));

/**
 * The calendars by their folded names, with what is taken of them, and what somebody has booked in them that
 * is to come.
 */
export interface BookedAhead {
  calendars: Readonly<Record<string, CalendarFacts>>;
  booked: readonly Booked[];
}

/** The same once a time is taken for that person; a booking of theirs with that id moves. */
export function afterBooking(
  ahead: BookedAhead,
  { id, calendarId, from, until }: Booked & Pick<Taken, 'until'>,
): BookedAhead {
  // One that moves leaves its place first.
  const { calendars, booked } = afterCancelling(ahead, id);
  return {
    calendars: withTaken(calendars, calendarId, (taken) => [...taken, { from, until, count: 1 }]),
    booked: [...booked, { id, calendarId, from }],
  };
}

/** The same once a booking is cancelled. */
export function afterCancelling({ calendars, booked }: BookedAhead, id: string): BookedAhead {
  const gone = booked.find((each) => each.id === id);
  if (!gone) return { calendars, booked };
  return {
    calendars: withTaken(calendars, gone.calendarId, (taken) => withoutOne(taken, gone.from)),
    booked: booked.filter((each) => each !== gone),
  };
}

/** The calendars with what is taken of one of them changed. */
const withTaken = (
  calendars: BookedAhead['calendars'],
  id: string,
  change: (taken: CalendarFacts['taken']) => CalendarFacts['taken'],
): BookedAhead['calendars'] =>
  Object.fromEntries(
    Object.entries(calendars).map(([name, each]) => [
      name,
      each.id === id ? { ...each, taken: change(each.taken) } : each,
    ]),
  );

/** What is taken without one booking that begins at `from` (ms). */
export function withoutOne(taken: readonly Taken[], from: number): Taken[] {
  const at = taken.findIndex((each) => each.from === from);
  return taken.flatMap((each, index) =>
    index !== at ? [each] : each.count > 1 ? [{ ...each, count: each.count - 1 }] : [],
  );
}
