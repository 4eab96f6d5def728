import { minutesOf, timeOfMinutes } from '../../time/clockTime';
import type { PartName } from './senses';
import type { Sentence } from './sentence';

/** A part of the day as people name it: a time to aim at, and from when until when it goes (HH:MM). */
export interface PartOfDay {
  at: string;
  from: string;
  to: string;
}

export const PARTS: Record<PartName, PartOfDay> = {
  'early morning': { at: '08:00', from: '06:00', to: '10:00' },
  morning: { at: '09:00', from: '06:00', to: '12:00' },
  'mid-morning': { at: '10:30', from: '09:30', to: '11:30' },
  'late morning': { at: '11:30', from: '10:30', to: '12:30' },
  lunch: { at: '12:00', from: '11:30', to: '14:00' },
  'early afternoon': { at: '14:00', from: '13:00', to: '16:00' },
  afternoon: { at: '15:00', from: '12:00', to: '18:00' },
  'long afternoon': { at: '16:00', from: '12:00', to: '20:00' },
  'late afternoon': { at: '17:00', from: '16:00', to: '20:00' },
  evening: { at: '19:00', from: '17:00', to: '23:59' },
  night: { at: '21:00', from: '20:00', to: '23:59' },
};

/** A time of day at a place of a sentence. */
export interface TimeAt {
  next: number;
  /** HH:MM, those that it may be: "8" is eight in the morning or in the evening. */
  times: string[];
  isAbout?: boolean;
  /** In so many minutes from now. */
  inMinutes?: number;
}
/** A part of the day that is named, or one between two times. */
export interface PartAt {
  next: number;
  part: PartOfDay;
  /** "This morning", "tonight": today's. */
  isToday: boolean;
}

/** Both halves of the day that a clock of twelve hours may mean, in minutes; one where only one can be. */
function halves(hour: number, minute: number, isSure = false): string[] {
  if (hour > 24 || minute > 59) return [];
  const first = (hour % 24) * 60 + minute;
  return isSure || hour >= 12 || hour === 0
    ? [timeOfMinutes(first)]
    : [timeOfMinutes(first), timeOfMinutes(first + 720)];
}
const shift = (times: readonly string[], by: number) =>
  times.map((time) => timeOfMinutes((minutesOf(time) + by + 1440) % 1440));

/**
 * A time of day from one token on. `isAsked`: a time is asked for, so that a number by itself may be one.
 */
export function timeAt(said: Sentence, at: number, isAsked: boolean): TimeAt | null {
  const later = inSoLong(said, at);
  if (later) return later;
  const noted = said.has(at, 'at', 'about', 'from');
  const start = said.skip(at, 'at', 'about', 'the', 'filler');
  const found = spelt(said, start, (noted && start > at) || isAsked) ?? null;
  if (!found) return null;
  let { next, times } = found;
  let isAbout = said.tokens.slice(at, start).some((_, index) => said.has(at + index, 'about'));
  // "7 ish", "around 4".
  if (said.has(next, 'about') && said.words(next) === 'ish') [next, isAbout] = [next + 1, true];
  next = said.skip(next, 'clock');
  const meridiem = said.has(next, 'am') ? 'am' : said.has(next, 'pm') ? 'pm' : null;
  if (meridiem && times.length > 0 && !said.has(next, 'at')) {
    next++;
    times = ofHalf(times, meridiem);
  }
  return { next, times, isAbout };
}

/** The times of one half of the day; twelve in the morning is midnight. */
export function ofHalf(times: readonly string[], half: 'am' | 'pm'): string[] {
  if (times.length === 1 && times[0]!.startsWith('12') && half === 'am') return shift(times, -720);
  const kept = times.filter((time) => time < '12:00' === (half === 'am'));
  return kept.length > 0 ? kept : [...times];
}

/** "In half an hour", "in 20 minutes", "dans une heure et demie". */
function inSoLong(said: Sentence, at: number): TimeAt | null {
  if (!said.has(at, 'in')) return null;
  let next = at + 1;
  let minutes = 0;
  if (said.has(next, 'half')) {
    next = said.numberAt(next + 1) ? next + 2 : next + 1;
    if (said.sense(next, 'unit')?.unit !== 'hour') return null;
    minutes = 30;
  } else {
    const number = said.numberAt(next);
    const halfOf = number && said.has(number.next, 'half') ? number.next + 1 : number?.next;
    const unit = number && said.sense(halfOf!, 'unit');
    if (!number || !unit || (unit.unit !== 'hour' && unit.unit !== 'minute')) return null;
    next = halfOf!;
    minutes = halfOf === number.next ? number.n * (unit.unit === 'hour' ? 60 : 1) : 30;
  }
  // "An hour and a half", "une heure et demie".
  const half = said.skip(next + 1, 'and', 'filler');
  const behind = said.numberAt(half)?.n === 1 ? half + 1 : half;
  if (half > next && said.has(behind, 'half'))
    return { next: behind + 1, times: [], inMinutes: minutes + 30 };
  return minutes > 2_880 ? null : { next: next + 1, times: [], inMinutes: minutes };
}

/** A clock as it is said or written, without its half of the day. `isMeant`: a bare number is an hour. */
function spelt(said: Sentence, at: number, isMeant: boolean): { next: number; times: string[] } | null {
  const figures = said.tokens[at]?.figures;
  if (figures) {
    const [hour, minute, more] = figures.parts as [number, number, number?];
    if (more !== undefined || (figures.by !== ':' && figures.by !== 'h' && figures.by !== '.')) return null;
    return hour > 24 || minute > 59 ? null : { next: at + 1, times: halves(hour, minute, figures.padded) };
  }
  if (said.has(at, 'noon')) return { next: at + 1, times: ['12:00'] };
  if (said.has(at, 'midnight')) return { next: at + 1, times: ['00:00'] };
  if (said.has(at, 'half', 'half to', 'quarter')) return beforeHour(said, at);
  const number = said.numberAt(at);
  if (!number || number.isOrdinal) return null;
  // "Ten past four", "viertel nach drei" (above), "twenty to nine".
  const behind = said.skip(number.next, 'filler');
  if (said.has(behind, 'past', 'to') && number.n < 60 && said.numberAt(behind + 1)) {
    const hour = said.numberAt(said.skip(behind + 1, 'the', 'at'))!;
    if (hour && hour.n <= 24)
      return {
        next: hour.next,
        times: shift(halves(hour.n, 0), said.has(behind, 'past') ? number.n : -number.n),
      };
  }
  if (number.digits === 4 || number.digits === 3) {
    const [hour, minute] = [Math.floor(number.n / 100), number.n % 100];
    const isClock =
      hour <= 23 && minute <= 59 && (said.has(number.next, 'clock') || (isMeant && said.length <= 2));
    return isClock ? { next: number.next, times: halves(hour, minute, number.digits === 4) } : null;
  }
  if (number.n > 24) return null;
  return withMinutes(said, number.n, number.next, isMeant);
}

/** "Half past six", "halb sieben", "quarter to nine", "um quarto para as seis". */
function beforeHour(said: Sentence, at: number): { next: number; times: string[] } | null {
  const isQuarter = said.has(at, 'quarter');
  const by = said.has(at + 1, 'to') ? 'to' : said.has(at + 1, 'past') ? 'past' : null;
  const hour = said.numberAt(said.skip(by ? at + 2 : at + 1, 'the', 'at'));
  if (!hour || hour.isOrdinal || hour.n > 24 || hour.n === 0) return null;
  const times = halves(hour.n, 0);
  if (isQuarter) return by ? { next: hour.next, times: shift(times, by === 'to' ? -15 : 15) } : null;
  return { next: hour.next, times: shift(times, said.has(at, 'half to') || by === 'to' ? -30 : 30) };
}

/** An hour with what stands behind it: "y media", "moins le quart", "Uhr 30", "thirty", "o’clock". */
function withMinutes(
  said: Sentence,
  hour: number,
  at: number,
  isMeant: boolean,
): { next: number; times: string[] } | null {
  const clock = said.skip(at, 'clock');
  const behind = said.skip(clock, 'and');
  const whole = (next: number, by: number) => ({ next, times: shift(halves(hour, 0), by) });
  if (said.has(behind, 'less')) {
    const less = said.skip(behind + 1, 'the');
    if (said.has(less, 'quarter')) return whole(less + 1, -15);
    const number = said.numberAt(less);
    if (number?.n === 1 && said.has(number.next, 'quarter')) return whole(number.next + 1, -15);
    if (number && number.n < 60) return whole(number.next, -number.n);
  }
  if (said.has(behind, 'half') && said.sense(behind + 1, 'unit') === undefined) return whole(behind + 1, 30);
  if (said.has(behind, 'quarter')) return whole(behind + 1, 15);
  const minutes = said.numberAt(behind);
  if (minutes && !minutes.isOrdinal && minutes.n < 60 && (minutes.n >= 10 || clock > at)) {
    const isClock = behind > at || (minutes.digits === undefined && minutes.n % 5 === 0);
    if (isClock && said.endsAt(minutes.next)) return whole(minutes.next, minutes.n);
  }
  if (clock > at) return { next: clock, times: halves(hour, 0) };
  const isSaid =
    said.has(at, 'am', 'pm') ||
    (said.has(at, 'about') && said.words(at) === 'ish') ||
    (isPartBehind(said, at) && hour >= 1 && hour <= 12);
  if (isSaid) return { next: at, times: halves(hour, 0) };
  // A bare number is an hour where nothing says that it counts something else.
  return isMeant && said.endsAt(at) && !said.has(at, 'unit', 'month') && said.words(at) !== 'of'
    ? { next: at, times: halves(hour, 0) }
    : null;
}

const isPartBehind = (said: Sentence, at: number) =>
  said.has(said.skip(at, 'in', 'the', 'of', 'at', 'this'), 'part') || said.sense(at, 'ahead') !== undefined;

/** A part of the day from one token on: "this evening", "after 5", "between 3 and 5". */
export function partAt(said: Sentence, at: number): PartAt | null {
  const bounded = fromUntil(said, at) ?? betweenTimes(said, at) ?? beyondTime(said, at);
  if (bounded) return { ...bounded, isToday: false };
  const isThis = said.has(at, 'this');
  const start = said.skip(at, 'this', 'in', 'the', 'at', 'filler', 'of');
  const part = said.sense(start, 'part');
  if (!part) return null;
  const word = said.words(start)!;
  const isToday = isThis || /^(?:stasera|stamattina|esta )/.test(word);
  return { next: start + 1, part: PARTS[part.part], isToday };
}

/** Of two halves of the day the one in which most things are done: from eight in the morning to eight. */
export const usual = (times: readonly string[]): string | undefined =>
  times.find((time) => time >= '08:00' && time < '20:00') ?? times[0];

/** "10-12", beside a day. */
function fromUntil(said: Sentence, at: number): { next: number; part: PartOfDay } | null {
  const figures = said.tokens[at]?.figures;
  const [first, second, more] = figures?.parts ?? [];
  if (figures?.by !== '-' || first === undefined || second === undefined || more !== undefined) return null;
  if (said.length === 1 || first > 24 || second > 24) return null;
  const [from, to] = [usual(halves(first, 0))!, usual(halves(second, 0))!];
  return from < to ? { next: at + 1, part: { at: from, from, to } } : null;
}

function betweenTimes(said: Sentence, at: number): { next: number; part: PartOfDay } | null {
  // "9 bis 11" needs no word before it.
  const isSaid = said.has(at, 'between', 'from');
  const first = timeAt(said, said.skip(isSaid ? at + 1 : at, 'the', 'at'), true);
  if (!first || !said.has(first.next, ...(isSaid ? (['and', 'to', 'by', 'at'] as const) : ['by' as const])))
    return null;
  const second = timeAt(said, said.skip(first.next + 1, 'the', 'at'), true);
  if (!isSaid && second && !said.endsAt(second.next)) return null;
  const from = usual(first.times);
  const to = second && usual(second.times);
  if (!second || !from || !to || from >= to) return null;
  return { next: second.next, part: { at: from, from, to } };
}

function beyondTime(said: Sentence, at: number): { next: number; part: PartOfDay } | null {
  const isAfter = said.has(at, 'after') || (said.has(at, 'from') && said.has(at + 1, 'at', 'number'));
  if (!isAfter && !said.has(at, 'before', 'by')) return null;
  const found = timeAt(said, at + 1, true);
  const time = found && usual(found.times);
  if (!found || !time) return null;
  return {
    next: found.next,
    part: isAfter ? { at: time, from: time, to: '23:59' } : { at: '09:00', from: '00:00', to: time },
  };
}
