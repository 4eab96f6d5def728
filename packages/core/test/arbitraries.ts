import fc from 'fast-check';
import { Loop, type Condition, type Cue, type Incoming, type Step } from '../src';

/** Generated loops of every cue and step kind, and generated events, for properties. */

const target = fc.constantFrom('next', 'end', 'scene-0', 'scene-1', 'scene-2');
const duration = fc.constantFrom('30s', '5m', '3h', '2d');
const words = fc.constantFrom(
  'Hello',
  'How many?',
  'Gäste: {{ person.count | default: "?" }}',
  'Fine. {{ answers.count }}',
  'Ω emoji 🎉',
  'Noted, {{ person.first_name }}',
);
const tag = fc.constantFrom('red', 'blue');
const list = fc.constantFrom('News', 'Alerts');
const optional = <T>(arbitrary: fc.Arbitrary<T>) => fc.option(arbitrary, { nil: undefined });

const plainCondition: fc.Arbitrary<Condition> = fc.oneof(
  fc.record({
    field: fc.constant('count'),
    is: fc.constantFrom('at least' as const, 'below' as const, 'equal' as const),
    value: fc.integer({ min: 0, max: 9 }),
  }),
  fc.record({
    field: fc.constantFrom('count', 'email'),
    is: fc.constantFrom('known' as const, 'unknown' as const),
  }),
  fc.record({ tag, is: fc.boolean() }),
  fc.record({ list }),
  fc.record({ channels: fc.constantFrom(['telegram' as const], ['sms' as const]) }),
  fc.record({ time: fc.constant({ from: '09:00', to: '17:00' }) }),
  fc.record({ open: fc.boolean() }),
) as fc.Arbitrary<Condition>;
const condition: fc.Arbitrary<Condition> = fc.oneof(
  plainCondition,
  fc.record({ all: fc.array(plainCondition, { minLength: 1, maxLength: 3 }) }),
  fc.record({ any: fc.array(plainCondition, { minLength: 1, maxLength: 3 }) }),
  fc.record({ not: plainCondition }),
);
const change = fc.oneof(
  fc.record({ do: fc.constantFrom('add tag' as const, 'remove tag' as const), tag }),
  fc.record({ do: fc.constantFrom('join list' as const, 'leave list' as const), list }),
  fc.record({
    do: fc.constant('field' as const),
    field: fc.constant('count'),
    value: fc.constantFrom('3', 'many', '{{ person.count }}'),
  }),
  fc.record({
    do: fc.constant('calculate' as const),
    field: fc.constant('count'),
    by: fc.constantFrom('plus' as const, 'times' as const),
    amount: fc.constantFrom('2', 'x'),
  }),
  fc.record({ do: fc.constant('clear' as const), field: fc.constant('count') }),
  fc.record({ do: fc.constant('opt out' as const) }),
);
const waiting = {
  retry: optional(fc.record({ times: fc.integer({ min: 1, max: 3 }), text: fc.constant('Again, please') })),
  otherwise: optional(target),
  cancel: optional(target),
  noReply: optional(fc.record({ after: duration, to: target })),
};

const step = (id: string): fc.Arbitrary<Step> =>
  fc
    .oneof(
      { weight: 4, arbitrary: fc.record({ kind: fc.constant('say' as const), text: words }) },
      {
        weight: 4,
        arbitrary: fc.record({
          kind: fc.constant('say' as const),
          text: words,
          choices: fc.tuple(target, target).map(([a, b]) => [
            { id: 'a', label: 'Boat', to: a },
            { id: 'b', label: 'Bus', to: b },
          ]),
          ...waiting,
        }),
      },
      {
        weight: 4,
        arbitrary: fc.record({
          kind: fc.constant('ask' as const),
          text: words,
          reply: fc.constant('number' as const),
          field: fc.constant('count'),
          known: optional(fc.constantFrom('ask' as const, 'confirm' as const, 'skip' as const)),
          ...waiting,
        }),
      },
      {
        weight: 1,
        arbitrary: fc.record({
          kind: fc.constant('ask' as const),
          text: words,
          reply: fc.constant('text' as const),
          field: fc.constant('note'),
          gather: optional(fc.constantFrom('20s', '1m')),
          ...waiting,
        }),
      },
      { weight: 2, arbitrary: fc.record({ kind: fc.constant('wait' as const), for: duration }) },
      {
        weight: 2,
        arbitrary: fc.record({
          kind: fc.constant('set' as const),
          changes: fc.array(change, { minLength: 1, maxLength: 3 }),
        }),
      },
      {
        weight: 1,
        arbitrary: fc.record({
          kind: fc.constant('split' as const),
          arms: fc.array(fc.record({ when: condition, to: target }), { minLength: 1, maxLength: 3 }),
          otherwise: optional(target),
          unknown: optional(target),
        }),
      },
      {
        weight: 1,
        arbitrary: fc.record({
          kind: fc.constant('vary' as const),
          arms: fc.tuple(target, target).map(([a, b]) => [
            { id: 'a', weight: 1, to: a },
            { id: 'b', weight: 2, to: b },
          ]),
        }),
      },
      { weight: 1, arbitrary: fc.record({ kind: fc.constant('go' as const), to: target }) },
      {
        weight: 2,
        arbitrary: fc.record({
          kind: fc.constant('go' as const),
          to: target.filter((to) => to !== 'next' && to !== 'end'),
          back: fc.constant(true),
          each: optional(fc.record({ field: fc.constant('count'), most: fc.integer({ min: 1, max: 4 }) })),
        }),
      },
      {
        weight: 1,
        arbitrary: fc.record({
          kind: fc.constant('go' as const),
          loop: fc.constantFrom('Loop 0', 'Loop 1', 'Nowhere'),
          back: optional(fc.boolean()),
        }),
      },
      {
        weight: 1,
        arbitrary: fc.record({
          kind: fc.constant('hand over' as const),
          text: optional(words),
          giveUp: optional(fc.record({ after: duration, to: target })),
        }),
      },
      {
        weight: 1,
        arbitrary: fc.record({
          kind: fc.constant('alert' as const),
          by: fc.constant('email' as const),
          to: fc.constant(['pier@example.org']),
          text: words,
        }),
      },
      {
        weight: 1,
        arbitrary: fc.record({
          kind: fc.constant('send out' as const),
          address: fc.constant('https://crm.example.org/x'),
          body: fc.constant({ n: '{{ person.count }}' }),
          failed: optional(target),
        }),
      },
      { weight: 1, arbitrary: fc.record({ kind: fc.constant('send out' as const), destination: words }) },
      {
        weight: 1,
        arbitrary: fc.record({
          kind: fc.constant('book' as const),
          calendar: fc.constantFrom('Trial session', 'Nowhere'),
          text: words,
          day: fc.constant('booked_day'),
          time: fc.constant('booked_time'),
          full: optional(target),
          noReply: optional(fc.record({ after: duration, to: target })),
        }),
      },
      { weight: 1, arbitrary: fc.record({ kind: fc.constant('end' as const) }) },
    )
    .map((each) => JSON.parse(JSON.stringify({ id, ...each })) as Step);

const cue: fc.Arbitrary<Omit<Cue, 'id'>> = fc
  .oneof(
    fc.record({
      kind: fc.constant('keyword' as const),
      words: fc.subarray(['boat', 'sailings', 'one'], { minLength: 1 }),
      match: fc.constantFrom('exactly' as const, 'whole word' as const, 'part' as const),
    }),
    fc.record({ kind: fc.constant('link' as const), ref: fc.constantFrom('poster', 'menu') }),
    fc.record({ kind: fc.constantFrom('first message' as const, 'fallback' as const) }),
    fc.record({
      kind: fc.constant('tag' as const),
      tag,
      when: fc.constantFrom('added' as const, 'removed' as const),
    }),
    fc.record({ kind: fc.constant('list joined' as const), list }),
    fc.record({ kind: fc.constant('field changed' as const), field: fc.constant('count') }),
    fc.record({ kind: fc.constant('silence' as const), after: duration }),
    fc.record({ kind: fc.constant('incoming webhook' as const), hook: fc.constant('ship') }),
  )
  .chain((each) =>
    fc
      .record({
        again: optional(fc.constantFrom('once' as const, 'after finishing' as const, { onceIn: '1d' })),
        whileRunning: optional(fc.constantFrom('ignore' as const, 'resume' as const)),
      })
      .map((more) => ({ ...each, ...more }) as Omit<Cue, 'id'>),
  );

const loop = (index: number): fc.Arbitrary<Loop> =>
  fc
    .record({
      cues: fc.array(cue, { minLength: 1, maxLength: 4 }),
      scenes: fc.tuple(
        ...[0, 1, 2].map((scene) =>
          fc
            .array(fc.constant(0), { minLength: 1, maxLength: 4 })
            .chain((shape) => fc.tuple(...shape.map((_, at) => step(`s${scene}-${at}`)))),
        ),
      ),
    })
    .map(({ cues, scenes }) =>
      Loop.parse(
        JSON.parse(
          JSON.stringify({
            format: 'dart-loop/1',
            name: `Loop ${index}`,
            lines: [],
            cues: cues.map((each, at) => ({ id: `c${at}`, ...each })),
            scenes: scenes.map((steps, at) => ({ id: `scene-${at}`, name: `Scene ${at}`, steps })),
          }),
        ),
      ),
    );

export const anyLoop = loop(0);
export const anyLoops: fc.Arbitrary<Loop[]> = fc.tuple(loop(0), loop(1));

/** What can happen: the person, the clock, the team, other systems. */
export type Happening = { does: Incoming } | { winds: number } | { taps: number } | { delivers: boolean };
export const happenings: fc.Arbitrary<Happening[]> = fc.array(
  fc.oneof(
    {
      weight: 6,
      arbitrary: fc
        .constantFrom(
          'boat',
          'sailings',
          'one boat please',
          'a',
          'b',
          '3',
          'yes',
          'no',
          'never mind',
          '🎉',
          'hm',
        )
        .map((text): Happening => ({ does: { kind: 'text', text } })),
    },
    { weight: 3, arbitrary: fc.nat(3).map((taps): Happening => ({ taps })) },
    {
      weight: 3,
      arbitrary: fc
        .constantFrom(10_000, 60_000, 3_600_000, 90_000_000)
        .map((winds): Happening => ({ winds })),
    },
    { weight: 2, arbitrary: fc.boolean().map((delivers): Happening => ({ delivers })) },
    {
      weight: 2,
      arbitrary: fc.constantFrom<Happening>(
        { does: { kind: 'reference', ref: 'poster', ad: null, text: null } },
        { does: { kind: 'tag', tag: 'red', on: true, depth: 0 } },
        { does: { kind: 'webhook', hook: 'ship', name: 'ship' } },
        { does: { kind: 'step in', by: 'Ines' } },
        { does: { kind: 'write', by: 'Ines', text: 'Hello' } },
        { does: { kind: 'left the team', by: 'Ines' } },
        { does: { kind: 'hand back', by: 'Ines', how: 'resume' } },
        { does: { kind: 'hand back', by: 'Ines', how: 'end' } },
        { does: { kind: 'hand back', by: 'Ines', how: { scene: 'scene-1' } } },
        { does: { kind: 'file', file: { address: 'x', what: 'file' } } },
        { does: { kind: 'other', what: 'sticker' } },
      ),
    },
    {
      weight: 1,
      arbitrary: fc
        .constantFrom('stop', 'start', 'help')
        .map((text): Happening => ({ does: { kind: 'text', text } })),
    },
  ),
  { maxLength: 16 },
);
