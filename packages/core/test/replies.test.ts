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
  test.each(['mira at example', 'mira@', '@example.org', 'no idea', 'mira@example', 'a@example.org or b@example.org', ''])(
    '%s is not',
    (text) => expect(read('email', text)).toBeNull(),
  );
});

describe('a phone number', () => {
  test.each([
    ['07700 900123', '+447700900123'],
    ['+44 7700 900123', '+447700900123'],
    ['call me on 07700 900 123 after six', '+447700900123'],
    ['0033 1 99 00 12 34', '+33199001234'],
  ])('%s is read in Britain', (text, value) => expect(read('phone', text)).toBe(value));
  test.each(['12', 'no phone', '07700 900123 or 07700 900124', ''])('%s is not', (text) => expect(read('phone', text)).toBeNull());
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
    ['there are 3 of us', 3],
    ['-4', -4],
    ['12,5', 12.5],
    ['1,250', 1250],
    ['0.250', 0.25],
    ['3.', 3],
    ['none', 0],
  ])('%s is %d', (text, value) => expect(read('number', text)).toBe(value));
  test.each(['lots', '2 or 3', '', 'two three', 'flat 4b'])('%s is not read', (text) => expect(read('number', text)).toBeNull());
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
  test.each(['yes', 'Yes please', 'sure why not', 'yeah ok', 'Y', '👍', 'of course!', 'sí', 'ja'])('%s is yes', (text) =>
    expect(read('yes/no', text)).toBe(true),
  );
  test.each(['no', 'No thanks', 'not really', 'nope', 'N', '👎', 'not now'])('%s is no', (text) =>
    expect(read('yes/no', text)).toBe(false),
  );
  test.each(['maybe', 'yes and no', 'what time is it', '', 'yes but only if the weather holds up tomorrow'])('%s is asked again', (text) =>
    expect(read('yes/no', text)).toBeNull(),
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
