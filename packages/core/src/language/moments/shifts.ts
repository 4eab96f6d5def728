import { daysUntil, firstOf, monthAway, monthOf, one, type DaysAt, type DayWorld } from './calendar';
import type { Sentence } from './sentence';
import type { Unit } from './senses';

/** "Monday week", "Montag in einer Woche", "lundi en huit": how much later, in days. */
export function shiftBehind(said: Sentence, at: number): { days: number; next: number } | null {
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

const LENGTH: Partial<Record<Unit, number>> = { day: 1, week: 7 };

/** "In 10 days", "three weeks today", "a fortnight on Friday", "2 years ago", "hace dos años". */
export function shifted(said: Sentence, at: number, world: DayWorld): DaysAt | null {
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
      base = world.today + (daysUntil(day.n, world.today) || 7);
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
