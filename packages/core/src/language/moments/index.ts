import { minutesOf, timeOfMinutes } from '../../time/clockTime';
import { localTime } from '../../time/zones';
import type { HolidayTable } from '../../time/holidayTable';
import { scopeOf } from '../scope';
import { partAt, timeAt, ofHalf, type PartOfDay } from './clock';
import { dateOf, dayNumber, type Days } from './calendar';
import { daysAt } from './days';
import { Sentence } from './sentence';

export { usual, type PartOfDay } from './clock';
export type { Days } from './calendar';

/** A day, a time of day, or both, as they stand in somebody's words; what is not named is empty or null. */
export interface Moment {
  /** One day or one span of days; several where it could be either. */
  days: Days[];
  /** HH:MM; two where either half of the day could be meant. */
  times: string[];
  part: PartOfDay | null;
  /** "About 4", "in two months": not to the minute or the day. */
  isAbout: boolean;
}

/** What is known beside the words. `country`: ISO 3166-1 alpha-2, `language`: ISO 639-1, `now` in ms. */
export interface MomentWorld {
  country: string;
  language: string;
  now: number;
  zone: string;
  days?: 'ahead' | 'past' | 'any';
  /** Days among which one is looked for, where it was asked which of them. */
  within?: Days;
  /** The days with a name of their own in the country; asked for when words are read. */
  holidays?: () => HolidayTable;
  /** A time is asked for: a number by itself is one. */
  asksTime?: boolean;
}

/** What was read: the moments, those that are said not to be meant, and a day that no calendar has. */
export interface Moments {
  meant: Moment[];
  excluded: Moment[];
  impossible: string | null;
}

/**
 * Every day and time of day in somebody's words, in the person's zone, in any of our languages. What "not",
 * "except" and their like leave out stands apart. Never throws.
 */
export function readMoments(written: string, world: MomentWorld): Moments {
  const short = written.slice(0, 300);
  const sentence = (words: string) => new Sentence(words, world.language, world.holidays?.());
  const whole = sentence(short);
  // "Not this Monday, the one after" is one day, and "las seis menos cuarto" one time: nothing is left out.
  if (whole.tokens.some((_, at) => whole.has(at, 'the one after') || isLess(whole, at))) {
    const read = momentsIn(whole, world);
    if (read.moments.length > 0) return { meant: read.moments, excluded: [], impossible: read.impossible };
  }
  const scope = scopeOf(short, world.language);
  if (!scope) {
    const { moments, impossible } = momentsIn(whole, world);
    return { meant: moments, excluded: [], impossible };
  }
  const meant = momentsIn(sentence(scope.meant.join(', ')), world);
  const excluded = momentsIn(sentence(scope.excluded.join(', ')), world);
  return { meant: meant.moments, excluded: excluded.moments, impossible: meant.impossible };
}

const isLess = (said: Sentence, at: number) =>
  said.has(at, 'less') && said.has(said.skip(at + 1, 'the'), 'quarter', 'number', 'ordinal');

function momentsIn(said: Sentence, world: MomentWorld): { moments: Moment[]; impossible: string | null } {
  const local = localTime(world.now, world.zone);
  const today = dayNumber(local.date);
  const dayWorld = {
    today,
    country: world.country,
    days: world.days ?? ('ahead' as const),
    within: world.within,
  };
  const found: (Moment & { isTodaysWeekday: boolean })[] = [];
  let impossible: string | null = null;
  let moment = empty();
  const next = () => {
    if (moment.days.length + moment.times.length > 0 || moment.part) found.push(moment);
    moment = empty();
  };
  for (let at = 0; at < said.length;) {
    if (!said.hasMeaning(at)) {
      at++;
      continue;
    }
    const time = timeAt(said, at, false);
    const day = time?.inMinutes === undefined ? daysAt(said, at, dayWorld) : null;
    const part = day ? null : partAt(said, at);
    if (day?.impossible) impossible = day.impossible;
    if (day && day.choices.length > 0 && !(time && isRatherTime(said, at, world))) {
      const both = moment.days.length > 0 ? shared(moment.days, day.choices) : day.choices;
      if (moment.days.length > 0 && both.length === 0) next();
      moment.days = both.length > 0 ? both : day.choices;
      moment.isTodaysWeekday ||= day.isTodaysWeekday === true;
      moment.isAbout ||= day.isAbout === true;
      at = day.next;
    } else if (part && (!time || part.next >= time.next)) {
      if (moment.part && moment.part !== part.part) next();
      moment.part = part.part;
      if (part.isToday && moment.days.length === 0) moment.days = [{ from: local.date, to: local.date }];
      at = part.next;
    } else if (day?.impossible) at = day.next;
    else {
      const asked = time ?? (world.asksTime ? timeAt(said, at, true) : null);
      if (asked?.inMinutes !== undefined) {
        const then = minutesOf(local.time) + asked.inMinutes;
        moment.days = [
          { from: dateOf(today + Math.floor(then / 1440)), to: dateOf(today + Math.floor(then / 1440)) },
        ];
        moment.times = [timeOfMinutes(then % 1440)];
        at = asked.next;
      } else if (asked && asked.times.length > 0) {
        if (moment.times.length > 0) next();
        moment.times = asked.times;
        moment.isAbout ||= asked.isAbout === true;
        at = asked.next;
      } else at++;
    }
  }
  next();
  return { moments: settled(found, local, world), impossible };
}

/** "8.15" where a time is asked for, and "Tuesday 9.30" in any case. */
const isRatherTime = (said: Sentence, at: number, { asksTime }: MomentWorld): boolean =>
  said.tokens[at]?.figures?.by === '.' &&
  (asksTime === true ||
    said.tokens.some((_, other) => other !== at && said.has(other, 'weekday', 'ahead', 'named', 'month')));

const empty = (): Moment & { isTodaysWeekday: boolean } => ({
  days: [],
  times: [],
  part: null,
  isAbout: false,
  isTodaysWeekday: false,
});

/** Days that two namings of one day have in common: "tomorrow, the 26th". */
const shared = (some: readonly Days[], others: readonly Days[]): Days[] =>
  some.flatMap((one) =>
    others.flatMap((other) => {
      const from = later(one.from, other.from);
      const to = earlier(one.to, other.to);
      return from === null || to === null || from <= to ? [{ from, to }] : [];
    }),
  );
const later = (a: string | null, b: string | null) => (a === null || (b !== null && b > a) ? b : a);
const earlier = (a: string | null, b: string | null) => (a === null || (b !== null && b < a) ? b : a);

/** What each moment comes to once all that was said is known: its half of the day, and which of two days. */
function settled(
  found: (Moment & { isTodaysWeekday: boolean })[],
  local: { date: string; time: string },
  world: MomentWorld,
): Moment[] {
  // "Thursday or Friday at 5": the time goes for both.
  const timed = found.filter(({ times, part }) => times.length > 0 || part !== null);
  const days = found.filter((each) => each.days.length > 0);
  let moments = found;
  if (days.length > 0 && timed.length === 1) {
    const { times, part } = timed[0]!;
    moments = days.map((each) => ({ ...each, times, part }));
  }
  return moments.map(({ days, times, part, isAbout, isTodaysWeekday }) => {
    const halved = part ? inPart(times, part) : times;
    const isAhead = (day: Days) =>
      day.from !== local.date ||
      halved.some((time) => time > local.time) ||
      (part !== null && part.to > local.time);
    const isTold = isTodaysWeekday && (halved.length > 0 || part !== null) && world.days !== 'past';
    return {
      days: isTold && days.length > 1 ? [days.find(isAhead) ?? days[0]!] : days,
      times: halved,
      part: halved.length > 0 ? null : part,
      isAbout,
    };
  });
}

/** Of the halves of the day the one that the named part is in: "8 tonight". */
function inPart(times: readonly string[], part: PartOfDay): string[] {
  const inside = times.filter((time) => time >= part.from && time <= part.to);
  return inside.length > 0 ? inside : ofHalf(times, part.from >= '12:00' ? 'pm' : 'am');
}
