import { DateTime } from 'luxon';
import { addDays, isDate, localTime } from '../../time/zones';
import { parseMoments, type Moment } from './moments';
import { asRead, unread, type Reading, type ReplyReader } from './reading';

const WRITTEN = /(?<!\d)(\d{1,4})[./-](\d{1,2})[./-](\d{1,4})(?!\d)/;

export const date: ReplyReader = {
  type: 'date',
  words: 'a date',
  /**
   * Reads "2026-11-25", "25/11", "next Wednesday after lunch", "the 12th", "a fortnight on Friday" to YYYY-MM-DD in the
   * person's zone. Ahead only, unless the question says otherwise. Day before month, but for US numbers.
   */
  read(written, world) {
    const today = localTime(world.now, world.zone).date;
    const inFigures = WRITTEN.exec(written);
    if (inFigures) {
      const found = figures(inFigures, world.country);
      if (!found) return unread(`“${inFigures[0]}” is no day of the calendar`);
      return within(found, today, world.days ?? 'ahead', 1);
    }
    const impossible = impossibleDay(written, today);
    if (impossible) return unread(impossible);
    const moments = parseMoments(written, world).filter((moment) => moment.date !== null);
    const days = [...new Set(moments.map((moment) => moment.date!))];
    if (days.length === 0) return unread('there is no date in it');
    if (days.length > 1) return unread('it holds more than one date');
    return within(rolled(moments[0]!, world.days ?? 'ahead', today), today, world.days ?? 'ahead', moments[0]!.sure ? 0.95 : 0.8);
  },
};

/** A day without a year that lies behind is meant next year, or, for the past, one that lies ahead last year. */
function rolled(moment: Moment, days: 'ahead' | 'past' | 'any', today: string): string {
  const found = moment.date!;
  if (moment.hasYear || days === 'any') return found;
  const shift = days === 'ahead' && found < today ? 1 : days === 'past' && found > today ? -1 : 0;
  return shift === 0 ? found : DateTime.fromISO(found, { zone: 'utc' }).plus({ years: shift }).toFormat('yyyy-MM-dd');
}

function figures(found: RegExpExecArray, country: string): string | null {
  const [, a, b, c] = found as unknown as [string, string, string, string];
  const pad = (year: string, month: string, day: string) =>
    `${year.length === 2 ? `20${year}` : year}-${month.padStart(2, '0')}-${day.padStart(2, '0')}`;
  const tries = a.length === 4 ? [pad(a, b, c)] : country === 'US' ? [pad(c, a, b), pad(c, b, a)] : [pad(c, b, a), pad(c, a, b)];
  return tries.find(isDate) ?? null;
}

const MONTHS = 'jan|feb|mar|apr|may|jun|jul|aug|sep|oct|nov|dec';
/** "31 April" and "the 30th of February" are refused; a parser would roll them over. */
function impossibleDay(written: string, today: string): string | null {
  const found =
    new RegExp(`\\b(\\d{1,2})(?:st|nd|rd|th)?\\s+(?:of\\s+)?(${MONTHS})[a-z]*\\b(?:\\s+(\\d{4}))?`, 'i').exec(written) ??
    (() => {
      const turned = new RegExp(`\\b(${MONTHS})[a-z]*\\s+(\\d{1,2})(?:st|nd|rd|th)?\\b(?:,?\\s+(\\d{4}))?`, 'i').exec(written);
      return turned ? ([turned[0], turned[2], turned[1], turned[3]] as unknown as RegExpExecArray) : null;
    })();
  if (!found) return null;
  const month = MONTHS.split('|').indexOf(found[2]!.toLowerCase()) + 1;
  // Without a year, 29 February is a day of some year.
  const year = found[3] ?? (month === 2 ? '2028' : today.slice(0, 4));
  return isDate(`${year}-${String(month).padStart(2, '0')}-${found[1]!.padStart(2, '0')}`)
    ? null
    : `“${found[0]}” is no day of the calendar`;
}

function within(found: string, today: string, days: 'ahead' | 'past' | 'any', confidence: number): Reading {
  if (days === 'ahead' && found < today) return unread(`${found} has gone by`);
  if (days === 'past' && found > today) return unread(`${found} is still ahead`);
  if (found > addDays(today, 36_525) || found < '1880-01-01') return unread(`${found} is too far off`);
  return asRead({ type: 'date', value: found }, confidence, found);
}
