import {
  Cue,
  Duration,
  Loop,
  Step,
  durationMs,
  durationWords,
  exitsOf,
  findScene,
  findStep,
  freshId,
  scenesBefore,
  targetWords,
  waitingOf,
  fieldsOf,
} from '../src';
import { slug, fieldKey } from '../src/language/slug';
import { Conversation, SAILINGS, loopOf } from './support';

test.each([
  ['45s', 45_000, '45 s'],
  ['30m', 1_800_000, '30 min'],
  ['3h', 10_800_000, '3 h'],
  ['2d', 172_800_000, '2 d'],
])('%s is a time', (text, ms, words) => {
  expect(Duration.safeParse(text).success).toBe(true);
  expect(durationMs(text)).toBe(ms);
  expect(durationWords(text)).toBe(words);
});
test.each(['0h', '3', 'h', '3 h', '1.5h', '-1h', '366d', 'soon', ''])('“%s” is none', (text) =>
  expect(Duration.safeParse(text).success).toBe(false),
);

describe('what the model refuses', () => {
  const step = (more: object) =>
    Step.safeParse({ id: 's', kind: 'ask', text: 'Q', reply: 'email', field: 'email', ...more }).success;
  test('exits for yes and no on another question, fields that are no keys, texts too long, parts it does not know', () => {
    expect(step({})).toBe(true);
    expect(step({ yes: 'end' })).toBe(false);
    expect(step({ reply: 'yes/no', yes: 'end', no: 'next' })).toBe(true);
    expect(step({ field: 'E-mail' })).toBe(false);
    expect(step({ text: 'x'.repeat(4_097) })).toBe(false);
    expect(step({ text: '  ' })).toBe(false);
    expect(step({ retry: { times: 6, text: 'again' } })).toBe(false);
    expect(step({ colour: 'red' })).toBe(false);
  });
  test('a keyword of signs only, a cue without words, scenes named like targets', () => {
    const cue = (words: string[]) =>
      Cue.safeParse({ id: 'c', kind: 'keyword', words, match: 'exactly' }).success;
    expect(cue(['open'])).toBe(true);
    expect(cue(['🎉'])).toBe(true);
    expect(cue(['…!'])).toBe(false);
    expect(cue([])).toBe(false);
    const scene = (id: string) =>
      Loop.safeParse({ format: 'dart-loop/1', name: 'X', cues: [], scenes: [{ id, name: 'A', steps: [] }] })
        .success;
    expect(scene('a')).toBe(true);
    expect(scene('end')).toBe(false);
    expect(scene('next')).toBe(false);
    expect(scene('Has Spaces')).toBe(false);
  });
});

test('steps, scenes and targets are found and worded', () => {
  expect(findStep(SAILINGS, 'mail')).toMatchObject({ sceneIndex: 1, stepIndex: 0 });
  expect(findStep(SAILINGS, 'none')).toBeNull();
  expect(findScene(SAILINGS, 'bye')).toMatchObject({ index: 2 });
  expect(targetWords(SAILINGS, 'email')).toBe('2 Email');
  expect(targetWords(SAILINGS, 'next')).toBe('the next step');
  expect(targetWords(SAILINGS, 'end')).toBe('the end');
  expect(targetWords(SAILINGS, 'gone')).toContain('missing');
  expect(Object.fromEntries(scenesBefore(SAILINGS))).toEqual({
    welcome: [],
    email: [1],
    bye: [1, 2, 4],
    nudge: [1],
  });
});

test('every way out of a step is told, with its words and its place in the step', () => {
  const [hello] = SAILINGS.scenes[0]!.steps;
  expect(exitsOf(hello!)).toEqual([
    { kind: 'choice', words: 'Yes, keep me posted', to: 'email', path: ['choices', 0, 'to'] },
    { kind: 'choice', words: 'Not today', to: 'bye', path: ['choices', 1, 'to'] },
    { kind: 'no reply', words: 'no reply in 3 h', to: 'nudge', path: ['noReply', 'to'] },
  ]);
  expect(exitsOf(SAILINGS.scenes[1]!.steps[0]!)).toEqual([
    { kind: 'could not read', words: 'could not read it, after 2 retries', to: 'bye', path: ['otherwise'] },
  ]);
  expect(waitingOf(SAILINGS.scenes[2]!.steps[0]!)).toBeNull();
  expect(fieldsOf(SAILINGS)).toEqual({ email: 'email' });
});

test('ids are made from words, and numbered where taken', () => {
  expect(freshId('Yes, keep me posted', [])).toBe('yes-keep-me');
  expect(freshId('say', ['say', 'say-2'])).toBe('say-3');
  expect(freshId('end', [])).toBe('end-2');
  expect(freshId('🎉', [])).toBe('x');
  expect(slug('Ñandú & Söhne', '-')).toBe('nandu-sohne');
  expect(fieldKey('Party size?')).toBe('party_size');
});

describe('yes and no lead where they say', () => {
  const loop = loopOf(
    '{ format: dart-loop/1, name: Bike, cues: [{ kind: keyword, words: [bike], match: exactly }], scenes: [{ id: q, name: Q, steps: [{ kind: ask, text: Bring a bike?, reply: yes/no, field: bicycle, yes: rack, no: foot }] }, { id: rack, name: Rack, steps: [{ kind: say, text: Racks are aft. }] }, { id: foot, name: Foot, steps: [{ kind: say, text: By foot then. }] }] }',
  );
  test.each([
    ['yes please', 'Racks are aft.', true],
    ['nope', 'By foot then.', false],
  ])('%s', (reply, said, value) => {
    const talk = new Conversation([loop]);
    talk.says('bike');
    expect(talk.says(reply)).toEqual([said]);
    expect(talk.person.fields.bicycle).toEqual({ type: 'yes/no', value });
  });
});

test('a retry of a say shows its choices again, and counts anew after it was read', () => {
  const loop = loopOf(
    '{ format: dart-loop/1, name: Pick, cues: [{ kind: keyword, words: [pick], match: exactly }], scenes: [{ id: one, name: One, steps: [{ id: which, kind: say, text: Which?, choices: [{ label: Boat, to: one }, { label: Bus, to: end }], retry: { times: 1, text: One of the two. }, otherwise: end }] }] }',
  );
  const talk = new Conversation([loop]);
  talk.says('pick');
  const retried = talk.hears({ kind: 'text', text: 'hm' });
  expect(retried.effects.filter((effect) => effect.kind === 'send')).toMatchObject([
    { kind: 'send', said: { text: 'One of the two.', choices: [{ label: 'Boat' }, { label: 'Bus' }] } },
  ]);
  expect(talk.says('boat')).toEqual(['Which?']);
  expect(talk.says('hm')).toEqual(['One of the two.']);
  expect(talk.says('hm')).toEqual([]);
  expect(talk.run).toBeNull();
});
