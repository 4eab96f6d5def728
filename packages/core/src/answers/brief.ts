import { WEEKDAYS } from '../time/clockTime';
import { hasHours, spansOn, type OpeningHours, type Span } from '../time/openingHours';
import { holidaysOf } from '../time/holidays';
import { addDays, localTime } from '../time/zones';
import type { HolidayTable } from '../time/holidayTable';
import { readMoments, type Days } from '../language/moments';
import { fileNamed, type ClientFacts } from '../people/client';
import type { Passage } from './passage';
import { stemOf, wordsOf } from './terms';

/** How the brief is named as a source. */
export const BRIEF = 'brief';
/** What of the client is asked for; what it is like to talk to (tone) is nobody's question. */
export type BriefFacts = Pick<ClientFacts, 'brief' | 'openingHours' | 'timeZone' | 'country' | 'languages'>;

const NAMES: Readonly<Record<string, string>> = {
  hours: 'Opening hours',
  address: 'Address',
  phone: 'Phone',
  booking_link: 'Booking',
  privacy_link: 'Privacy policy',
};
const NOT_SAID = new Set(['tone']);
const HOURS = NAMES.hours!;

const capital = (text: string): string => text.charAt(0).toUpperCase() + text.slice(1);
const nameOf = (key: string): string => NAMES[key] ?? capital(key.replaceAll('_', ' '));

const spanWords = (spans: readonly Span[]): string =>
  spans.length === 0 ? 'closed' : spans.map(({ from, to }) => `${from} to ${to}`).join(' and ');

/** "Monday to Friday: 09:00 to 17:00." for each run of days with the same hours. */
function weekWords(hours: OpeningHours): string[] {
  const days = WEEKDAYS.map((day) => ({ name: capital(day), words: spanWords(hours[day] ?? []) }));
  const runs: { from: string; to: string; words: string }[] = [];
  for (const { name, words } of days) {
    const last = runs.at(-1);
    if (last?.words === words) last.to = name;
    else runs.push({ from: name, to: name, words });
  }
  return runs.map(({ from, to, words }) => `${from === to ? from : `${from} to ${to}`}: ${words}.`);
}

/** The brief as a source: a passage for each entry, and the opening hours by the days of the week. */
export function briefPassages({ brief, openingHours }: BriefFacts): Passage[] {
  const isKnown = hasHours(openingHours);
  const entries = Object.entries(brief as Record<string, string>).filter(
    ([key, said]) => said && !NOT_SAID.has(key) && fileNamed(said) === null && !(key === 'hours' && isKnown),
  );
  return [
    ...(isKnown ? [{ source: BRIEF, headings: [HOURS], sentences: weekWords(openingHours) }] : []),
    ...entries.map(([key, said]) => ({
      source: BRIEF,
      headings: [nameOf(key)],
      sentences: [`${nameOf(key)}: ${said}${/[.!?]$/.test(said) ? '' : '.'}`],
    })),
  ];
}

/** Words of a question that asks for the hours and for nothing else, but for days. */
const ABOUT_HOURS = new Set(
  `open opens opened opening close closes closed closing closure shut hours hour time times today tomorrow tonight
  now day days week weekday weekdays weekend weekends morning afternoon evening night late early until till are you
  is it what when do does on at the in for your this next will be be still and or of we can i come by bank public
  holiday holidays there anyone somebody business working office normal usual usually still s a to how about hi hello
  please during over from`
    .split(/\s+/)
    .map(stemOf),
);
const HOURS_WORDS = /\b(open|opens|opening|close|closes|closed|closing|shut|hours)\b/i;
const MOST_DAYS = 7;

/** Whether a question, as a book has it, speaks of being open or shut. */
export const asksHours = (words: string): boolean => HOURS_WORDS.test(words);

/**
 * What the client's hours are on the days that a question asks for, holidays and other hours included, at
 * `now` (ms). `words`: the same as a book has it. Null where it asks for something else besides, names no
 * day, or no hours are known. `goesOn`: it goes on from a question about hours.
 */
export function hoursSaid(
  question: string,
  words: string,
  client: BriefFacts,
  now: number,
  goesOn = false,
): Passage | null {
  if (!hasHours(client.openingHours) || !(goesOn || asksHours(words))) return null;
  const { date: today } = localTime(now, client.timeZone);
  const holidays = holidaysOf(client.country, client.languages, Number(today.slice(0, 4)));
  const { meant } = readMoments(question, {
    country: client.country,
    language: client.languages[0] ?? 'en',
    now,
    zone: client.timeZone,
    holidays: () => holidays,
  });
  const asksNow = /\b(now|still open)\b/i.test(words);
  // Where a word may mean either of two days it is the first.
  const days = meant.flatMap((moment) => moment.days.slice(0, 1));
  const dates = asksNow && days.length === 0 ? [today] : datesOf(days);
  if (dates.length === 0 || dates.length > MOST_DAYS) return null;
  if (!asksNothingElse(words, holidays)) return null;
  const sentences = dates.map(
    (date) => `${dateWords(date)}: ${spanWords(spansOn(client.openingHours, date))}.`,
  );
  return { source: BRIEF, headings: [HOURS], sentences };
}

/** Each day of the spans, in order; one more than are told of shows that they are too many. */
function datesOf(spans: readonly Days[]): string[] {
  const dates = new Set<string>();
  for (const { from, to } of spans) {
    const first = from ?? to;
    if (first === null) continue;
    for (let date = first; dates.size <= MOST_DAYS && date <= (to ?? first); date = addDays(date, 1))
      dates.add(date);
  }
  return [...dates].sort();
}

/** Whether every word of a question is about hours or names a day. */
function asksNothingElse(words: string, holidays: HolidayTable): boolean {
  const named = new Set(Object.keys(holidays).flatMap((name) => wordsOf(name).map(stemOf)));
  return wordsOf(words).every((word) => {
    const stem = stemOf(word);
    return ABOUT_HOURS.has(stem) || DAY.test(word) || named.has(stem) || /^\d/.test(word);
  });
}
const DAY =
  /^(?:mon|tues?|wed(?:nes)?|thur?s?|fri|sat(?:ur)?|sun)(?:days?)?$|^(?:january|february|march|april|may|june|july|august|september|october|november|december|jan|feb|mar|apr|jun|jul|aug|sept?|oct|nov|dec|eve|new|years?|easter|christmas|xmas|boxing|good)$/;

const dateWords = (date: string): string =>
  new Intl.DateTimeFormat('en-GB', { weekday: 'long', day: 'numeric', month: 'long', timeZone: 'UTC' })
    .format(new Date(`${date}T12:00:00Z`))
    .replace(',', '');
