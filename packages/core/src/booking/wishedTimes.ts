import { readMoments, type Moment } from '../language/moments';
import { minutesOf } from '../time/clockTime';
import { timesToOffer, type FreeTime } from './freeTimes';

/**
 * What came of reading somebody's wish: one time that they named, times to choose from (`near`: none is what
 * they named), or nothing.
 */
export type Wish =
  | { kind: 'one'; from: number }
  | { kind: 'several'; times: number[]; near: boolean }
  | { kind: 'unreadable'; reason: string };

/** How far from a time that is not free others may lie to be near it, in minutes. */
const ABOUT = 180;

/**
 * Reads words such as "Thursday at 5", "tomorrow afternoon", "next week but not Monday" or "Thursday or
 * Friday" as one of the free times (ms), or as several to choose from. Where nothing is free then, the
 * nearest are given.
 */
export function wishedTimes(
  words: string,
  free: readonly FreeTime[],
  most: number,
  world: { now: number; zone: string; language: string; country: string },
): Wish {
  const { meant, excluded } = readMoments(words, world);
  const asked = meant.length > 0 ? meant : readMoments(words, { ...world, asksTime: true }).meant;
  if (asked.length === 0 && excluded.length === 0)
    return { kind: 'unreadable', reason: 'no day and no time of day is named in it' };
  const left = free.filter((each) => !excluded.some((moment) => isOn(each, moment) && isAt(each, moment)));
  const some = (times: readonly FreeTime[], near: boolean): Wish => ({
    kind: 'several',
    times: times
      .slice(0, most)
      .map(({ from }) => from)
      .sort((a, b) => a - b),
    near,
  });
  // Only what does not suit was said.
  if (asked.length === 0) return left.length > 0 ? some(spread(left, most), false) : some(free, true);
  const perMoment = asked.map((moment) => fitting(moment, left, most));
  const [moment] = asked as [Moment];
  const isOne = asked.length === 1 && moment.days.length > 0 && moment.times.length > 0;
  if (isOne && perMoment[0]!.length === 1) return { kind: 'one', from: perMoment[0]![0]!.from };
  const wished = inTurn(perMoment);
  if (wished.length > 0) return some(wished, false);
  return nearest(moment, left.length > 0 ? left : free, some);
}

const isOn = ({ date }: FreeTime, { days }: Moment) =>
  days.length === 0 || days.some(({ from, to }) => (from ?? '') <= date && date <= (to ?? '9'));
const isAt = ({ time }: FreeTime, { times, part }: Moment) =>
  times.length > 0 ? times.includes(time) : !part || (time >= part.from && time < part.to);

/** What is free at a moment: nearest to the part of the day that is named first, of several days some. */
function fitting(moment: Moment, free: readonly FreeTime[], most: number): FreeTime[] {
  const fits = free.filter((each) => isOn(each, moment) && isAt(each, moment));
  const { part } = moment;
  if (part) {
    const away = ({ time }: FreeTime) => Math.abs(minutesOf(time) - minutesOf(part.at));
    return fits.sort((a, b) => a.date.localeCompare(b.date) || away(a) - away(b));
  }
  return moment.days.length > 0 && moment.times.length === 0 ? spread(fits, most) : fits;
}

/** The soonest, with room for other days where there are some; all of one day otherwise. */
function spread(free: readonly FreeTime[], most: number): FreeTime[] {
  if (new Set(free.map(({ date }) => date)).size <= 1) return [...free];
  const offered = timesToOffer(free, most);
  return free.filter(({ from }) => offered.includes(from));
}

/** The first of each, then the second of each, each time once. */
function inTurn(lists: readonly FreeTime[][]): FreeTime[] {
  const longest = Math.max(0, ...lists.map(({ length }) => length));
  const all = Array.from({ length: longest }, (_, at) => lists.flatMap((list) => list[at] ?? [])).flat();
  return [...new Set(all)];
}

/** What comes nearest to a moment that is not free: on its day, and about its time. */
function nearest(
  moment: Moment,
  free: readonly FreeTime[],
  some: (times: readonly FreeTime[], near: boolean) => Wish,
): Wish {
  const { days, times, part } = moment;
  const aims = times.length > 0 ? times : part ? [part.at] : [];
  const away = ({ time }: FreeTime) =>
    aims.length === 0 ? 0 : Math.min(...aims.map((aim) => Math.abs(minutesOf(time) - minutesOf(aim))));
  const thatDay = free.filter((each) => isOn(each, moment));
  const about = thatDay.filter((each) => away(each) <= ABOUT);
  if (days.length === 0) return some(about.length > 0 ? about : free, true);
  if (thatDay.length > 0)
    return some(
      [...(about.length > 0 ? about : thatDay)].sort((a, b) => away(a) - away(b)),
      true,
    );
  const aim = Date.parse(days[0]!.from ?? days[0]!.to!);
  const day = ({ date }: FreeTime) => Math.abs(Date.parse(date) - aim);
  return some(
    [...free].sort((a, b) => day(a) - day(b) || away(a) - away(b)),
    true,
  );
}
