import * as chrono from 'chrono-node';
import { DateTime } from 'luxon';
import { WEEKDAYS, localTime } from '../../time/zones';
import type { ReadingWorld } from './reading';

/** A day, a time of day, or both, as they stand in somebody's words. */
export interface Moment {
  /** YYYY-MM-DD in the person's zone. */
  date: string | null;
  /** HH:MM. */
  time: string | null;
  hasYear: boolean;
  /** Whether it was said outright rather than taken as usual ("after lunch", "5" for 17:00). */
  sure: boolean;
}

const NUMBERS: Record<string, string> = {
  one: '1',
  two: '2',
  three: '3',
  four: '4',
  five: '5',
  six: '6',
  seven: '7',
  eight: '8',
  nine: '9',
  ten: '10',
  eleven: '11',
  twelve: '12',
};
const NUMBER = `\\d{1,2}|${Object.keys(NUMBERS).join('|')}`;
const figure = (word: string) => NUMBERS[word.toLowerCase()] ?? word;

/** A part of the day as people name it: a time to aim at, and from when until when it goes. */
export interface PartOfDay {
  at: string;
  from: string;
  to: string;
}

const DAY_PARTS: [RegExp, at: string, from: string, to: string][] = [
  [/\b(?:first thing|early morning|early)\b(?! (?:evening|afternoon))/i, '08:00', '06:00', '10:00'],
  [/\b(?:mid[- ]?morning)\b/i, '10:30', '09:30', '11:30'],
  [/\b(?:late morning|before lunch)\b/i, '11:30', '10:30', '12:30'],
  [/\b(?:at lunch(?: ?time)?|lunch ?time|mid ?day|noon)\b/i, '12:00', '11:30', '14:00'],
  [/\b(?:after lunch|early afternoon)\b/i, '14:00', '13:00', '16:00'],
  [/\b(?:late afternoon|after work|teatime)\b/i, '17:00', '16:00', '20:00'],
  [/\b(?:tonight|in the evening|evening)\b/i, '19:00', '17:00', '23:59'],
  [/\b(?:in the afternoon|afternoon)\b/i, '15:00', '12:00', '18:00'],
  [/\b(?:in the morning|this morning|morning)\b/i, '09:00', '06:00', '12:00'],
  [/\bmidnight\b/i, '00:00', '00:00', '02:00'],
];

const PARSERS: Record<string, chrono.Chrono> = {
  en: chrono.en.GB,
  es: chrono.es.casual,
  fr: chrono.fr.casual,
  de: chrono.de.casual,
  pt: chrono.pt.casual,
  it: chrono.it.casual,
};

/** Ways of speaking that the parser does not know, put into ways that it does. Order matters. */
function plainer(written: string, today: DateTime): string {
  const weekday = WEEKDAYS.join('|');
  return (
    written
      .replace(/[’']/g, "'")
      .replace(/\b(?:tmrw|tmr|tomoz|2moro|tomorow|tommorow|tommorrow)\b/gi, 'tomorrow')
      .replace(/\b(?:mon|tue|tues|wed|weds|thu|thur|thurs|fri|sat|sun)\b\.?/gi, (short) =>
        WEEKDAYS.find((day) => day.startsWith(short.slice(0, 3).toLowerCase()))!,
      )
      .replace(
        new RegExp(`\\bhalf (?:past )?(${NUMBER})\\b`, 'gi'),
        (_, hour: string) => `${figure(hour)}:30`,
      )
      .replace(new RegExp(`\\bquarter past (${NUMBER})\\b`, 'gi'), (_, hour: string) => `${figure(hour)}:15`)
      .replace(
        new RegExp(`\\bquarter to (${NUMBER})\\b`, 'gi'),
        (_, hour: string) => `${(Number(figure(hour)) + 11) % 12 || 12}:45`,
      )
      .replace(/\b(\d{1,2})\.(\d{2})\s*(am|pm)?\b/gi, '$1:$2 $3')
      .replace(/\b(\d{1,2})h(\d{2})?\b/gi, (_, hour: string, minute?: string) => `${hour}:${minute ?? '00'}`)
      .replace(new RegExp(`\\b(${NUMBER}) o'?clock\\b`, 'gi'), (_, hour: string) => `${figure(hour)}:00`)
      .replace(/^\W*(\d{1,2})(?:st|nd|rd|th)\W*$/i, 'the $1th')
      .replace(/\b([01]\d|2[0-3])([0-5]\d)(?: ?(?:h|hrs|hours))?$/i, '$1:$2')
      .replace(
        new RegExp(`\\b(${Object.keys(NUMBERS).join('|')}) (fifteen|thirty|forty[- ]five)\\b`, 'gi'),
        (_, hour: string, minutes: string) =>
          `${figure(hour)}:${/^fif/i.test(minutes) ? 15 : /^t/i.test(minutes) ? 30 : 45}`,
      )
      .replace(/\b(?:christmas|xmas) eve\b/gi, '24 December')
      .replace(/\b(?:christmas|xmas)(?: day)?\b/gi, '25 December')
      .replace(/\bboxing day\b/gi, '26 December')
      .replace(/\bnew year'?s? eve\b/gi, '31 December')
      .replace(/\bnew year'?s?(?: day)?\b(?! eve)/gi, '1 January')
      .replace(/\bhallowe'?en\b/gi, '31 October')
      .replace(/\bvalentine'?s?(?: day)?\b/gi, '14 February')
      .replace(/\bday after tomorrow\b/gi, 'in 2 days')
      .replace(/\ba fortnight\b|\bfortnight\b/gi, '2 weeks')
      .replace(new RegExp(`\\b(${weekday}) week\\b`, 'gi'), (_, day: string) =>
        dayWords(comingDay(today, day).plus({ weeks: 1 })),
      )
      .replace(new RegExp(`\\b(?:a|1) week (?:on|from) (${weekday})\\b`, 'gi'), (_, day: string) =>
        dayWords(comingDay(today, day).plus({ weeks: 1 })),
      )
      .replace(new RegExp(`\\b2 weeks (?:on|from) (${weekday})\\b`, 'gi'), (_, day: string) =>
        dayWords(comingDay(today, day).plus({ weeks: 2 })),
      )
      // "Next Wednesday" is the one of the coming week, as most people mean it from the middle of a week on.
      .replace(new RegExp(`\\bnext (${weekday})\\b`, 'gi'), (_, day: string) =>
        dayWords(nextWeekday(today, day)),
      )
      .replace(new RegExp(`\\b(?:this|coming|this coming|on) (${weekday})\\b`, 'gi'), (_, day: string) =>
        dayWords(comingDay(today, day)),
      )
      .replace(new RegExp(`\\b(?<!\\d )(${weekday})\\b(?! \\d)`, 'gi'), (_, day: string) =>
        dayWords(comingDay(today, day)),
      )
      .replace(/\b(?:this|at the) weekend\b/gi, () => dayWords(comingDay(today, 'saturday')))
      .replace(/\bnext weekend\b/gi, () => dayWords(comingDay(today, 'saturday').plus({ weeks: 1 })))
      .replace(/\bend of (?:the |this )?month\b/gi, () => dayWords(today.endOf('month')))
      .replace(
        /\bthe (\d{1,2})(?:st|nd|rd|th)\b(?! (?:of )?[a-z]*(?:jan|feb|mar|apr|may|jun|jul|aug|sep|oct|nov|dec))/gi,
        (whole, day: string) => {
          const here = [0, 1, 2, 3]
            .map((ahead) => today.startOf('month').plus({ months: ahead }))
            .find(
              (month) =>
                Number(day) <= month.daysInMonth! && month.set({ day: Number(day) }) >= today.startOf('day'),
            );
          return here ? dayWords(here.set({ day: Number(day) })) : whole;
        },
      )
  );
}

const dayWords = (day: DateTime) => day.setLocale('en-GB').toFormat('d LLLL yyyy');

/** The next such weekday, today not included. */
function comingDay(today: DateTime, day: string): DateTime {
  const ahead =
    (WEEKDAYS.indexOf(day.toLowerCase() as (typeof WEEKDAYS)[number]) + 1 - today.weekday + 7) % 7;
  return today.plus({ days: ahead || 7 });
}

function nextWeekday(today: DateTime, day: string): DateTime {
  const index = WEEKDAYS.indexOf(day.toLowerCase() as (typeof WEEKDAYS)[number]);
  return today.plus({ weeks: 1 }).startOf('week').plus({ days: index });
}

const BARE_HOUR = new RegExp(
  `^(?:at |around |about |say |maybe |um |ca\\.? |gegen |um |a las |à |vers |às |alle )*(${NUMBER})(?:ish| uhr| heures?| horas?)?$`,
  'i',
);

/**
 * Every day and time that stands in the words, in the person's zone. The parser gives the parts; the instant
 * is put together here, because its own is an hour off across a change of the clocks.
 */
export function parseMoments(written: string, world: ReadingWorld): Moment[] {
  const local = localTime(world.now, world.zone);
  const today = DateTime.fromISO(local.date, { zone: 'utc' });
  const bare = BARE_HOUR.exec(written.trim().replace(/[.!?]+$/, ''));
  if (bare) {
    const hour = Number(figure(bare[1]!));
    return hour <= 24 ? [{ date: null, time: clock(usualHour(hour), 0), hasYear: false, sure: false }] : [];
  }
  const english = world.language === 'en' || !PARSERS[world.language];
  const plain = english ? plainer(written.slice(0, 300), today) : written.slice(0, 300);
  // A reference at noon UTC of the person's own day, so that "today" is theirs and no clock change is near.
  const reference = { instant: new Date(`${local.date}T12:00:00Z`), timezone: 0 };
  const parser = PARSERS[world.language] ?? chrono.en.GB;
  let found = parser.parse(plain, reference, { forwardDate: world.days !== 'past' && world.days !== 'any' });
  if (found.length === 0 && !english)
    found = chrono.en.GB.parse(plainer(written.slice(0, 300), today), reference, { forwardDate: true });
  const moments: Moment[] = found.map(({ start, text }) => {
    const dated =
      start.isCertain('day') ||
      start.isCertain('weekday') ||
      start.isCertain('month') ||
      /today|tonight|hoy|heute|aujourd|hoje|oggi/i.test(text);
    const hour = start.get('hour');
    const said = start.isCertain('hour') && hour !== null;
    const meridiem = start.isCertain('meridiem') || (said && hour > 12) || /\b0\d:\d\d/.test(text);
    return {
      date: dated
        ? `${pad(start.get('year')!, 4)}-${pad(start.get('month')!)}-${pad(start.get('day')!)}`
        : null,
      time: said ? clock(meridiem ? hour : usualHour(hour), start.get('minute') ?? 0) : null,
      hasYear:
        start.isCertain('year') ||
        start.isCertain('weekday') ||
        /\b(?:in|days?|weeks?|today|tomorrow)\b/i.test(text),
      sure: !said || meridiem,
    };
  });
  const part = partOfDay(written)?.at;
  const days = new Set(moments.flatMap((moment) => moment.date ?? []));
  const times = new Set(moments.flatMap((moment) => moment.time ?? []));
  // "Thursday" and "at 5" are one moment when there is one of each.
  const together = days.size <= 1 && times.size <= 1 && moments.length > 0;
  const gathered = together
    ? [
        {
          date: [...days][0] ?? null,
          time: [...times][0] ?? null,
          hasYear: moments.every((each) => each.hasYear || each.date === null),
          sure: moments.every((each) => each.sure),
        },
      ]
    : moments;
  if (part && gathered.length <= 1) {
    const only = gathered[0] ?? {
      date: /tonight/i.test(written) ? local.date : null,
      time: null,
      hasYear: true,
      sure: false,
    };
    if (only.time === null || !gathered[0]) return [{ ...only, time: part, sure: false }];
    const evening =
      part >= '14:00' && only.time < '12:00' && !only.sure
        ? clock(Number(only.time.slice(0, 2)) + 12, Number(only.time.slice(3)))
        : only.time;
    return [{ ...only, time: evening }];
  }
  return gathered;
}

/** The part of the day that somebody's words name; null where they name none. */
export function partOfDay(words: string): PartOfDay | null {
  const [, at, from, to] = DAY_PARTS.find(([pattern]) => pattern.test(words)) ?? [];
  return at === undefined ? null : { at, from: from!, to: to! };
}

/** One to seven, said without more, is the afternoon. */
const usualHour = (hour: number) => (hour >= 1 && hour <= 7 ? hour + 12 : hour % 24);
const pad = (value: number, length = 2) => String(value).padStart(length, '0');
const clock = (hour: number, minute: number) => `${pad(hour % 24)}:${pad(minute)}`;
