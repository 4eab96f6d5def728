import { addDays } from '../../time/zones';
import {
  dateOf,
  dayIn,
  dayNumber,
  distinct,
  firstOf,
  monthAway,
  monthOf,
  one,
  weekdayOf,
  type DaysAt,
  type DayWorld,
} from './calendar';
import { namedDay } from './namedDays';
import type { Unit } from './senses';
import type { Sentence } from './sentence';
import { sideBefore, sideBehind } from './sides';
import { endOfMonth, month, spanOfMonth, spanOfWeek, weekOfMonth } from './spans';

type Rule = (said: Sentence, at: number, world: DayWorld) => DaysAt | null;

/** The rules in the order in which they are tried: those that take more words first. */
const RULES: Rule[] = [
  written,
  theOneAfter,
  open,
  weekdayInMonth,
  weekOfMonth,
  dayAndMonth,
  spanOfWeek,
  spanOfMonth,
  endOfMonth,
  shifted,
  weekday,
  named,
  ahead,
  month,
  dayOfMonth,
];

/** The days that are named from one token on, by the first rule that reads them; null where none does. */
export function daysAt(said: Sentence, at: number, world: DayWorld): DaysAt | null {
  for (const rule of RULES) {
    const found = rule(said, at, world);
    if (found && found.next > at) return found;
  }
  return null;
}

/** Countries that write the month first, and those that write it both ways. */
const MONTH_FIRST = new Set(['US', 'PR', 'GU', 'PW', 'FM', 'MH']);
const BOTH_WAYS = new Set(['CA', 'PH']);

/** "2026-12-04", "4/12", "4.12.26". */
function written(said: Sentence, at: number, world: DayWorld): DaysAt | null {
  const figures = said.tokens[at]?.figures;
  if (!figures || figures.by === ':' || figures.by === 'h') return null;
  const [a, b, c] = figures.parts as [number, number, number?];
  const next = at + 1;
  if (figures.by === '-' && a > 31) {
    const day = dayIn(a, b, c ?? 1);
    return day === null ? { next, choices: [], impossible: said.words(at)! } : { next, choices: [one(day)] };
  }
  const year = c === undefined ? null : c < 100 ? 2000 + c : c;
  const dayFirst = inYears(b, a, year, world);
  const monthFirst = inYears(a, b, year, world);
  const tried = MONTH_FIRST.has(world.country) ? [monthFirst, dayFirst] : [dayFirst, monthFirst];
  const found = tried.filter((day): day is number => day !== null);
  if (found.length === 0)
    // "8.15" is a time, and "8.15am" one that is read before.
    return figures.by === '.' && c === undefined && a < 25 && b < 60
      ? null
      : { next, choices: [], impossible: said.words(at)! };
  return { next, choices: distinct(BOTH_WAYS.has(world.country) ? found : found.slice(0, 1)) };
}

/** A day of a month: in its year, or in the nearest on the side that is asked for; 29 February waits. */
function inYears(month: number, day: number, year: number | null, world: DayWorld): number | null {
  if (month < 1 || month > 12 || day < 1 || day > 31) return null;
  if (year !== null) return dayIn(year, month, day);
  const step = world.days === 'past' ? -1 : 1;
  for (let away = 0; away < 9; away++) {
    const found = dayIn(monthOf(world.today).year + away * step, month, day);
    if (found === null) continue;
    if (world.days === 'any' || (step > 0 ? found >= world.today : found <= world.today)) return found;
  }
  return null;
}

/** "Fri 4th of December 2026", "December 4", "el 12 de diciembre". */
function dayAndMonth(said: Sentence, at: number, world: DayWorld): DaysAt | null {
  const named = said.sense(at, 'weekday');
  let next = named ? said.skip(at + 1, 'the', 'of', 'filler') : at;
  if (named && said.tokens[next]?.isBreak) next = said.skip(next + 1, 'the');
  if (!named) next = said.skip(at, 'the', 'at', 'of');
  const start = said.numberAt(next);
  let day: number;
  let month: number;
  if (start) {
    const behind = said.skip(start.next, 'of', 'the');
    const found = said.sense(behind, 'month');
    if (!found) return null;
    [day, month, next] = [start.n, found.n, behind + 1];
  } else {
    const found = said.sense(next, 'month');
    const number = found && said.numberAt(said.skip(next + 1, 'the'));
    if (!number || (number.digits ?? 0) > 2 || number.n > 31) return null;
    // "December 4 people" is no day.
    [day, month, next] = [number.n, found.n, number.next];
  }
  const behind = said.tokens[next]?.isBreak ? next + 1 : said.skip(next, 'of');
  const year = said.numberAt(behind);
  const hasYear = year !== null && year.digits === 4 && year.n >= 1880 && year.n <= 2200;
  const found = inYears(month, day, hasYear ? year.n : null, world);
  const end = hasYear ? year.next : next;
  if (found === null)
    return {
      next: end,
      choices: [],
      impossible: said.tokens
        .slice(at, end)
        .map(({ words }) => words)
        .join(' '),
    };
  // "Friday 5 December", where the 5th is a Saturday: the Friday beside it may be meant as well.
  const off = named ? (((named.n - weekdayOf(found)) % 7) + 7) % 7 : 0;
  if (off === 0) return { next: end, choices: [one(found)] };
  return {
    next: end,
    choices: distinct([off > 3 ? found + off - 7 : found + off, found].sort((a, b) => a - b)),
  };
}

/** "The 12th", "am 12.", "el día 12". */
function dayOfMonth(said: Sentence, at: number, world: DayWorld): DaysAt | null {
  const start = said.skip(at, 'the', 'of', 'at');
  const number = said.numberAt(start);
  if (!number || number.n < 1 || number.n > 31) return null;
  const introduced = start > at && said.has(start - 1, 'the');
  const isBare = said.length === 1 && world.within !== undefined;
  if (!number.isOrdinal && !isBare && !(introduced && said.endsAt(number.next))) return null;
  if (said.has(number.next, 'unit', 'clock', 'part', 'am', 'pm', 'half', 'less', 'quarter')) return null;
  let next = number.next;
  // "The first of the month", "el primero del mes".
  const unit = said.sense(said.skip(next, 'of', 'the'), 'unit');
  if (unit?.unit === 'month') next = said.skip(next, 'of', 'the') + 1;
  const { year, month } = monthOf(world.today);
  const step = world.days === 'past' ? -1 : 1;
  for (let away = 0; away < 14; away++) {
    const found = dayIn(...monthAway(year, month, away * step), number.n);
    if (found !== null && (step > 0 ? found >= world.today : found <= world.today) && isWithin(found, world))
      return { next, choices: [one(found)] };
  }
  return null;
}

const isWithin = (day: number, { within }: DayWorld) =>
  !within || ((within.from ?? '') <= dateOf(day) && dateOf(day) <= (within.to ?? '9'));

/** Today, tomorrow and their like, and weeks from them: "today week", "heute in drei Wochen". */
function ahead(said: Sentence, at: number, world: DayWorld): DaysAt | null {
  const found = said.sense(at, 'ahead');
  if (!found) return null;
  const later = shiftBehind(said, at + 1);
  return { next: later?.next ?? at + 1, choices: [one(world.today + found.n + (later?.days ?? 0))] };
}

function named(said: Sentence, at: number, world: DayWorld): DaysAt | null {
  const start = said.skip(at, 'the');
  const found = said.sense(start, 'named');
  if (!found) return null;
  const { year } = monthOf(world.today);
  const number = said.numberAt(start + 1);
  if (number?.digits === 4) return { next: number.next, choices: [one(namedDay(found.day, number.n))] };
  const years = world.days === 'past' ? [year, year - 1] : [year, year + 1];
  const day = years
    .map((each) => namedDay(found.day, each))
    .find(
      (each) => world.days === 'any' || (world.days === 'past' ? each <= world.today : each >= world.today),
    );
  return day === undefined ? null : { next: start + 1, choices: [one(day)] };
}

function weekday(said: Sentence, at: number, world: DayWorld): DaysAt | null {
  const before = sideBefore(said, at);
  const found = said.sense(before.next, 'weekday');
  if (!found) return null;
  const behind = before.side === null || before.side === 'this' ? sideBehind(said, before.next + 1) : null;
  const side = behind?.side ?? before.side;
  const next = behind?.side ? behind.next : before.next + 1;
  const { today } = world;
  const away = (((found.n - weekdayOf(today)) % 7) + 7) % 7;
  const weeks = shiftBehind(said, next);
  if (weeks) return { next: weeks.next, choices: [one(today + (away || 7) + weeks.days)] };
  if (world.within) {
    const first = world.within.from ? Math.max(dayNumber(world.within.from), today) : today;
    const inside = Array.from({ length: 28 }, (_, at) => first + at).filter(
      (day) => weekdayOf(day) === found.n && isWithin(day, world),
    );
    if (inside.length > 0) return { next, choices: distinct(inside.slice(0, 2)) };
  }
  if (side === 'last') return { next, choices: [one(today - (7 - away))] };
  const coming = today + (away || 7);
  if (side === 'coming') return { next, choices: [one(coming)] };
  const ofNextWeek = today - weekdayOf(today) + 7 + found.n;
  if (side === 'next') return { next, choices: distinct([coming, ofNextWeek]) };
  if (side === 'after next') return { next, choices: distinct([coming + 7, ofNextWeek + 7]) };
  if (world.days === 'past')
    return { next, choices: distinct(away === 0 ? [today - 7, today] : [today + away - 7]) };
  return away === 0
    ? { next, choices: distinct([today, today + 7]), isTodaysWeekday: true }
    : { next, choices: [one(coming)] };
}

/** "Monday week", "Montag in einer Woche", "lundi en huit": how much later, in days. */
function shiftBehind(said: Sentence, at: number): { days: number; next: number } | null {
  const bare = said.sense(at, 'unit');
  if (bare?.unit === 'week' && !said.numberAt(at - 1)) return { days: 7 * bare.times, next: at + 1 };
  if (!said.has(at, 'in')) return null;
  const number = said.numberAt(at + 1);
  if (!number) return null;
  const unit = said.sense(number.next, 'unit');
  if (unit && (unit.unit === 'day' || unit.unit === 'week'))
    return { days: number.n * unit.times * (unit.unit === 'week' ? 7 : 1), next: number.next + 1 };
  // A week has eight days there, and two have fifteen.
  if (!unit && (number.n === 8 || number.n === 15) && said.words(at) === 'en')
    return { days: number.n - 1, next: number.next };
  return null;
}

/** "Not this Monday, the one after". */
function theOneAfter(said: Sentence, at: number, world: DayWorld): DaysAt | null {
  if (!said.has(at, 'not')) return null;
  const before = sideBefore(said, at + 1);
  const found = said.sense(before.next, 'weekday');
  if (!found) return null;
  let next = before.next + 1;
  while (said.tokens[next]?.isBreak || said.has(next, 'the') || said.words(next) === 'but') {
    if (said.has(next, 'the one after')) break;
    next++;
  }
  if (!said.has(next, 'the one after')) return null;
  const away = (((found.n - weekdayOf(world.today)) % 7) + 7) % 7;
  return { next: next + 1, choices: [one(world.today + (away || 7) + 7)] };
}

/** "Last Friday in April", "second Thursday of January". */
function weekdayInMonth(said: Sentence, at: number, world: DayWorld): DaysAt | null {
  const start = said.skip(at, 'the');
  const ordinal = said.has(start, 'last') ? -1 : said.sense(start, 'ordinal')?.n;
  if (ordinal === undefined || ordinal > 5) return null;
  const day = said.sense(start + 1, 'weekday');
  if (!day) return null;
  const behind = sideBefore(said, said.skip(start + 2, 'of', 'the', 'in'));
  const month = said.sense(behind.next, 'month');
  const unit = said.sense(behind.next, 'unit');
  if (!month && unit?.unit !== 'month') return null;
  const here = monthOf(world.today);
  const inMonth = (year: number, of: number): number | null => {
    const days = Array.from({ length: 31 }, (_, at) => dayIn(year, of, at + 1)).filter(
      (each): each is number => each !== null && weekdayOf(each) === day.n,
    );
    return (ordinal === -1 ? days.at(-1) : days[ordinal - 1]) ?? null;
  };
  const found = month
    ? [here.year - 1, here.year, here.year + 1].map((year) => inMonth(year, month.n))
    : (behind.side === 'next' ? [1] : [0, 1]).map((away) =>
        inMonth(...monthAway(here.year, here.month, away)),
      );
  const fits = found.filter(
    (each): each is number =>
      each !== null && (world.days === 'past' ? each <= world.today : each >= world.today),
  );
  const chosen = world.days === 'past' ? fits.at(-1) : fits[0];
  return chosen === undefined ? null : { next: behind.next + 1, choices: [one(chosen)] };
}

const LENGTH: Partial<Record<Unit, number>> = { day: 1, week: 7 };

/** "In 10 days", "three weeks today", "a fortnight on Friday", "2 years ago", "hace dos años". */
function shifted(said: Sentence, at: number, world: DayWorld): DaysAt | null {
  const isAgoBefore = said.has(at, 'ago');
  const start = isAgoBefore || said.has(at, 'in') ? at + 1 : at;
  const direct = said.sense(start, 'unit');
  const number = direct && direct.times > 1 ? { n: 1, next: start } : said.numberAt(start);
  if (!number) return null;
  const unit = said.sense(number.next, 'unit');
  if (!unit || unit.unit === 'hour' || unit.unit === 'minute') return null;
  const count = number.n * unit.times;
  let next = number.next + 1;
  const isAgo = isAgoBefore || said.has(next, 'ago');
  if (!isAgoBefore && isAgo) next++;
  const sign = isAgo ? -1 : 1;
  let base = world.today;
  let based = false;
  if (!isAgo) {
    // From a day that is named behind: "from Friday", "on Friday", "today".
    const behind = said.has(next, 'from', 'of', 'after') ? next + 1 : next;
    const day = said.sense(behind, 'weekday');
    const fromDay = said.sense(behind, 'ahead');
    if (day) {
      base = world.today + ((((day.n - weekdayOf(world.today)) % 7) + 7) % 7 || 7);
      [next, based] = [behind + 1, true];
    } else if (fromDay) {
      base = world.today + fromDay.n;
      [next, based] = [behind + 1, true];
    } else if (said.has(next, 'from'))
      [next, based] = [said.has(next + 1, 'now') ? next + 2 : next + 1, true];
    if (!based && start === at) return null;
  }
  const length = LENGTH[unit.unit];
  if (length !== undefined) return { next, choices: [one(base + sign * count * length)] };
  if (count > 1_200) return null;
  const here = monthOf(base);
  const [year, month] = monthAway(here.year, here.month, sign * count * (unit.unit === 'year' ? 12 : 1));
  const last = firstOf(...monthAway(year, month, 1)) - 1;
  return {
    next,
    choices: [one(Math.min(firstOf(year, month) + here.day - 1, last))],
    isAbout: true,
  };
}

/** "After the 15th", "before Friday": any of many. */
function open(said: Sentence, at: number, world: DayWorld): DaysAt | null {
  const isAfter = said.has(at, 'after');
  if (!isAfter && !said.has(at, 'before')) return null;
  const start = said.skip(at + 1, 'the', 'of');
  const found = daysAt(said, start, { ...world, within: undefined });
  const [first] = found?.choices ?? [];
  if (!found || !first) return null;
  const from = isAfter && first.to !== null ? addDays(first.to, 1) : null;
  const to = !isAfter && first.from !== null ? addDays(first.from, -1) : null;
  return { next: found.next, choices: [{ from: from ?? dateOf(world.today), to }] };
}
