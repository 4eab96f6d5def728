import { readReply } from '../src';
import { holidaysOf, publicHolidays } from '../src/time/holidays';
import { holidayKeys } from '../src/time/holidayTable';
import { Conversation, loopOf, NINE } from './support';

const read = (said: string, country: string, language = 'en', days: 'ahead' | 'past' | 'any' = 'ahead') => {
  const reading = readReply('date', said, {
    country,
    language,
    now: NINE,
    zone: 'UTC',
    days,
    holidays: () => holidaysOf(country, [language], 2026),
  });
  return reading.ok ? reading.value.value : reading.reason;
};

describe('holidays of the client’s country', () => {
  // Asked on Tuesday 24 November 2026.
  test.each([
    ['Labor Day', 'US', 'en', '2027-09-06'],
    ['on thanksgiving day', 'US', 'en', '2026-11-26'],
    ['thanksgiving day 2027 please', 'US', 'en', '2027-11-25'],
    ['mother’s day', 'US', 'en', '2027-05-09'],
    ['mothers day', 'GB', 'en', '2027-03-07'],
    ['the early may bank holiday', 'GB', 'en', '2027-05-03'],
    ['the next bank holiday', 'GB', 'en', '2027-05-03'],
    ['am Buß- und Bettag 2027', 'DE', 'de', '2027-11-17'],
    ['am Tag der Deutschen Einheit', 'DE', 'de', '2027-10-03'],
    ['el día de la constitución española', 'ES', 'es', '2026-12-06'],
    ['le 14 juillet', 'FR', 'fr', '2027-07-14'],
    ['armistice', 'FR', 'fr', '2027-11-11'],
    ['dia de tiradentes', 'BR', 'pt', '2027-04-21'],
    ['ferragosto', 'IT', 'it', '2027-08-15'],
    ['Australia Day', 'AU', 'en', '2027-01-26'],
    ['Australia Day', 'GB', 'en', 'there is no date in it'],
  ])('“%s” in %s (%s) is %s', (said, country, language, day) =>
    expect(read(said, country, language)).toBe(day),
  );

  test('the one gone by, where the past is asked for', () => {
    expect(read('australia day', 'AU', 'en', 'past')).toBe('2026-01-26');
    expect(read('not labor day', 'US')).toBe('it says which day it is not');
  });
  test('by the client’s own languages and English; a country that is not known has none', () => {
    expect(read('día de la independencia', 'US', 'es')).toBe('2027-07-04');
    expect(holidaysOf('ZZ', ['en'], 2026)).toEqual({});
  });
  test('names are looked up with and without their apostrophe', () => {
    expect(holidayKeys('Mother’s Day')).toEqual(['mother s day', 'mothers day']);
    expect(holidayKeys('Liberazione dal nazifascismo (1945)')).toEqual(['liberazione dal nazifascismo']);
  });
  test('a question for a day knows them', () => {
    const loop = loopOf(
      '{ format: dart-loop/1, name: Visit, cues: [{ kind: keyword, words: [visit], match: exactly }], scenes: [{ id: one, name: One, steps: [{ kind: ask, text: When?, reply: date, field: visit }] }] }',
    );
    const conversation = new Conversation(
      [loop],
      'telegram',
      { visit: 'date' },
      { holidays: holidaysOf('US', ['en'], 2026) },
    );
    conversation.says('visit');
    conversation.says('labor day');
    expect(conversation.person.fields.visit).toEqual({ type: 'date', value: '2027-09-06' });
  });
});

describe('public holidays of the coming year', () => {
  test('are those of the whole country, in order, each once', () => {
    const days = publicHolidays('GB', 'en', '2026-12-01');
    expect(days.map(({ date }) => date)).toEqual([...days.map(({ date }) => date)].sort());
    expect(new Set(days.map(({ date }) => date)).size).toBe(days.length);
    expect(days.slice(0, 2)).toEqual([
      { date: '2026-12-25', name: 'Christmas Day' },
      { date: '2026-12-26', name: 'Boxing Day' },
    ]);
    expect(days.every(({ date }) => date >= '2026-12-01' && date < '2027-12-01')).toBe(true);
    expect(publicHolidays('ES', 'es', '2026-12-01')[0]).toEqual({
      date: '2026-12-06',
      name: 'Día de la Constitución Española',
    });
  });

  test('of a country that nobody knows there are none', () => {
    expect(publicHolidays('ZZ', 'en', '2026-12-01')).toEqual([]);
  });
});
