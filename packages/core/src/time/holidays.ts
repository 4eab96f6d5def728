import Holidays from 'date-holidays';
import { holidayKeys, type HolidayTable } from './holidayTable';

/** Years before and after the present one that are looked up. */
const YEARS = [-1, 0, 1, 2, 3];
const made = new Map<string, HolidayTable>();

/**
 * The public holidays of a country (ISO 3166-1 alpha-2) and other days that its people know by a name, in its
 * own languages, in English, and in those given (ISO 639-1), for the years around `year`. Empty for a country
 * that the library does not know. Days that stand in for a holiday are not in it, and neither are those of
 * single regions. Kept once made; the first of a country takes some 100 ms. Source: the library's tables.
 */
export function holidaysOf(country: string, languages: readonly string[], year: number): HolidayTable {
  const key = [country, ...languages, year].join('|');
  const there = made.get(key);
  if (there) return there;
  const days = new Map<string, Set<string>>();
  for (const { name, date } of namedDays(country, languages, year))
    for (const each of holidayKeys(name)) {
      const dates = days.get(each) ?? new Set();
      days.set(each, dates.add(date));
    }
  const table = Object.fromEntries([...days].map(([name, dates]) => [name, [...dates].sort()]));
  made.set(key, table);
  return table;
}

function namedDays(
  country: string,
  languages: readonly string[],
  year: number,
): { name: string; date: string }[] {
  const known = new Holidays(country);
  if (!(country in known.getCountries())) return [];
  // The country's own languages first: once another was asked for, the library keeps to it.
  const spoken = [undefined, ...new Set(['en', ...languages])];
  return spoken.flatMap((language) =>
    YEARS.flatMap((away) =>
      known
        .getHolidays(year + away, language)
        .filter(({ substitute }) => !substitute)
        .flatMap(({ name, date, type }) => {
          const day = { name, date: date.slice(0, 10) };
          // "The bank holiday" is the next of them.
          const isBankHoliday = type === 'public' && /bank holiday/i.test(name);
          return isBankHoliday ? [day, { ...day, name: 'bank holiday' }] : [day];
        }),
    ),
  );
}

/** A day that is a public holiday in the whole country. */
export interface PublicHoliday {
  /** ISO 8601, such as 2026-12-25. */
  date: string;
  /** In the language that was asked for, where the country's table has it, else in the country's own. */
  name: string;
}

/**
 * The public holidays of a country (ISO 3166-1 alpha-2) in the year that begins with `from` (ISO date), in
 * order; days that stand in for one that falls on a weekend are among them. Those of single regions are not.
 * Empty for a country that the library does not know. Source: the library's tables.
 */
export function publicHolidays(country: string, language: string, from: string): PublicHoliday[] {
  const known = new Holidays(country);
  if (!(country in known.getCountries())) return [];
  const year = Number(from.slice(0, 4));
  const until = `${year + 1}${from.slice(4)}`;
  const byDate = new Map<string, string>();
  for (const each of [year, year + 1])
    for (const { name, date, type } of known.getHolidays(each, language)) {
      const day = date.slice(0, 10);
      if (type === 'public' && day >= from && day < until && !byDate.has(day)) byDate.set(day, name);
    }
  return [...byDate].sort().map(([date, name]) => ({ date, name }));
}
