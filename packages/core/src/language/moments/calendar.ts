/** Days of the calendar (YYYY-MM-DD), first and last included; null: without an end. */
export interface Days {
  from: string | null;
  to: string | null;
}

/** Days that are named at a place: those that it may be, or words for a day that no calendar has. */
export interface DaysAt {
  next: number;
  choices: Days[];
  /** "31 April". */
  impossible?: string;
  /** "In two months": not to the day. */
  isAbout?: boolean;
  /** Today, and a week from it, where its own weekday is named: a time may tell which. */
  isTodaysWeekday?: boolean;
}

/** What the rules go by. Days are numbers since 1970 within. */
export interface DayWorld {
  /** Days since 1970 of the person's own day. */
  today: number;
  country: string;
  days: 'ahead' | 'past' | 'any';
  /** Days among which one is looked for, where it was asked which of them. */
  within?: Days;
}

const DAY_MS = 86_400_000;
export const dayNumber = (date: string): number => Date.parse(`${date}T00:00:00Z`) / DAY_MS;
export const dateOf = (day: number): string => new Date(day * DAY_MS).toISOString().slice(0, 10);
/** 1 to 7 from Monday. */
export const weekdayOf = (day: number): number => ((((day + 3) % 7) + 7) % 7) + 1;
/** How many days on a weekday comes, from a day on: 0 to 6. */
export const daysUntil = (weekday: number, day: number): number => (weekday - weekdayOf(day) + 7) % 7;
export const monthOf = (day: number): { year: number; month: number; day: number } => {
  const at = new Date(day * DAY_MS);
  return { year: at.getUTCFullYear(), month: at.getUTCMonth() + 1, day: at.getUTCDate() };
};
/** Null for a day that no calendar has. */
export function dayIn(year: number, month: number, day: number): number | null {
  const at = new Date(Date.UTC(year, month - 1, day));
  return at.getUTCMonth() === month - 1 && at.getUTCDate() === day && year > 0 ? at.getTime() / DAY_MS : null;
}
export const firstOf = (year: number, month: number) => Date.UTC(year, month - 1, 1) / DAY_MS;
export const one = (day: number): Days => ({ from: dateOf(day), to: dateOf(day) });
export const span = (from: number, to: number): Days => ({ from: dateOf(from), to: dateOf(to) });
export const distinct = (days: number[]): Days[] => [...new Set(days)].map(one);

export const monthAway = (year: number, month: number, away: number): [number, number] => {
  const at = year * 12 + month - 1 + away;
  return [Math.floor(at / 12), (at % 12) + 1];
};
