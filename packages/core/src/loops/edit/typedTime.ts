import { WEEKDAYS, type Weekday } from '../../time/clockTime';
import { fieldKey } from '../../language/slug';

const UNITS: [RegExp, string][] = [
  [/^(s|sec|secs|seconds?)$/, 's'],
  [/^(m|min|mins|minutes?)$/, 'm'],
  [/^(h|hr|hrs|hours?)$/, 'h'],
  [/^(d|days?)$/, 'd'],
];
const WEEK = /^(w|weeks?)$/;

/** "2h", "30 min", "two days" is not read, "1 week": as a duration; null when it is none. */
export function readDuration(written: string): string | null {
  const [, count, unit] = /^(\d{1,6})\s*([a-z]+)$/i.exec(written.trim()) ?? [];
  if (!count || !unit || Number(count) === 0) return null;
  if (WEEK.test(unit.toLowerCase())) return `${Number(count) * 7}d`;
  const found = UNITS.find(([pattern]) => pattern.test(unit.toLowerCase()));
  return found ? `${Number(count)}${found[1]}` : null;
}

/** "9", "9:30", "09.30", "6pm" as HH:MM; null when it is no time of day. */
export function readTimeOfDay(written: string): string | null {
  const [, hour, minute = '00', half] = /^(\d{1,2})(?:[:.](\d{2}))?\s*(am|pm)?$/i.exec(written.trim()) ?? [];
  if (hour === undefined) return null;
  const late = half?.toLowerCase() === 'pm' && Number(hour) < 12 ? 12 : 0;
  const early = half?.toLowerCase() === 'am' && Number(hour) === 12 ? -12 : 0;
  const at = Number(hour) + late + early;
  return at < 24 && Number(minute) < 60 ? `${String(at).padStart(2, '0')}:${minute}` : null;
}

export type TypedWait =
  | { for: string }
  | {
      until:
        | { time: string }
        | { weekdays: Weekday[]; time: string }
        | { field: string; days: number; time: string }
        | { open: true };
    };

/**
 * What a wait waits for: "2h", "until 9:00", "until monday or friday 9:00", "until 1 day before arrival
 * 10:00", "until open".
 */
export function readWait(written: string): TypedWait | null {
  const text = written.trim().replace(/^for\s+/i, '');
  const length = readDuration(text);
  if (length) return { for: length };
  const until = /^until\s+(.+)$/i.exec(text)?.[1]?.trim();
  if (!until) return null;
  if (/^(it is\s+)?open$/i.test(until)) return { until: { open: true } };
  const [, before, at] =
    /^(?:(.*?)[\s,]+)?(?:at\s+)?(\d{1,2}(?:[:.]\d{2})?\s*(?:am|pm)?)$/i.exec(until) ?? [];
  const time = readTimeOfDay(at ?? '') ?? '09:00';
  const rest = (at === undefined ? until : (before ?? '')).trim();
  if (rest === '') return at === undefined ? null : { until: { time } };
  const days = rest
    .toLowerCase()
    .split(/\s*(?:,|\bor\b|\band\b)\s*/)
    .map((day) => WEEKDAYS.find((each) => day.length >= 3 && each.startsWith(day)));
  if (days.every((day): day is Weekday => day !== undefined)) return { until: { weekdays: days, time } };
  const [, count, unit, side, field] =
    /^(?:(\d{1,3})\s*(d|days?|w|weeks?)\s+(before|after)\s+)?(?:the day in\s+)?(.+)$/i.exec(rest) ?? [];
  if (!field) return null;
  const offset = count
    ? Number(count) * (/^w/i.test(unit!) ? 7 : 1) * (side!.toLowerCase() === 'before' ? -1 : 1)
    : 0;
  return { until: { field: fieldKey(field), days: offset, time } };
}
