import { minutesOf } from '../time/zones';
import type { FreeTime } from './freeTimes';
import { parseMoments, partOfDay } from '../language/replies/moments';

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
 * Reads words such as "Thursday at 5", "tomorrow afternoon" or "the 12th" as one of the free times (ms), or
 * as several to choose from. Where nothing is free then, the nearest are given.
 */
export function wishedTimes(
  words: string,
  free: readonly FreeTime[],
  most: number,
  world: { now: number; zone: string; language: string; country: string },
): Wish {
  const moments = parseMoments(words, world).filter((moment) => moment.date !== null || moment.time !== null);
  const [moment] = moments;
  if (!moment) return { kind: 'unreadable', reason: 'no day and no time of day is named in it' };
  if (moments.length > 1) return { kind: 'unreadable', reason: 'more than one time is named in it' };
  const { date, time } = moment;
  // "Afternoon" aims at a time without naming it; "at 5" names one, if not which half of the day.
  const part = partOfDay(words);
  const isNamed = time !== null && (moment.sure || part?.at !== time);
  const away = (each: { time: string }) =>
    time === null ? 0 : Math.abs(minutesOf(each.time) - minutesOf(time));
  const thatDay = date === null ? free : free.filter((each) => each.date === date);
  const exact = time === null ? [] : thatDay.filter((each) => each.time === time);
  if (exact.length === 1 && date !== null && isNamed) return { kind: 'one', from: exact[0]!.from };
  const some = (times: readonly { from: number }[], near: boolean): Wish => ({
    kind: 'several',
    times: times
      .slice(0, most)
      .map(({ from }) => from)
      .sort((a, b) => a - b),
    near,
  });
  if (exact.length > 0 && isNamed) return some(exact, false);
  const isAbout = (each: { time: string }) =>
    part && !isNamed ? each.time >= part.from && each.time < part.to : away(each) <= ABOUT;
  if (date === null) {
    const about = free.filter(isAbout);
    return about.length > 0 ? some(about, isNamed) : some(free, true);
  }
  if (thatDay.length > 0) {
    const about = thatDay.filter(isAbout);
    return some(
      [...(about.length > 0 ? about : thatDay)].sort((a, b) => away(a) - away(b)),
      time !== null && (isNamed || about.length === 0),
    );
  }
  const day = (each: { date: string }) => Math.abs(Date.parse(each.date) - Date.parse(date));
  return some(
    [...free].sort((a, b) => day(a) - day(b) || away(a) - away(b)),
    true,
  );
}
