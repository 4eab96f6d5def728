import { isDayOff, type Span } from '../../time/openingHours';
import { isDate } from '../../time/clockTime';
import { readTimeOfDay } from './typedTime';

/**
 * Spans of one day as they are typed: "9-12, 13:30 to 17"; an empty text is none. Null when it cannot be
 * read.
 */
export function readSpans(written: string): Span[] | null {
  const parts = written
    .split(/,|;|\band\b/)
    .map((part) => part.trim())
    .filter((part) => part !== '');
  const spans = parts.map((part) => {
    const [from, to, ...more] = part.split(/\s*(?:-|–|—|\bto\b)\s*/);
    const at = readTimeOfDay(from ?? '');
    const until = readTimeOfDay(to ?? '');
    return at !== null && until !== null && at < until && more.length === 0 ? { from: at, to: until } : null;
  });
  return spans.includes(null) ? null : (spans as Span[]);
}

/** The same as it is shown: "09:00-12:00, 13:30-17:00". */
export const spansWords = (spans: readonly Span[]): string =>
  spans.map(({ from, to }) => `${from}-${to}`).join(', ');

/**
 * Days that are typed as dates with commas between, "2026-12-25" or "12-25" for every year; null when one of
 * them is none.
 */
export function readDays(written: string): string[] | null {
  const days = written
    .split(/[,;\s]+/)
    .map((day) => day.trim())
    .filter((day) => day !== '');
  return days.every(isDayOff) ? days : null;
}

/**
 * Other hours on single dates as they are typed, a line each: "2026-12-24 9-12"; a date alone is closed. Null
 * when a line cannot be read.
 */
export function readOtherHours(written: string): Record<string, Span[]> | null {
  const days: Record<string, Span[]> = {};
  for (const line of written.split('\n').map((each) => each.trim())) {
    if (line === '') continue;
    const [, date = '', rest = ''] = /^(\S+)\s*(.*)$/.exec(line)!;
    const spans = readSpans(rest.replace(/^closed$/i, ''));
    if (!isDate(date) || spans === null || date in days) return null;
    days[date] = spans;
  }
  return days;
}

/** The same as it is shown. */
export const otherHoursWords = (days: Readonly<Record<string, readonly Span[]>>): string =>
  Object.entries(days)
    .sort(([one], [other]) => (one < other ? -1 : 1))
    .map(([date, spans]) => `${date} ${spans.length > 0 ? spansWords(spans) : 'closed'}`)
    .join('\n');
