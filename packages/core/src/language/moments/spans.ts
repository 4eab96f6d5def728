import {
  dayNumber,
  firstOf,
  monthAway,
  monthOf,
  one,
  span,
  weekdayOf,
  type Days,
  type DaysAt,
  type DayWorld,
} from './calendar';
import type { Sentence } from './sentence';
import { sideBefore, sideBehind } from './sides';

/** "First week of January", "the last week of December". */
export function weekOfMonth(said: Sentence, at: number, world: DayWorld): DaysAt | null {
  const start = said.skip(at, 'the', 'in');
  const ordinal = said.has(start, 'last') ? -1 : said.sense(start, 'ordinal')?.n;
  if (ordinal === undefined || ordinal > 4 || said.sense(start + 1, 'unit')?.unit !== 'week') return null;
  const next = said.skip(start + 2, 'of', 'the');
  if (!said.has(next, 'month')) return null;
  const whole = monthNamed(said, next, null, { ...world, today: world.today - 31 });
  const [{ from, to }] = whole.choices as [{ from: string; to: string }];
  const first = ordinal === -1 ? dayNumber(to) - 6 : dayNumber(`${from.slice(0, 8)}01`) + (ordinal - 1) * 7;
  return { next: whole.next, choices: [span(first, first + 6)] };
}

type Part = 'early' | 'mid' | 'late' | null;
function partBefore(said: Sentence, at: number): { part: Part; next: number } {
  for (const part of ['early', 'mid', 'late'] as const)
    if (said.has(at, part)) return { part, next: said.skip(at + 1, 'of', 'the') };
  return said.has(at, 'end')
    ? { part: 'late', next: said.skip(at + 1, 'of', 'the') }
    : { part: null, next: at };
}

/** "Next week", "early next week", "the week after next", "this weekend". */
export function spanOfWeek(said: Sentence, at: number, { today }: DayWorld): DaysAt | null {
  const start = said.skip(at, 'the', 'at', 'in', 'of');
  const { part, next } = partBefore(said, start);
  const before = sideBefore(said, next);
  const weekend = said.has(before.next, 'weekend');
  const unit = said.sense(before.next, 'unit');
  if (!weekend && unit?.unit !== 'week') return null;
  const behind = sideBehind(said, before.next + 1);
  const side = behind.side ?? before.side;
  const end = behind.side ? behind.next : before.next + 1;
  if (side === null && !weekend && part === null) return null;
  const monday =
    today -
    weekdayOf(today) +
    1 +
    (side === 'next' ? 7 : side === 'after next' ? 14 : side === 'last' ? -7 : 0);
  if (weekend) {
    // "Next weekend" may be this one, too: it is asked which day.
    const first = side === 'next' && today < monday - 2 ? monday - 2 : monday + 5;
    return { next: end, choices: [span(side === 'last' ? first : Math.max(first, today), monday + 6)] };
  }
  const [from, to] = part === 'early' ? [0, 2] : part === 'mid' ? [1, 3] : part === 'late' ? [3, 6] : [0, 6];
  const first = side === 'this' || side === null ? Math.max(monday + from, today) : monday + from;
  return { next: end, choices: [span(first, Math.max(first, monday + to))] };
}

/** "Next month", "early December", "in April", "next year". */
export function spanOfMonth(said: Sentence, at: number, world: DayWorld): DaysAt | null {
  const start = said.skip(at, 'the', 'at', 'in', 'of');
  const { part, next } = partBefore(said, start);
  const before = sideBefore(said, next);
  const month = said.sense(before.next, 'month');
  const unit = said.sense(before.next, 'unit');
  const here = monthOf(world.today);
  if (unit?.unit === 'month' || unit?.unit === 'year') {
    const behind = sideBehind(said, before.next + 1);
    const side = behind.side ?? before.side;
    if (side === null || (said.has(start, 'end') && unit.unit === 'month')) return null;
    const end = behind.side ? behind.next : before.next + 1;
    const away = side === 'next' ? 1 : side === 'after next' ? 2 : side === 'last' ? -1 : 0;
    if (unit.unit === 'year')
      return {
        next: end,
        choices: [span(firstOf(here.year + away, 1), firstOf(here.year + away + 1, 1) - 1)],
      };
    return {
      next: end,
      choices: [monthSpan(...monthAway(here.year, here.month, away), part, away === 0 ? world.today : 0)],
    };
  }
  // A month by itself needs something that says it is one: "may" and "march" are other words as well.
  if (!month || (start === at && part === null && before.side === null)) return null;
  return monthNamed(said, before.next, part, world);
}

/** A month that is all that is said: "April", "may 1990". */
export function month(said: Sentence, at: number, world: DayWorld): DaysAt | null {
  if (!said.has(at, 'month')) return null;
  const number = said.numberAt(at + 1);
  const hasYear = number?.digits === 4;
  if (said.length !== 1 && !hasYear) return null;
  return monthNamed(said, at, null, world);
}

function monthNamed(said: Sentence, at: number, part: Part, world: DayWorld): DaysAt {
  const { n } = said.sense(at, 'month')!;
  const here = monthOf(world.today);
  const number = said.numberAt(said.skip(at + 1, 'of'));
  const year = number?.digits === 4 ? number : null;
  const isPast = world.days === 'past' ? n > here.month : n < here.month;
  const of = year?.n ?? here.year + (isPast ? (world.days === 'past' ? -1 : 1) : 0);
  const floor = !year && of === here.year && n === here.month && world.days !== 'past' ? world.today : 0;
  return { next: year ? year.next : at + 1, choices: [monthSpan(of, n, part, floor)] };
}

function monthSpan(year: number, month: number, part: Part, floor: number): Days {
  const first = firstOf(year, month);
  const last = firstOf(...monthAway(year, month, 1)) - 1;
  const [from, to] =
    part === 'early'
      ? [first, first + 9]
      : part === 'mid'
        ? [first + 10, first + 19]
        : part === 'late'
          ? [first + 20, last]
          : [first, last];
  return span(floor ? Math.max(from, Math.min(floor, to)) : from, to);
}

/** "End of the month", "a fin de mes": its last day. */
export function endOfMonth(said: Sentence, at: number, world: DayWorld): DaysAt | null {
  const start = said.skip(at, 'the', 'at');
  if (!said.has(start, 'end')) return null;
  const before = sideBefore(said, said.skip(start + 1, 'of', 'the'));
  const unit = said.sense(before.next, 'unit');
  if (unit?.unit !== 'month') return null;
  const behind = sideBehind(said, before.next + 1);
  const { year, month } = monthOf(world.today);
  const away = (behind.side ?? before.side) === 'next' ? 1 : 0;
  const last = firstOf(...monthAway(year, month, away + 1)) - 1;
  return { next: behind.side ? behind.next : before.next + 1, choices: [one(last)] };
}
