import fc from 'fast-check';
import { Loop, type Step } from '../src';
import { STEP_LIST } from '../src/loops/edit/newSteps';
import { readCondition } from '../src/loops/edit/typedCondition';
import { typeInto } from '../src/loops/edit/typedSteps';
import { typedWords } from '../src/loops/edit/typedWords';
import { readDuration, readTimeOfDay, readWait } from '../src/loops/edit/typedTime';
import { loopOf, SAILINGS } from './support';

const EMPTY = loopOf(
  '{ format: dart-loop/1, name: L, cues: [], scenes: [{ id: one, name: One, steps: [] }, { id: nudge, name: Nudge, steps: [{ id: n, kind: say, text: Still there? }] }] }',
);
const type = (written: string, loop = EMPTY, types = {}) =>
  typeInto(loop, { sceneId: 'one' }, written, types);
const steps = (written: string, loop = EMPTY): Step[] => type(written, loop).loop.scenes[0]!.steps;

describe('one line', () => {
  test.each<[string, object]>([
    ['Hello there.', { kind: 'say', text: 'Hello there.' }],
    ['say Ask us anything', { kind: 'say', text: 'Ask us anything' }],
    [
      'ask email',
      { kind: 'ask', reply: 'email', field: 'email', otherwise: 'next', noReply: { after: '1d', to: 'end' } },
    ],
    [
      'Ask phone: Where do we reach you?',
      { kind: 'ask', reply: 'phone', field: 'phone', text: 'Where do we reach you?' },
    ],
    [
      'ask How many people are you?',
      { kind: 'ask', reply: 'number', field: 'people', text: 'How many people are you?' },
    ],
    ['ask Which town?', { kind: 'ask', reply: 'text', field: 'town' }],
    ['ask Which day suits you?', { kind: 'ask', reply: 'date' }],
    ['ask Do you climb?', { kind: 'ask', reply: 'yes/no', field: 'climb' }],
    ['ask yes/no', { kind: 'ask', reply: 'yes/no' }],
    [
      'ask Which boat? Early / Late',
      { kind: 'ask', reply: 'one of', text: 'Which boat?', options: [{ label: 'Early' }, { label: 'Late' }] },
    ],
    [
      'ask several Boots / Rope / Harness',
      {
        kind: 'ask',
        reply: 'several of',
        options: [{ label: 'Boots' }, { label: 'Rope' }, { label: 'Harness' }],
      },
    ],
    ['wait 2h', { kind: 'wait', for: '2h' }],
    ['wait 30 minutes', { kind: 'wait', for: '30m' }],
    ['wait until monday 9', { kind: 'wait', until: { weekdays: ['monday'], time: '09:00' } }],
    ['wait until open', { kind: 'wait', until: { open: true } }],
    [
      'wait until 1 day before arrival 10:30',
      { kind: 'wait', until: { field: 'arrival', days: -1, time: '10:30' } },
    ],
    ['set party size = 4', { kind: 'set', changes: [{ do: 'field', field: 'party_size', value: '4' }] }],
    ['tag vip', { kind: 'set', changes: [{ do: 'add tag', tag: 'vip' }] }],
    ['join list Workshop news', { kind: 'set', changes: [{ do: 'join list', list: 'Workshop news' }] }],
    [
      'if town is Harwick -> Nudge',
      { kind: 'split', arms: [{ when: { field: 'town', is: 'equal', value: 'Harwick' }, to: 'nudge' }] },
    ],
    ['go Nudge', { kind: 'go', to: 'nudge' }],
    ['go Nudge, and back', { kind: 'go', to: 'nudge', back: true }],
    [
      'go to Nudge and back for each of dogs',
      { kind: 'go', to: 'nudge', back: true, each: { field: 'dogs' } },
    ],
    ['-> 2', { kind: 'go', to: 'nudge' }],
    ['go to loop Newsletter, and back', { kind: 'go', loop: 'Newsletter', back: true }],
    [
      'hand over to the desk: A person writes to you soon.',
      { kind: 'hand over', to: 'the desk', text: 'A person writes to you soon.' },
    ],
    [
      'alert email desk@example.org: New lead {{ person.email }}',
      { kind: 'alert', by: 'email', to: ['desk@example.org'], text: 'New lead {{ person.email }}' },
    ],
    [
      'book in Trial session: When will you come?',
      { kind: 'book', calendar: 'Trial session', text: 'When will you come?', day: 'booked_day' },
    ],
    ['book', { kind: 'book', calendar: 'Visits' }],
    ['Book a table with us today!', { kind: 'say', text: 'Book a table with us today!' }],
    ['send out to Customer register', { kind: 'send out', destination: 'Customer register' }],
    ['send out https://crm.example.org/x', { kind: 'send out', address: 'https://crm.example.org/x' }],
    [
      'vary Nudge 70 / end 30',
      {
        kind: 'vary',
        arms: [
          { weight: 70, to: 'nudge' },
          { weight: 30, to: 'end' },
        ],
      },
    ],
    ['end', { kind: 'end' }],
    // What only begins like one of ours is said.
    ['Wait for it.', { kind: 'say', text: 'Wait for it.' }],
    ['Go easy on yourself.', { kind: 'say', text: 'Go easy on yourself.' }],
    ['End of season sale', { kind: 'say', text: 'End of season sale' }],
    ['Set sail with us', { kind: 'say', text: 'Set sail with us' }],
    ['Join us on Friday!', { kind: 'say', text: 'Join us on Friday!' }],
    ['No reply needed.', { kind: 'say', text: 'No reply needed.' }],
  ])('%s', (written, step) => {
    const typed = type(written);
    expect(typed.problem).toBeNull();
    expect(typed.loop.scenes[0]!.steps).toMatchObject([step]);
    expect(typed.stepIds).toHaveLength(1);
  });
});

test('several lines become several steps; choices and exits belong to the step above; a scene that is missing is made', () => {
  const typed = type(`
    Hello. Which morning?
    - Saturday -> Pick a time
    - Sunday -> nudge
    no reply 3h -> Nudge
    retry 2: One of the two, please.
    could not read -> Desk
    ## Pick a time
    ask time
    end`);
  expect(typed.problem).toBeNull();
  expect(typed.loop.scenes.map(({ name }) => name)).toEqual(['One', 'Nudge', 'Pick a time', 'Desk']);
  expect(typed.loop.scenes[0]!.steps).toMatchObject([
    {
      kind: 'say',
      choices: [
        { label: 'Saturday', to: 'pick-a-time' },
        { label: 'Sunday', to: 'nudge' },
      ],
      noReply: { after: '3h', to: 'nudge' },
      retry: { times: 2, text: 'One of the two, please.' },
      otherwise: 'desk',
    },
  ]);
  expect(typed.loop.scenes[2]!.steps.map(({ kind }) => kind)).toEqual(['ask', 'end']);
  expect(Loop.safeParse(typed.loop).success).toBe(true);
});

test('reminders stand in their order, whatever the order in which they were typed', () => {
  const typed = type(
    'How many?\n- One\n- Two\nremind 1 d: Last call.\nremind 3h: Still there?\ndoes not know -> Desk',
  );
  expect(typed.problem).toBeNull();
  expect(typed.loop.scenes[0]!.steps).toMatchObject([
    {
      reminders: [
        { after: '3h', text: 'Still there?' },
        { after: '1d', text: 'Last call.' },
      ],
      dontKnow: 'desk',
    },
  ]);
});

test('a numbered list becomes questions in its order, each with its type and a field of its own', () => {
  expect(
    steps(
      '1. How much light is there? Sun / Shade\n2. How many plants?\n3) Your email?\n4. Anything else we should know?',
    ),
  ).toMatchObject([
    { kind: 'ask', reply: 'one of', field: 'light' },
    { kind: 'ask', reply: 'number', field: 'plants' },
    { kind: 'ask', reply: 'email', field: 'email' },
    { kind: 'ask', reply: 'text', text: 'Anything else we should know?' },
  ]);
});

test('options come line by line, settings gather in one set, a split grows arm by arm', () => {
  expect(steps('ask Which plant?\n- Fern\n- Hazel -> Nudge\n- Rose')).toMatchObject([
    {
      kind: 'ask',
      reply: 'one of',
      options: [{ label: 'Fern' }, { label: 'Hazel', to: 'nudge' }, { label: 'Rose' }],
    },
  ]);
  expect(steps('tag vip\nset town = Harwick\njoin News')).toMatchObject([
    { kind: 'set', changes: [{ do: 'add tag' }, { do: 'field' }, { do: 'join list' }] },
  ]);
  expect(steps('if tag vip -> Nudge\nif party size >= 8 -> end\notherwise -> next')).toMatchObject([
    {
      kind: 'split',
      arms: [{ when: { tag: 'vip' } }, { when: { field: 'party_size', is: 'at least', value: 8 } }],
      otherwise: 'next',
    },
  ]);
});

test('an exit with nothing above it says so, and changes nothing', () => {
  const typed = type('no reply 3h -> Nudge');
  expect(typed.problem).toContain('belongs under a question');
  expect(typed.loop).toEqual(EMPTY);
  expect(type('Hello\nno reply 3h -> Nudge').problem).toContain('needs something to reply to');
});

test('a field that has another type already is not taken', () => {
  expect(type('ask How many people?', EMPTY, { people: 'text' }).loop.scenes[0]!.steps).toMatchObject([
    { field: 'people_2' },
  ]);
});

test('it goes in where it is typed, and what stands below stays below', () => {
  const typed = typeInto(SAILINGS, { sceneId: 'welcome', index: 0 }, 'First\nSecond');
  expect(typed.loop.scenes[0]!.steps.slice(0, 2)).toMatchObject([{ text: 'First' }, { text: 'Second' }]);
  expect(typed.loop.scenes[0]!.steps.slice(2)).toEqual(SAILINGS.scenes[0]!.steps);
});

test.each(STEP_LIST.map((each) => [each.words, each.typed]))(
  '“%s” of the list is what its typed form makes',
  (_words, written) => {
    const typed = type(written);
    expect(typed.problem).toBeNull();
    expect(typed.stepIds).toHaveLength(1);
  },
);

test('what is being typed is said in words before it is there', () => {
  expect(typedWords(EMPTY, { sceneId: 'one' }, 'ask email')).toContain('read as email, saved in email');
  expect(typedWords(EMPTY, { sceneId: 'one' }, 'Hello')).toBeNull();
  expect(typedWords(EMPTY, { sceneId: 'nudge' }, '- Yes -> One')).toBe('to the say above: - Yes -> One');
  expect(typedWords(EMPTY, { sceneId: 'one' }, '## Later')).toBe('a new scene: Later');
});

test('whatever is pasted, the loop can be saved and nothing that stood there is lost', () => {
  const piece = fc.oneof(
    fc.string({ maxLength: 60 }),
    fc.constantFrom(
      'ask email',
      '- Yes -> Nudge',
      'no reply 3h -> X',
      'wait 2h',
      '## Scene',
      'if open -> end',
      'otherwise -> 9',
      '1. How many?',
      'vary a / b',
      'retry 9: x',
      'remind 3h: x',
      'remind 1h: y',
      'does not know -> X',
      'hand over to x: y',
    ),
  );
  fc.assert(
    fc.property(fc.array(piece, { maxLength: 12 }), (lines) => {
      const typed = type(lines.join('\n'), SAILINGS.scenes.some(({ id }) => id === 'one') ? SAILINGS : EMPTY);
      const parsed = Loop.safeParse(typed.loop);
      if (!parsed.success) throw new Error(JSON.stringify(parsed.error.issues));
      expect(typed.loop.scenes.find(({ id }) => id === 'nudge')!.steps[0]).toMatchObject({ id: 'n' });
    }),
    { numRuns: 400 },
  );
});

test.each<[string, object | null]>([
  ['town is not Harwick', { field: 'town', is: 'not equal', value: 'Harwick' }],
  ['email is known', { field: 'email', is: 'known' }],
  ['party size > 3', { field: 'party_size', is: 'above', value: 3 }],
  ['not tagged vip', { tag: 'vip', is: false }],
  ['not in list News', { list: 'News', is: false }],
  ['on sms, Wa', { channels: ['sms', 'whatsapp'] }],
  ['language is es', { language: 'es' }],
  ['visit is in the next 7 days', { field: 'visit', is: 'in the next', value: '7d' }],
  ['tag vip and open', { all: [{ tag: 'vip' }, { open: true }] }],
  ['tag vip or tag old', { any: [{ tag: 'vip' }, { tag: 'old' }] }],
  ['whatever', null],
])('the condition “%s”', (written, condition) => expect(readCondition(written)).toEqual(condition));

test('times as they are typed', () => {
  expect(['2h', '1 week', '0h', 'soon'].map(readDuration)).toEqual(['2h', '7d', null, null]);
  expect(['9', '6pm', '12am', '25', '9.30'].map(readTimeOfDay)).toEqual([
    '09:00',
    '18:00',
    '00:00',
    null,
    '09:30',
  ]);
  expect(readWait('until fri or sat 6pm')).toEqual({
    until: { weekdays: ['friday', 'saturday'], time: '18:00' },
  });
});
