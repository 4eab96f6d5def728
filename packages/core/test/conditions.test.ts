import { Condition, conditionWords, holds, type Value } from '../src';
import { FERRIES, NINE, nobodyYet } from './support';

/** Tuesday 24 November 2026, nine in London. */
const world = (more: Partial<Parameters<typeof holds>[1]> = {}): Parameters<typeof holds>[1] => ({
  now: NINE,
  zone: 'Europe/London',
  client: { ...FERRIES, openingHours: { tuesday: [{ from: '08:00', to: '12:00' }] } },
  line: { key: 'sms', name: 'the pier', channel: 'sms' },
  person: {
    ...nobodyYet,
    language: 'en',
    tags: ['vip'],
    lists: ['News'],
    fields: {
      party: { type: 'number', value: 4 },
      town: { type: 'text', value: 'Saint Örrin' },
      arrival: { type: 'date', value: '2026-11-30' },
      born: { type: 'date', value: '1990-05-01' },
      pickup: { type: 'time', value: '17:30' },
      bicycle: { type: 'yes/no', value: true },
      days: { type: 'several of', value: ['Monday', 'Friday'] },
      email: { type: 'email', value: 'mira@example.org' },
    },
    changed: { party: NINE - 2 * 86_400_000 },
  },
  cueId: 'poster',
  answers: { which: { type: 'one of', value: 'Boat' } },
  ...more,
});

test('of somebody whose language nobody knows, it neither holds nor fails that they speak one', () => {
  const unknown = world({ person: { ...world().person, language: null } });
  for (const language of ['en', 'es'])
    for (const condition of [{ language }, { not: { language } }] as Condition[])
      expect(holds(condition, unknown)).toBeNull();
  // What the channel says counts only where the client speaks it.
  expect(holds({ language: 'xx' }, world({ person: { ...world().person, language: 'xx' } }))).toBeNull();
});

describe('what holds of a person at a moment', () => {
  test.each<[Condition, boolean | null]>([
    [{ field: 'party', is: 'known' }, true],
    [{ field: 'crossing', is: 'known' }, false],
    [{ field: 'crossing', is: 'unknown' }, true],
    [{ field: 'party', is: 'equal', value: 4 }, true],
    [{ field: 'party', is: 'equal', value: '4' }, true],
    [{ field: 'party', is: 'not equal', value: 4 }, false],
    [{ field: 'party', is: 'above', value: 4 }, false],
    [{ field: 'party', is: 'at least', value: 4 }, true],
    [{ field: 'party', is: 'below', value: 5 }, true],
    [{ field: 'party', is: 'at most', value: 3 }, false],
    [{ field: 'party', is: 'between', value: 2, to: 6 }, true],
    [{ field: 'party', is: 'above', value: 'many' }, null],
    [{ field: 'party', is: 'contains', value: '4' }, null],
    [{ field: 'crossing', is: 'equal', value: 'x' }, null],
    [{ field: 'town', is: 'equal', value: 'SAINT ORRIN' }, true],
    [{ field: 'town', is: 'contains', value: 'orr' }, true],
    [{ field: 'town', is: 'starts with', value: 'saint' }, true],
    [{ field: 'town', is: 'above', value: 'a' }, null],
    [{ field: 'email', is: 'contains', value: 'example' }, true],
    [{ field: 'arrival', is: 'after', value: 'today' }, true],
    [{ field: 'arrival', is: 'before', value: 'today+7d' }, true],
    [{ field: 'arrival', is: 'before', value: '2026-11-30' }, false],
    [{ field: 'arrival', is: 'equal', value: 'today+6d' }, true],
    [{ field: 'arrival', is: 'between', value: 'today', to: '2026-12-01' }, true],
    [{ field: 'arrival', is: 'in the next', value: '7d' }, true],
    [{ field: 'arrival', is: 'in the next', value: '5d' }, false],
    [{ field: 'born', is: 'in the last', value: '7d' }, false],
    [{ field: 'born', is: 'before', value: 'today-1d' }, true],
    [{ field: 'pickup', is: 'after', value: '17:00' }, true],
    [{ field: 'pickup', is: 'in the next', value: '7d' }, null],
    [{ field: 'bicycle', is: 'equal', value: true }, true],
    [{ field: 'bicycle', is: 'not equal', value: 'yes' }, false],
    [{ field: 'bicycle', is: 'equal', value: 'maybe' }, null],
    [{ field: 'days', is: 'contains', value: 'friday' }, true],
    [{ field: 'days', is: 'contains', value: 'sunday' }, false],
    [{ field: 'days', is: 'equal', value: 'monday' }, false],
    [{ field: 'party', is: 'changed in the last', value: '3d' }, true],
    [{ field: 'party', is: 'changed in the last', value: '1d' }, false],
    [{ field: 'town', is: 'changed in the last', value: '3d' }, false],
    [{ answer: 'which', is: 'equal', value: 'boat' }, true],
    [{ answer: 'other', is: 'equal', value: 'boat' }, null],
    [{ tag: 'vip' }, true],
    [{ tag: 'vip', is: false }, false],
    [{ list: 'News' }, true],
    [{ list: 'Other' }, false],
    [{ channels: ['telegram'] }, false],
    [{ line: 'sms' }, true],
    [{ cue: 'poster' }, true],
    [{ language: 'es' }, false],
    [{ language: 'en' }, true],
    [{ time: { from: '08:30', to: '09:30' } }, true],
    [{ time: { from: '22:00', to: '06:00' } }, false],
    [{ weekdays: ['tuesday'] }, true],
    [{ open: true }, true],
    [{ open: false }, false],
  ])('%j: %s', (condition, expected) => {
    expect(Condition.safeParse(condition).success).toBe(true);
    expect(holds(condition, world())).toBe(expected);
  });

  const [yes, no, unknown]: Condition[] = [
    { tag: 'vip' },
    { tag: 'other' },
    { field: 'crossing', is: 'equal', value: 'x' },
  ];
  test.each<[Condition, boolean | null]>([
    [{ all: [yes!, yes!] }, true],
    [{ all: [yes!, unknown!] }, null],
    [{ all: [no!, unknown!] }, false],
    [{ any: [no!, yes!] }, true],
    [{ any: [yes!, unknown!] }, true],
    [{ any: [no!, unknown!] }, null],
    [{ any: [no!, no!] }, false],
    [{ not: yes! }, false],
    [{ not: unknown! }, null],
    [{ not: { all: [no!, unknown!] } }, true],
  ])('unknown is neither: %j is %s', (condition, expected) =>
    expect(holds(condition, world())).toBe(expected),
  );

  test('times of day are the person’s, opening hours the client’s', () => {
    expect(holds({ time: { from: '08:00', to: '12:00' } }, world({ zone: 'America/New_York' }))).toBe(false);
    expect(holds({ open: true }, world({ zone: 'America/New_York' }))).toBe(true);
  });

  test('whatever is compared with whatever, it is true, false or unknown', () => {
    const values: Value[] = Object.values(world().person.fields);
    for (const is of [
      'equal',
      'not equal',
      'contains',
      'starts with',
      'above',
      'at least',
      'below',
      'at most',
      'before',
      'after',
    ] as const)
      for (const value of ['', 'x', '3', '2026-11-25', 'today', '12:00', 3, true])
        for (const mine of values)
          expect([true, false, null]).toContain(
            holds({ answer: 'it', is, value }, world({ answers: { it: mine } })),
          );
  });
});

describe('a condition in words', () => {
  test.each<[Condition, string]>([
    [{ field: 'party_size', is: 'at least', value: 4 }, 'party size is at least 4'],
    [{ field: 'bicycle', is: 'equal', value: true }, 'bicycle is yes'],
    [{ field: 'town', is: 'known' }, 'town is known'],
    [{ field: 'visits', is: 'between', value: 2, to: 5 }, 'visits is between 2 and 5'],
    [{ field: 'email', is: 'changed in the last', value: '7d' }, 'email has changed in the last 7d'],
    [{ tag: 'vip', is: false }, 'not tagged vip'],
    [
      { all: [{ tag: 'a' }, { any: [{ list: 'b' }, { open: false }] }] },
      'tagged a and (on the list b or it is closed)',
    ],
    [{ not: { channels: ['sms', 'telegram'] } }, 'not (on sms or telegram)'],
    [{ weekdays: ['monday', 'friday'] }, 'it is Monday or Friday'],
    [{ time: { from: '09:00', to: '17:00' } }, 'it is between 09:00 and 17:00'],
  ])('%j', (condition, words) => expect(conditionWords(condition)).toBe(words));
});
