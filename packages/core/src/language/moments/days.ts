import { addDays } from '../../time/zones';
import {
  dateOf,
  dayIn,
  dayNumber,
  daysUntil,
  distinct,
  monthAway,
  monthOf,
  one,
  weekdayOf,
  type Days,
  type DaysAt,
  type DayWorld,
} from './calendar';
import { namedDay } from './namedDays';
import type { Sentence } from './sentence';
import { sideBefore, sideBehind } from './sides';
import { shiftBehind, shifted } from './shifts';
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
  weekdayAndDay,
  weekdayAndFigure,
  weekday,
  named,
  holiday,
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
  if (said.has(next, 'am', 'pm', 'clock')) return null;
  // "Friday 12-2" is from when until when.
  if (figures.by === '-' && c === undefined && said.length > 1) return null;
  if (a > 31) {
    const day = dayIn(a, b, c ?? 1);
    return day === null ? { next, choices: [], impossible: said.words(at)! } : { next, choices: [one(day)] };
  }
  const year = c === undefined ? null : c < 100 ? fullYear(c, world) : c;
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

/** A year of two figures: of the last century where this one's is still ahead, and the past is asked for. */
function fullYear(short: number, { today, days }: DayWorld): number {
  const isAhead = 2000 + short > monthOf(today).year + (days === 'any' ? 20 : 0);
  return isAhead && days !== 'ahead' ? 1900 + short : 2000 + short;
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
  const named = weekdayAhead(said, at);
  let next = named ? said.skip(named.next, 'the', 'of', 'filler') : at;
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
  const year = yearAt(said, behind, world);
  const found = inYears(month, day, year?.n ?? null, world);
  const end = year?.next ?? next;
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
  return { next: end, choices: named ? fitting(named.n, found) : [one(found)] };
}

/** A year behind a month: of four figures, or of two that can be nothing else. */
function yearAt(said: Sentence, at: number, world: DayWorld): { n: number; next: number } | null {
  const number = said.numberAt(at);
  if (!number || number.isOrdinal) return null;
  if (number.digits === 4) return number.n >= 1880 && number.n <= 2200 ? number : null;
  const isTime = said.has(number.next, 'am', 'pm', 'clock', 'unit', 'part', 'about', 'half', 'to', 'past');
  const isYear = number.digits === 2 && number.n > 24 && !isTime && said.endsAt(number.next);
  return isYear ? { n: fullYear(number.n, world), next: number.next } : null;
}

/** "The 12th", "am 12.", "el día 12". */
function dayOfMonth(said: Sentence, at: number, world: DayWorld, isBareDay = false): DaysAt | null {
  const start = said.skip(at, 'the', 'of', 'at');
  const number = said.numberAt(start);
  if (!number || number.n < 1 || number.n > 31) return null;
  const introduced = start > at && said.has(start - 1, 'the');
  const isBare = isBareDay || (said.length === 1 && world.within !== undefined);
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

/** A weekday that a date may follow: "on Friday", "this Friday"; none that has gone by. */
function weekdayAhead(said: Sentence, at: number): { n: number; next: number } | null {
  const { side, next } = sideBefore(said, at);
  const found = side === 'last' ? undefined : said.sense(next, 'weekday');
  return found ? { n: found.n, next: next + 1 } : null;
}

/** "Sat 5th", "Friday the 4th": where they do not fit, either may be meant. */
function weekdayAndDay(said: Sentence, at: number, world: DayWorld): DaysAt | null {
  const named = weekdayAhead(said, at);
  const found = named && dayOfMonth(said, named.next, world);
  const date = found?.choices[0]?.from;
  if (!named || !found || !date) return null;
  return { next: found.next, choices: fitting(named.n, dayNumber(date)) };
}

/** "Jue 3", where the 3rd is a Thursday: a bare number that may as well be an hour is none else. */
function weekdayAndFigure(said: Sentence, at: number, world: DayWorld): DaysAt | null {
  const start = said.skip(at, 'the', 'at');
  const named = said.sense(start, 'weekday');
  const number = named && said.numberAt(start + 1);
  if (!named || !number?.digits || number.n < 1 || number.n > 31 || number.next < said.length) return null;
  const found = dayOfMonth(said, start + 1, world, true);
  const date = found?.choices[0]?.from;
  return date && weekdayOf(dayNumber(date)) === named.n ? found : null;
}

/** A day, and beside it the nearest one of a weekday that was named with it, where that is another. */
function fitting(weekday: number, day: number): Days[] {
  const off = daysUntil(weekday, day);
  return distinct([off > 3 ? day + off - 7 : day + off, day].sort((a, b) => a - b));
}

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

/** "Labor Day", "Fronleichnam 2027": the nearest on the side that is asked for. */
function holiday(said: Sentence, at: number, world: DayWorld): DaysAt | null {
  const start = said.skip(at, 'the');
  const found = said.sense(start, 'holiday');
  if (!found) return null;
  const days = found.days.map(dayNumber);
  const number = said.numberAt(start + 1);
  if (number?.digits === 4) {
    const inYear = days.filter((day) => monthOf(day).year === number.n);
    return inYear.length > 0 ? { next: number.next, choices: distinct(inYear) } : null;
  }
  const day =
    world.days === 'past'
      ? days.findLast((each) => each <= world.today)
      : days.find((each) => each >= world.today);
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
  const away = daysUntil(found.n, today);
  const weeks = shiftBehind(said, next);
  if (weeks) return { next: weeks.next, choices: [one(today + (away || 7) + weeks.days)] };
  if (world.within) {
    const first = world.within.from ? Math.max(dayNumber(world.within.from), today) : today;
    const inside = Array.from({ length: 28 }, (_, at) => first + at).filter(
      (day) => weekdayOf(day) === found.n && isWithin(day, world),
    );
    if (inside.length > 0) return { next, choices: distinct(inside.slice(0, 2)) };
  }
  if (side === 'last') {
    const day = today - (7 - away);
    // "Last Friday, the 27th" is one day.
    const number = said.numberAt(said.skip(next, 'the', 'of'));
    const isSame = number?.isOrdinal && number.n === Number(dateOf(day).slice(-2));
    return { next: isSame ? number.next : next, choices: [one(day)] };
  }
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
  const away = daysUntil(found.n, world.today);
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

/** "After the 15th", "before Friday", "by Friday" (Friday too): any of many. */
function open(said: Sentence, at: number, world: DayWorld): DaysAt | null {
  const isAfter = said.has(at, 'after');
  const isBy = said.has(at, 'by');
  if (!isAfter && !isBy && !said.has(at, 'before')) return null;
  const found = daysAt(said, at + 1, { ...world, within: undefined });
  const [first] = found?.choices ?? [];
  if (!found || !first) return null;
  const from = isAfter && first.to !== null ? addDays(first.to, 1) : null;
  const to = isBy ? first.to : !isAfter && first.from !== null ? addDays(first.from, -1) : null;
  return { next: found.next, choices: [{ from: from ?? dateOf(world.today), to }] };
}
