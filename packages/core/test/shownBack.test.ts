import fc from 'fast-check';
import { LANGUAGES, readReply, valueWords, type FieldType, type Value } from '../src';
import { spoken, whichOf } from '../src/engine/steps/askBack';
import { NINE } from './support';

/** What is shown back to somebody, and read again as they would write it, is the same value. */

const world = (language: string) => ({
  country: 'GB',
  language,
  now: NINE,
  zone: 'Europe/London',
  days: 'ahead' as const,
});
const DAY = 86_400_000;
const dayIn = (days: number) => new Date(NINE + days * DAY).toISOString().slice(0, 10);
const two = (part: number) => String(part).padStart(2, '0');

const VALUES: [FieldType, fc.Arbitrary<Value>][] = [
  ['date', fc.integer({ min: 1, max: 360 }).map((days) => ({ type: 'date', value: dayIn(days) }))],
  [
    'time',
    fc
      .tuple(fc.integer({ min: 0, max: 23 }), fc.integer({ min: 0, max: 59 }))
      .map(([hour, minute]) => ({ type: 'time', value: `${two(hour)}:${two(minute)}` })),
  ],
  [
    'number',
    fc
      .oneof(
        fc.integer({ min: -1_000_000, max: 1_000_000 }),
        fc.integer({ min: 0, max: 99_999 }).map((n) => n / 100),
      )
      .map((value) => ({ type: 'number', value })),
  ],
  ['yes/no', fc.boolean().map((value) => ({ type: 'yes/no', value }))],
  [
    'phone',
    fc
      .integer({ min: 0, max: 999 })
      .map((end) => ({ type: 'phone', value: `+447700900${String(end).padStart(3, '0')}` })),
  ],
  [
    'email',
    fc
      .stringMatching(/^[a-z][a-z0-9]{1,8}$/)
      .map((name) => ({ type: 'email', value: `${name}@example.org` })),
  ],
];

describe.each(LANGUAGES)('in %s', (language) => {
  test.each(VALUES)('%s', (type, values) => {
    fc.assert(
      fc.property(values, (value) => {
        for (const shown of [spoken(value, language), valueWords(value)]) {
          const read = readReply(type, shown, world(language));
          expect({ shown, read: read.ok ? read.value : read.reason }).toEqual({ shown, read: value });
        }
      }),
      { numRuns: 200 },
    );
  });

  test('the days on buttons', () => {
    for (let days = 1; days < 300; days++) {
      const value: Value = { type: 'date', value: dayIn(days) };
      const { label } = whichOf([value], language)[0]!;
      const read = readReply('date', label, world(language));
      expect({ label, read: read.ok ? read.value : read.reason }).toEqual({ label, read: value });
    }
  });
});
