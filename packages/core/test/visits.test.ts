import { findingsOf, problemsOf, type Loop } from '../src';
import { pathsOf } from '../src/loops/check/paths';
import { CheckWorld } from '../src/loops/check/check';
import { surelyKnown } from '../src/loops/check/ways';
import { Conversation, loopOf } from './support';

const keyword = 'cues: [{ kind: keyword, words: [go], match: exactly }]';
const loop = (scenes: string): Loop =>
  loopOf(`{ format: dart-loop/1, name: Visits, ${keyword}, scenes: [${scenes}] }`);
const codes = (loop: Loop) => findingsOf(loop).map(({ code }) => code);

/** Asks for the address in a scene of its own, from two places. */
const twice = loop(`
  { id: one, name: One, steps: [
    { id: first, kind: say, text: Delivery. }, { id: g1, kind: go, to: address, back: true },
    { id: second, kind: say, text: Billing. }, { id: g2, kind: go, to: address, back: true },
    { id: bye, kind: say, text: "Thanks, {{ answers.street }}." } ] },
  { id: address, name: Address, steps: [
    { id: street, kind: ask, text: Which street?, reply: text, field: street, cancel: stop, noReply: { after: 1d, to: end } },
    { id: city, kind: ask, text: Which city?, reply: text, field: city, noReply: { after: 1d, to: end } } ] },
  { id: stop, name: Stop, steps: [{ id: bye2, kind: say, text: Another time. }, { id: over, kind: end }] }`);

describe('a scene is gone to, and come back from', () => {
  const fresh = () => new Conversation([twice], 'telegram', { street: 'text', city: 'text' });
  test('after its last step the loop goes on where it left', () => {
    const conversation = fresh();
    expect(conversation.says('go')).toEqual(['Delivery.', 'Which street?']);
    expect(conversation.says('Elm Street')).toEqual(['Which city?']);
    expect(conversation.says('Harwick')).toEqual(['Billing.', 'Which street?']);
    expect(conversation.says('Oak Street')).toEqual(['Which city?']);
    expect(conversation.says('Harwick')).toEqual(['Thanks, Oak Street.']);
    expect(conversation.runs.at(-1)).toMatchObject({ status: 'finished' });
  });
  test('the end is the end, and a scene that is left for another still comes back', () => {
    const conversation = fresh();
    conversation.says('go');
    expect(conversation.says('never mind')).toEqual(['Another time.']);
    expect(conversation.runs.at(-1)).toMatchObject({ status: 'finished' });
    const on = new Conversation([
      loop(`
        { id: one, name: One, steps: [{ kind: go, to: a, back: true }, { kind: say, text: Back. }] },
        { id: a, name: A, steps: [{ kind: say, text: In A. }, { kind: go, to: b }] },
        { id: b, name: B, steps: [{ kind: say, text: In B. }] }`),
    ]);
    expect(on.says('go')).toEqual(['In A.', 'In B.', 'Back.']);
  });
  test('visits within visits; an empty scene is come back from at once', () => {
    const nested = new Conversation([
      loop(`
        { id: one, name: One, steps: [{ kind: go, to: a, back: true }, { kind: say, text: Three. }] },
        { id: a, name: A, steps: [{ kind: go, to: b, back: true }, { kind: say, text: Two. }, { kind: go, to: none, back: true }] },
        { id: b, name: B, steps: [{ kind: say, text: One. }] },
        { id: none, name: None, steps: [] }`),
    ]);
    expect(nested.says('go')).toEqual(['One.', 'Two.', 'Three.']);
  });
  test('visits without end are stopped', () => {
    const endless = new Conversation(
      [
        loop(`
        { id: one, name: One, steps: [{ kind: ask, text: How many?, reply: number, field: n }, { kind: go, to: one, back: true }] }`),
      ],
      'telegram',
      { n: 'number' },
    );
    endless.says('go');
    for (let n = 0; n < 25; n++) endless.says('3');
    expect(endless.responses.flatMap(({ notes }) => notes)).toContainEqual(
      expect.objectContaining({ code: 'chain cut', reason: expect.stringContaining('20 deep') }),
    );
  });
  test('it stands as it is under way over a wait, and staff who start a scene again leave it', () => {
    const conversation = fresh();
    conversation.says('go');
    conversation.says('Elm Street');
    expect(conversation.run?.returns).toEqual([{ step: 'g1' }]);
  });
});

describe('a scene is played for each item', () => {
  const sizes = loop(`
    { id: one, name: One, steps: [
      { kind: ask, text: How many dogs?, reply: number, field: dogs },
      { kind: go, to: size, back: true, each: { field: dogs, most: 3, as: dog } },
      { kind: say, text: "That is all." } ] },
    { id: size, name: Size, steps: [
      { kind: ask, text: "How big is dog {{ answers.dog }}?", reply: text, field: size },
      { kind: set, changes: [{ do: field, field: sizes, value: "{{ person.sizes }} {{ answers.dog }}={{ answers.size }}" }] } ] }`);
  const fresh = () => new Conversation([sizes], 'telegram', { dogs: 'number', size: 'text', sizes: 'text' });
  test('of a number', () => {
    const conversation = fresh();
    conversation.says('go');
    expect(conversation.says('2')).toEqual(['How big is dog 1?']);
    expect(conversation.says('big')).toEqual(['How big is dog 2?']);
    expect(conversation.says('small')).toEqual(['That is all.']);
    expect(conversation.person.fields.sizes).toEqual({ type: 'text', value: '1=big 2=small' });
  });
  test('at most as many as it says; of none it goes on', () => {
    const many = fresh();
    many.says('go');
    expect([many.says('9'), many.says('a'), many.says('b'), many.says('c')].flat()).toEqual([
      'How big is dog 1?',
      'How big is dog 2?',
      'How big is dog 3?',
      'That is all.',
    ]);
    const none = fresh();
    none.says('go');
    expect(none.says('0')).toEqual(['That is all.']);
  });
  test('of several options, said in one go', () => {
    const jobs = new Conversation(
      [
        loop(`
          { id: one, name: One, steps: [
            { kind: ask, text: Which?, reply: several of, field: jobs, options: [{ id: a, label: Nails }, { id: b, label: Ears }, { id: c, label: Bow }, { id: d, label: Wash }, { id: e, label: Dry }] },
            { kind: go, to: job, back: true, each: { field: jobs } }, { kind: say, text: Done. } ] },
          { id: job, name: Job, steps: [{ kind: say, text: "{{ answers.item_number }} {{ answers.item }}" }] }`),
      ],
      'telegram',
      { jobs: 'several of' },
    );
    jobs.says('go');
    // A step that says something for each of five items is no circle.
    expect(jobs.says('all')).toEqual(['1 Nails', '2 Ears', '3 Bow', '4 Wash', '5 Dry', 'Done.']);
  });
  test.each([
    ['{ kind: go, to: one, each: { field: n } }', 'back: true'],
    ['{ kind: go, to: end, back: true }', 'comes "back" from a scene or a loop'],
    ['{ kind: go, to: one, back: true, each: { field: n, most: 50 } }', 'at most 20 items'],
  ])('%s is refused', (step, reason) => {
    expect(() => loop(`{ id: one, name: One, steps: [${step}] }`)).toThrow(reason);
  });
});

describe('checks know of what comes back', () => {
  test('nothing is wrong with a scene that is visited twice, and what it asks is known after', () => {
    expect(problemsOf(twice)).toEqual([]);
    expect(codes(twice)).toEqual([]);
    expect(surelyKnown(twice).has('bye', 'answers.street')).toBe(true);
    expect(surelyKnown(twice).has('second', 'answers.city')).toBe(true);
    expect(surelyKnown(twice).has('street', 'answers.city')).toBe(false);
  });
  test('two visits without waiting are no circle; a scene that visits itself is one', () => {
    const silent = loop(`
      { id: one, name: One, steps: [{ kind: go, to: a, back: true }, { kind: go, to: a, back: true }, { kind: say, text: Done. }] },
      { id: a, name: A, steps: [{ kind: set, changes: [{ do: add tag, tag: x }] }] }`);
    expect(codes(silent)).toEqual([]);
    const itself = loop(`
      { id: one, name: One, steps: [{ kind: say, text: Hm. }, { kind: go, to: one, back: true }] }`);
    expect(codes(itself)).toContain('circle');
  });
  test('the end of a visited scene is not silent where the loop goes on, and is where it does not', () => {
    const goes = (after: string) =>
      loop(`
        { id: one, name: One, steps: [{ kind: go, to: a, back: true }${after}] },
        { id: a, name: A, steps: [{ kind: ask, text: How many?, reply: number, field: n, noReply: { after: 1d, to: end } }] }`);
    expect(codes(goes(', { kind: say, text: Thanks. }'))).toEqual([]);
    expect(codes(goes(''))).toEqual(['falls silent']);
  });
  test('paths go through a visit and on after it, each to where it came from', () => {
    const { paths } = pathsOf(new CheckWorld(twice, {}));
    const straight = paths.filter(({ steps }) => steps.every(({ by }) => by !== 'never mind'));
    expect(straight.map(({ steps }) => steps.map(({ stepId }) => stepId))).toContainEqual(
      expect.arrayContaining(['first', 'g1', 'street', 'city', 'second']),
    );
    // Somebody who calls off leaves by the end, and not back.
    const off = paths.find(({ steps }) => steps.some(({ by }) => by === 'never mind'))!;
    expect(off.steps.map(({ stepId }) => stepId)).toEqual(['first', 'g1', 'street', 'bye2', 'over']);
  });
});
