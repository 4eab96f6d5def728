import fc from 'fast-check';
import { FieldType, readReply, valueWords } from '../src';

/** A Wednesday, ten in the morning in London. */
const GB = { country: 'GB', language: 'en', now: Date.UTC(2026, 10, 25, 10, 0), zone: 'Europe/London' };
const read = (type: FieldType, text: string) => {
  const reading = readReply(type, text, GB);
  return reading.ok ? reading.value.value : null;
};

describe('an email address', () => {
  test.each([
    ['mira@example.org', 'mira@example.org'],
    ["it's mira@example.org thanks", 'mira@example.org'],
    ['Mira.Leask+boat@Example.ORG.', 'Mira.Leask+boat@example.org'],
    ['<mira@example.org>', 'mira@example.org'],
    ['mira@example.org, yes mira@example.org', 'mira@example.org'],
  ])('%s is read', (text, value) => expect(read('email', text)).toBe(value));
  test.each([
    'mira at example',
    'mira@',
    '@example.org',
    'no idea',
    'mira@example',
    'a@example.org or b@example.org',
    '',
  ])('%s is not', (text) => expect(read('email', text)).toBeNull());
});

describe('a phone number', () => {
  test.each([
    ['07700 900123', '+447700900123'],
    ['+44 7700 900123', '+447700900123'],
    ['call me on 07700 900 123 after six', '+447700900123'],
    ['0033 1 99 00 12 34', '+33199001234'],
  ])('%s is read in Britain', (text, value) => expect(read('phone', text)).toBe(value));
  test.each(['12', 'no phone', '07700 900123 or 07700 900124', ''])('%s is not', (text) =>
    expect(read('phone', text)).toBeNull(),
  );
});

describe('a number', () => {
  test.each([
    ['2', 2],
    ['1,250.50', 1250.5],
    ['1.250,50', 1250.5],
    ['£12', 12],
    ['2k', 2000],
    ['a dozen', 12],
    ['two dozen', 24],
    ['twenty-one', 21],
    ['a hundred', 100],
    ['about a hundred and twenty, I think', 120],
    ['two hundred and five', 205],
    ['three thousand five hundred', 3_500],
    ['a couple of dozen', 24],
    ['two of us', 2],
    ['two, I mean two', 2],
    ['there are 3 of us', 3],
    ['-4', -4],
    ['12,5', 12.5],
    ['1,250', 1250],
    ['0.250', 0.25],
    ['3.', 3],
    ['none', 0],
  ])('%s is %d', (text, value) => expect(read('number', text)).toBe(value));
  test.each(['lots', '2 or 3', '', 'two three', 'two and three', 'hundreds', 'a lot', 'flat 4b'])(
    '%s is not read',
    (text) => expect(read('number', text)).toBeNull(),
  );
  test('every whole number is read back, with either thousands sign', () => {
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 10_000_000 }), (value) => {
        expect(read('number', String(value))).toBe(value);
        expect(read('number', value.toLocaleString('en-GB'))).toBe(value);
      }),
    );
  });
});

describe('yes or no', () => {
  test.each(['yes', 'Yes please', 'sure why not', 'yeah ok', 'Y', '👍', 'of course!', 'sí', 'ja'])(
    '%s is yes',
    (text) => expect(read('yes/no', text)).toBe(true),
  );
  test.each(['no', 'No thanks', 'not really', 'nope', 'N', '👎', 'not now'])('%s is no', (text) =>
    expect(read('yes/no', text)).toBe(false),
  );
  test.each(['maybe', 'yes and no', 'what time is it', '', 'yes but only if the weather holds up tomorrow'])(
    '%s is asked again',
    (text) => expect(read('yes/no', text)).toBeNull(),
  );
});

test('no text makes a reader throw, and a reason always comes with a refusal', () => {
  fc.assert(
    fc.property(fc.constantFrom(...FieldType.options), fc.string({ unit: 'binary' }), (type, text) => {
      const reading = readReply(type, text, GB);
      if (reading.ok) expect(valueWords(reading.value)).not.toBe('');
      else expect(reading.reason).not.toBe('');
    }),
  );
});

describe('a date, on Wednesday 25 November 2026', () => {
  test.each([
    ['tomorrow', '2026-11-26'],
    ['wednesday at 4', '2026-11-25'],
    ['wednesday at 9am', '2026-12-02'],
    ['next Wednesday after lunch', '2026-12-02'],
    ['this fri', '2026-11-27'],
    ['the 12th', '2026-12-12'],
    ['25th', '2026-11-25'],
    ['monday week', '2026-12-07'],
    ['a week on friday', '2026-12-04'],
    ['a fortnight on saturday', '2026-12-12'],
    ['in 3 days', '2026-11-28'],
    ['25/12', '2026-12-25'],
    ['5.1.27', '2027-01-05'],
    ['2026-12-31', '2026-12-31'],
    ['3rd of march', '2027-03-03'],
    ['29 february', '2028-02-29'],
    ['christmas eve', '2026-12-24'],
    ['I can do Thursday at half six', '2026-11-26'],
  ])('%s is %s', (text, value) => expect(read('date', text)).toBe(value));
  test.each([
    '31 april',
    '30 feb',
    '2026-02-30',
    'yesterday',
    '5 jan or 6 jan',
    'next month',
    'no idea',
    '12',
    '',
    '1 january 2020',
  ])('%s is not read', (text) => expect(read('date', text)).toBeNull());
  test('the past where the past is asked for; the month first for US clients', () => {
    expect(readReply('date', 'april 12th', { ...GB, days: 'past' })).toMatchObject({
      value: { value: '2026-04-12' },
    });
    expect(readReply('date', '12 December', { ...GB, days: 'past' })).toMatchObject({
      value: { value: '2025-12-12' },
    });
    expect(readReply('date', '4/12/1989', { ...GB, country: 'US', days: 'past' })).toMatchObject({
      value: { value: '1989-04-12' },
    });
  });
  test.each([
    ['es', 'el próximo lunes', '2026-11-30'],
    ['fr', 'demain', '2026-11-26'],
    ['de', 'am Samstag', '2026-11-28'],
    ['pt', 'amanhã', '2026-11-26'],
    ['it', '12 dicembre', '2026-12-12'],
  ])('in %s: %s is %s', (language, text, value) =>
    expect(readReply('date', text, { ...GB, language })).toMatchObject({ ok: true, value: { value } }),
  );
  test('the day is the person’s, near midnight and over a change of the clocks', () => {
    expect(
      readReply('date', 'tomorrow', { ...GB, now: Date.UTC(2026, 10, 25, 23, 30), zone: 'Asia/Tokyo' }),
    ).toMatchObject({
      value: { value: '2026-11-27' },
    });
    expect(readReply('date', 'tomorrow', { ...GB, now: Date.UTC(2026, 9, 24, 22, 30) })).toMatchObject({
      value: { value: '2026-10-25' },
    });
  });
});

describe('a time of day', () => {
  test.each([
    ['half past six', '18:30'],
    ['quarter to nine', '08:45'],
    ['5', '17:00'],
    ['5pm', '17:00'],
    ['8.15am', '08:15'],
    ['17:30', '17:30'],
    ['1500', '15:00'],
    ['seven thirty', '19:30'],
    ['around 10ish', '10:00'],
    ['in half an hour', '10:30'],
    ['noon', '12:00'],
    ['7 in the evening', '19:00'],
  ])('%s is %s', (text, value) => expect(read('time', text)).toBe(value));
  test.each(['25:00', '10 or 11', 'whenever', ''])('%s is not read', (text) =>
    expect(read('time', text)).toBeNull(),
  );
});

test('a phone number that is a digit short for its country is not read', () => {
  expect(read('phone', '07700 900123')).toBe('+447700900123');
  for (const short of ['07700 90012', '+44 7700 90012', 'call me on 07700 90012 thanks'])
    expect(read('phone', short)).toBeNull();
  expect(read('phone', '+33 6 12 34 56 78')).toBe('+33612345678');
});

test('an address that is said aloud is read', () => {
  expect(read('email', 'joe at example dot org')).toBe('joe@example.org');
  expect(read('email', 'it is mira dot k at mail dot example dot org')).toBe('mira.k@mail.example.org');
  expect(read('email', 'meet me at the dot')).toBeNull();
});

test('a likely slip in an address is suggested, never put right unasked', () => {
  expect(readReply('email', 'mira@gmial.com', GB)).toMatchObject({
    ok: true,
    confidence: 0.5,
    value: { value: 'mira@gmial.com' },
    suggestion: { value: 'mira@gmail.com' },
  });
  expect(readReply('email', 'mira@harwick.con', GB)).toMatchObject({
    suggestion: { value: 'mira@harwick.com' },
  });
  expect(readReply('email', 'mira@gmail.com', GB)).not.toHaveProperty('suggestion');
});

describe('yes and no in six languages', () => {
  test.each([
    'sí',
    'claro que sí',
    'oui',
    'bien sûr',
    'ja',
    'na klar',
    'sim',
    'com certeza',
    'certo',
    'va bene',
    'd’accord',
  ])('%s', (text) => expect(read('yes/no', text)).toBe(true));
  test.each([
    'no gracias',
    'non merci',
    'nein danke',
    'lieber nicht',
    'não',
    'agora não',
    'no grazie',
    'pas maintenant',
  ])('%s', (text) => expect(read('yes/no', text)).toBe(false));
});
