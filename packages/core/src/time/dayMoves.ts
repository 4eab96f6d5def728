import { z } from 'zod';
import { hasHours, isOff, spansOn, type OpeningHours } from './openingHours';
import { weekdayOf } from './clockTime';
import { addDays, addMonths } from './zones';

const BY = /^([+-]) ?(\d{1,4}) (working day|day|week|month|year)s?$/;
const TO_EDGE = /^(start|end) of (week|month|year)$/;
const ON_WORKING_DAY = 'on a working day';

/** One move of a day of the calendar, as people write it. Merge fields may stand in it. */
export const DayMove = z
  .string()
  .trim()
  .max(100)
  .refine(
    (move) => move.includes('{{') || isDayMove(move),
    'a day is moved by such as "+6 weeks", "-1 day", "+3 working days", "end of month" or "on a working day"',
  );

/** Whether words move a day: "+6 weeks", "start of week", "on a working day". */
export const isDayMove = (move: string): boolean =>
  BY.test(move) || TO_EDGE.test(move) || move === ON_WORKING_DAY;

/** Working days further off than this, by the calendar, are not looked for. */
const MOST_DAYS_LOOKED_AT = 15_000;

/**
 * A day (YYYY-MM-DD) moved; in a month that is too short, its last day. Working days are those on which the
 * client is open, or Monday to Friday where no hours are known. Null where the words move nothing, where
 * there is no such working day, or outside of the years 1 to 9999.
 */
export function moveDay(date: string, move: string, hours: OpeningHours): string | null {
  const [, sign, count, unit] = BY.exec(move) ?? [];
  const by = Number(`${sign}${count}`);
  const moved =
    unit === 'day'
      ? addDays(date, by)
      : unit === 'week'
        ? addDays(date, by * 7)
        : unit === 'month'
          ? addMonths(date, by)
          : unit === 'year'
            ? addMonths(date, by * 12)
            : unit === 'working day'
              ? byWorkingDays(date, by, hours)
              : move === ON_WORKING_DAY
                ? byWorkingDays(addDays(date, -1), 1, hours)
                : toEdge(date, move);
  return moved !== null && /^(?!0000)\d{4}-\d{2}-\d{2}$/.test(moved) ? moved : null;
}

function byWorkingDays(date: string, by: number, hours: OpeningHours): string | null {
  const step = by < 0 ? -1 : 1;
  let at = date;
  let left = Math.abs(by);
  for (let looked = 0; left > 0; looked++) {
    if (looked >= MOST_DAYS_LOOKED_AT) return null;
    at = addDays(at, step);
    if (isWorkingDay(at, hours)) left--;
  }
  return at;
}

function isWorkingDay(date: string, hours: OpeningHours): boolean {
  if (hasHours(hours)) return spansOn(hours, date).length > 0;
  return !['saturday', 'sunday'].includes(weekdayOf(date)) && !isOff(hours.daysOff, date);
}

function toEdge(date: string, move: string): string | null {
  const [, edge, of] = TO_EDGE.exec(move) ?? [];
  if (of === 'week') {
    const fromMonday = (new Date(`${date}T12:00:00Z`).getUTCDay() + 6) % 7;
    return addDays(date, edge === 'start' ? -fromMonday : 6 - fromMonday);
  }
  if (of === 'year') return `${date.slice(0, 4)}-${edge === 'start' ? '01-01' : '12-31'}`;
  if (of !== 'month') return null;
  const first = `${date.slice(0, 8)}01`;
  return edge === 'start' ? first : addDays(addMonths(first, 1), -1);
}
