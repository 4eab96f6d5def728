/** How dates, times and numbers are written: as whoever is signed in wants it, else as the device is set. */
let display: { locale: string; timeZone: string | undefined } = { locale: 'en-GB', timeZone: undefined };
export function setDisplay(locale: string | null, timeZone: string | null): void {
  display = { locale: locale ?? 'en-GB', timeZone: timeZone ?? undefined };
}

/** A number with its thousands parted. */
export const grouped = (count: number): string => count.toLocaleString(display.locale);

/** A moment (ISO 8601, or ms) in parts that are named; in the zone that is named, else in one’s own. */
export const dateWords = (at: string | number | Date, parts: Intl.DateTimeFormatOptions): string =>
  new Date(at).toLocaleString(display.locale, { timeZone: display.timeZone, ...parts });

const MINUTE = 60_000;
const HOUR = 60 * MINUTE;
const DAY = 24 * HOUR;

/** "just now", "12 min", "3 h" within a day, then "Tue 17 Nov" or "17 Nov 2025". */
export function ago(iso: string, now: number = Date.now()): string {
  const past = now - Date.parse(iso);
  if (past < MINUTE) return 'just now';
  if (past < HOUR) return `${Math.floor(past / MINUTE)} min`;
  if (past < DAY) return `${Math.floor(past / HOUR)} h`;
  return dateWords(iso, {
    weekday: past < 300 * DAY ? 'short' : undefined,
    day: 'numeric',
    month: 'short',
    year: past < 300 * DAY ? undefined : 'numeric',
  });
}

/** A sentence part: "3 min ago", "on Tue 17 Nov". */
export function whenWords(iso: string): string {
  const words = ago(iso);
  return words === 'just now' ? words : /^\d+ (min|h)$/.test(words) ? `${words} ago` : `on ${words}`;
}

/** The exact moment with its zone, for hover and long press. */
export function exact(iso: string): string {
  const zone = display.timeZone ?? Intl.DateTimeFormat().resolvedOptions().timeZone;
  return `${dateWords(iso, { dateStyle: 'medium', timeStyle: 'medium' })} (${zone})`;
}

/** "09:14". */
export function clock(iso: string): string {
  return dateWords(iso, { hour: '2-digit', minute: '2-digit' });
}

/** Whether a moment lies within the last so many ms. */
export const isWithin = (iso: string, ms: number): boolean => Date.now() - Date.parse(iso) < ms;

/** "Tue 17 Nov, 09:14", for what is still to come; in the zone that is named, else in one’s own. */
export const momentWords = (iso: string, timeZone?: string): string =>
  dateWords(iso, {
    weekday: 'short',
    day: 'numeric',
    month: 'short',
    hour: '2-digit',
    minute: '2-digit',
    ...(timeZone !== undefined && { timeZone }),
  });
