import fc from 'fast-check';
import { Condition, stranger, type LineTie, type Passage, type PersonFacts, type Value } from '../src';

/** Generated people and generated rules about them, out of a small world, so that they often meet. */

export const ABOUT_NOW = Date.UTC(2026, 10, 24, 9, 0);
const DAY = 86_400_000;
export const LOOPS = {
  'sailing alerts': '0198f000-0000-7000-8000-00000000000a',
  newsletter: '0198f000-0000-7000-8000-00000000000b',
};
export const SEGMENTS: Record<string, Condition> = {
  regulars: { all: [{ tag: 'vip' }, { field: 'town', is: 'equal', value: 'harwick' }] },
  'not regulars': { segment: 'Regulars', is: false },
  circle: { segment: 'Circle' },
};
export const TIES: LineTie[] = [
  { key: 'sms', channel: 'sms', optedIn: false, optedOut: false },
  { key: 'telegram', channel: 'telegram', optedIn: false, optedOut: false },
];

const texts = fc.constantFrom(
  'Harwick',
  'Saint Örrin',
  'harwick-on-sea',
  "it's 100%",
  'a_b',
  'x\\y',
  '12',
  '',
  '2026-11-24',
  'and so',
  '🎉',
  '+44 7700',
);
const numbers = fc.oneof(
  fc.integer({ min: -3, max: 12 }),
  fc.constantFrom(0.5, -0.25, 1e-9, 123456789.125, -1e21, 5e-324),
  fc.double({ noNaN: true, noDefaultInfinity: true }),
);
const days = fc.constantFrom(
  '2026-11-23',
  '2026-11-24',
  '2026-11-25',
  '2026-11-30',
  '2026-12-01',
  '2025-11-24',
  '1990-05-01',
  '2031-01-01',
);
const times = fc.constantFrom('00:00', '09:00', '12:30', '17:29', '17:30', '23:59');
const value: fc.Arbitrary<Value> = fc.oneof(
  texts.map((text): Value => ({ type: 'text', value: text })),
  numbers.map((number): Value => ({ type: 'number', value: number })),
  days.map((day): Value => ({ type: 'date', value: day })),
  times.map((time): Value => ({ type: 'time', value: time })),
  fc.boolean().map((yes): Value => ({ type: 'yes/no', value: yes })),
  fc.array(texts, { maxLength: 3 }).map((parts): Value => ({ type: 'several of', value: parts })),
  fc.constantFrom('+447700900144', '+34600000000').map((phone): Value => ({ type: 'phone', value: phone })),
  fc.constant<Value>({ type: 'email', value: 'mira@example.org' }),
  fc.constant<Value>({ type: 'place', value: { latitude: 51.5, longitude: -0.1 } }),
);
const FIELDS = ['town', 'size', 'day', 'language'] as const;
const passage: fc.Arbitrary<Passage> = fc.record(
  {
    started: fc.integer({ min: 0, max: 40 }).map((age) => ABOUT_NOW - age * DAY),
    finished: fc.option(fc.integer({ min: 0, max: 40 }).map((age) => ABOUT_NOW - age * DAY)),
    cues: fc.dictionary(fc.constantFrom('poster', 'ad'), fc.constant(ABOUT_NOW - DAY), { maxKeys: 2 }),
    stands: fc.record({ scene: fc.constantFrom('welcome', 'email'), underWay: fc.boolean() }),
  },
  { requiredKeys: ['started', 'finished', 'cues'] },
);

export const person: fc.Arbitrary<PersonFacts> = fc
  .record({
    fields: fc.oneof(
      fc.dictionary(fc.constantFrom(...FIELDS), value, { maxKeys: 4 }),
      fc.record({
        language: fc
          .constantFrom('es', 'DE', 'English')
          .map((code): Value => ({ type: 'text', value: code })),
      }),
    ),
    changed: fc.dictionary(
      fc.constantFrom(...FIELDS),
      fc.integer({ min: 0, max: 20 }).map((age) => ABOUT_NOW - age * DAY),
      { maxKeys: 2 },
    ),
    tags: fc.subarray(['vip', "o'clock", 'back\\slash', 'and or']),
    lists: fc.subarray(['News', 'Workshop news']),
    language: fc.constantFrom(null, 'es', 'en-GB', 'xx'),
    ties: fc
      .subarray(TIES)
      .chain((ties) =>
        fc.tuple(
          ...ties.map((tie) =>
            fc.constantFrom({ ...tie }, { ...tie, optedIn: true }, { ...tie, optedOut: true }),
          ),
        ),
      ),
    history: fc.dictionary(fc.constantFrom(...Object.values(LOOPS)), passage, { maxKeys: 2 }),
    source: fc.constantFrom(null, 'Till form', 'Old list'),
    met: fc.integer({ min: 0, max: 60 }).map((age) => ABOUT_NOW - age * DAY - 1),
    seen: fc.integer({ min: 0, max: 60 }).map((age) => ABOUT_NOW - age * DAY - 1),
  })
  .map((facts) => ({ ...stranger('p'), ...facts }));

const field = fc.constantFrom(...FIELDS);
const operand = fc.oneof(
  texts,
  numbers,
  days,
  times,
  fc.boolean(),
  fc.constantFrom('today', 'today+6d', 'today-1d', 'yes', 'no', '+44 7700 900144', 'mira'),
);
const length = fc.constantFrom('1d', '7d', '30d', '5h');
const loop = fc.constantFrom('Sailing alerts', 'Newsletter', 'Gone');
const is = fc.boolean();
const scened = fc.record({ loop, scene: fc.constantFrom('welcome', 'email') }, { requiredKeys: ['loop'] });

const leaf: fc.Arbitrary<Condition> = fc.oneof(
  {
    weight: 6,
    arbitrary: fc.record({
      field,
      is: fc.constantFrom(
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
      ),
      value: operand,
    }),
  },
  fc.record({
    field,
    is: fc.constant('between'),
    value: fc.oneof(numbers, days, times),
    to: fc.oneof(numbers, days, times),
  }),
  fc.record({
    field,
    is: fc.constantFrom('in the next', 'in the last', 'changed in the last'),
    value: length,
  }),
  fc.record({ field, is: fc.constantFrom('known', 'unknown') }),
  fc.record({ tag: fc.constantFrom('vip', "o'clock", 'back\\slash', 'and or', 'none'), is }),
  fc.record({ list: fc.constantFrom('News', 'Workshop news'), is }),
  fc.record({ language: fc.constantFrom('es', 'en', 'de', 'fr') }),
  ...(['reach', 'optedIn', 'optedOut'] as const).map((subject) =>
    fc
      .constantFrom('any', 'sms', 'telegram', 'whatsapp')
      .chain((which) => is.map((on): Condition => ({ [subject]: which, is: on }))),
  ),
  fc.record({ entered: loop, within: fc.option(length, { nil: undefined }), is }),
  fc.record({ finished: loop, within: fc.option(length, { nil: undefined }), is }),
  fc.record({ underWay: scened, is }),
  fc.record({ left: scened, is }),
  fc.record({ heard: fc.record({ loop, cue: fc.constantFrom('poster', 'ad') }), is }),
  fc.record({ source: fc.constantFrom('till form', 'Somewhere'), is }),
  fc.record({ seen: length, is }),
  fc.record({ met: length, is }),
  fc.record({ segment: fc.constantFrom('Regulars', 'Not regulars', 'Circle', 'Gone'), is }),
) as fc.Arbitrary<Condition>;

/** Rules as they may be saved: nested three deep. */
export const rule: fc.Arbitrary<Condition> = fc
  .letrec<{ rule: Condition }>((tie) => ({
    rule: fc.oneof(
      { maxDepth: 3, withCrossShrink: true },
      { weight: 3, arbitrary: leaf },
      { weight: 1, arbitrary: fc.record({ all: fc.array(tie('rule'), { minLength: 1, maxLength: 3 }) }) },
      { weight: 1, arbitrary: fc.record({ any: fc.array(tie('rule'), { minLength: 1, maxLength: 3 }) }) },
      { weight: 1, arbitrary: fc.record({ not: tie('rule') }) },
    ),
  }))
  .rule.map((made) => JSON.parse(JSON.stringify(made)) as Condition)
  .filter((made) => Condition.safeParse(made).success);
