const MINUTE = 60_000;
const HOUR = 60 * MINUTE;
const DAY = 24 * HOUR;

/** "just now", "12 min", "3 h" within a day, then "Tue 17 Nov" or "17 Nov 2025". */
export function ago(iso: string, now: number = Date.now()): string {
  const then = new Date(iso);
  const past = now - then.getTime();
  if (past < MINUTE) return 'just now';
  if (past < HOUR) return `${Math.floor(past / MINUTE)} min`;
  if (past < DAY) return `${Math.floor(past / HOUR)} h`;
  return then.toLocaleDateString('en-GB', {
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
  return (
    new Date(iso).toLocaleString('en-GB', { dateStyle: 'medium', timeStyle: 'medium' }) +
    ` (${Intl.DateTimeFormat().resolvedOptions().timeZone})`
  );
}

/** "09:14". */
export function clock(iso: string): string {
  return new Date(iso).toLocaleTimeString('en-GB', { hour: '2-digit', minute: '2-digit' });
}

/** Whether a moment lies within the last so many ms. */
export const isWithin = (iso: string, ms: number): boolean => Date.now() - Date.parse(iso) < ms;

/** "Tue 17 Nov, 09:14", for what is still to come; in the zone that is named, else the browser's. */
export const momentWords = (iso: string, timeZone?: string): string =>
  new Date(iso).toLocaleString('en-GB', {
    weekday: 'short',
    day: 'numeric',
    month: 'short',
    hour: '2-digit',
    minute: '2-digit',
    timeZone,
  });
