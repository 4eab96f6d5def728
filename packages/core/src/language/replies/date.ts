import { DateTime } from 'luxon';
import { addDays, isDate, localTime } from '../../time/zones';
import { saysDontKnow } from '../answers';
import { fold } from '../fold';
import { scopeOf } from '../scope';
import { parseMoments, type Moment } from './moments';
import { asRead, unread, type Reading, type ReplyReader } from './reading';

/** Before or after a day is any of many. "After lunch" is a time, and "the day after tomorrow" a day. */
const NO_SINGLE_DAY =
  /(?<!\bday )\b(?:after|before)\s+(?:the\s+|this\s+|next\s+)?(?:\d|(?:mon|tues|wednes|thurs|fri|satur|sun)day|(?:jan|feb|mar|apr|may|jun|jul|aug|sep|oct|nov|dec)|tomorrow|christmas|easter)|\bthe one after\b|\b(?:any|every) day\b/i;
const WRITTEN = /(?<!\d)(\d{1,4})[./-](\d{1,2})[./-](\d{1,4})(?!\d)/;

export const date: ReplyReader = {
  type: 'date',
  words: 'a date',
  example: 'tomorrow',
  /**
   * Reads "2026-11-25", "25/11", "next Wednesday after lunch", "the 12th", "a fortnight on Friday" to
   * YYYY-MM-DD in the person's zone. Ahead only, unless the question says otherwise. Day before month, but
   * for US numbers.
   */
  read(said, world) {
    if (saysDontKnow(fold(said))) return unread('it says that they do not know');
    const scope = scopeOf(said);
    if (scope && scope.meant.length === 0) return unread('it says which day it is not');
    const written = scope ? scope.meant.join(', ') : said;
    if (NO_SINGLE_DAY.test(written)) return unread('it names no single day');
    const today = localTime(world.now, world.zone).date;
    const inFigures = WRITTEN.exec(written);
    if (inFigures) {
      const found = figures(inFigures, world.country);
      if (!found) return unread(`“${inFigures[0]}” is no day of the calendar`);
      return within(found, today, world.days ?? 'ahead', 1);
    }
    const named = namedDays(written, today, world.days ?? 'ahead');
    const impossible = named.find((each) => each.date === null);
    if (impossible) return unread(`“${impossible.words}” is no day of the calendar`);
    const different = [...new Set(named.map((each) => each.date!))];
    if (different.length > 1) return unread('it holds more than one date');
    if (different.length === 1) return within(different[0]!, today, world.days ?? 'ahead', 1);
    if (/^\W*(?:sometime )?(?:in )?(?:the )?next (?:week|month|year)\W*$/i.test(written))
      return unread('it names no single day');
    const moments = parseMoments(written, world).filter((moment) => moment.date !== null);
    const days = [...new Set(moments.map((moment) => moment.date!))];
    if (days.length === 0) return unread('there is no date in it');
    if (days.length > 1) return unread('it holds more than one date');
    return within(
      rolled(moments[0]!, world.days ?? 'ahead', today),
      today,
      world.days ?? 'ahead',
      moments[0]!.sure ? 0.95 : 0.8,
    );
  },
};

/**
 * A day without a year that lies behind is meant next year, or, for the past, one that lies ahead last year.
 */
function rolled(moment: Moment, days: 'ahead' | 'past' | 'any', today: string): string {
  const found = moment.date!;
  if (moment.hasYear || days === 'any') return found;
  const shift = days === 'ahead' && found < today ? 1 : days === 'past' && found > today ? -1 : 0;
  return shift === 0
    ? found
    : DateTime.fromISO(found, { zone: 'utc' }).plus({ years: shift }).toFormat('yyyy-MM-dd');
}

function figures(found: RegExpExecArray, country: string): string | null {
  const [, a, b, c] = found as unknown as [string, string, string, string];
  const pad = (year: string, month: string, day: string) =>
    `${year.length === 2 ? `20${year}` : year}-${month.padStart(2, '0')}-${day.padStart(2, '0')}`;
  const tries =
    a.length === 4
      ? [pad(a, b, c)]
      : country === 'US'
        ? [pad(c, a, b), pad(c, b, a)]
        : [pad(c, b, a), pad(c, a, b)];
  return tries.find(isDate) ?? null;
}

const MONTHS = 'jan|feb|mar|apr|may|jun|jul|aug|sep|oct|nov|dec';
const DAY_FIRST = new RegExp(
  `\\b(\\d{1,2})(?:st|nd|rd|th)?\\s+(?:of\\s+)?(${MONTHS})[a-z]*\\b\\.?(?:,?\\s+(\\d{4}))?`,
  'gi',
);
const MONTH_FIRST = new RegExp(
  `\\b(${MONTHS})[a-z]*\\.?\\s+(\\d{1,2})(?:st|nd|rd|th)?\\b(?!:)(?:,?\\s+(\\d{4}))?`,
  'gi',
);

/**
 * Days told by day and month in English. Without a year it is the nearest that is meant; 29 February waits
 * for its year. Null for one that no calendar has ("31 April"): a parser would roll it over.
 */
function namedDays(
  written: string,
  today: string,
  days: 'ahead' | 'past' | 'any',
): { words: string; date: string | null }[] {
  const found = [
    ...[...written.matchAll(DAY_FIRST)].map(([words, day, month, year]) => ({
      words,
      day: day!,
      month: month!,
      year,
    })),
    ...[...written.replace(DAY_FIRST, ' ').matchAll(MONTH_FIRST)].map(([words, month, day, year]) => ({
      words,
      day: day!,
      month: month!,
      year,
    })),
  ];
  const thisYear = Number(today.slice(0, 4));
  return found.map(({ words, day, month, year }) => {
    const number = MONTHS.split('|').indexOf(month.toLowerCase()) + 1;
    const inYear = (each: number) => `${each}-${String(number).padStart(2, '0')}-${day.padStart(2, '0')}`;
    const years = year
      ? [Number(year)]
      : Array.from({ length: 9 }, (_, at) => (days === 'past' ? thisYear - at : thisYear + at));
    const fits = (date: string) =>
      isDate(date) &&
      (year !== undefined || (days === 'past' ? date <= today : days === 'any' || date >= today));
    return { words: words.trim(), date: years.map(inYear).find(fits) ?? null };
  });
}

function within(found: string, today: string, days: 'ahead' | 'past' | 'any', confidence: number): Reading {
  if (days === 'ahead' && found < today) return unread(`${found} has gone by`);
  if (days === 'past' && found > today) return unread(`${found} is still ahead`);
  if (found > addDays(today, 36_525) || found < '1880-01-01') return unread(`${found} is too far off`);
  return asRead({ type: 'date', value: found }, confidence, found);
}
