import fc from 'fast-check';
import type { FromSources } from '../src/engine/steps/fromSources';
import { wantsPerson } from '../src/language/answers';
import { fold } from '../src/language/fold';
import { Conversation, loopOf } from './support';

const LOOP = `
format: dart-loop/1
name: Ask us
cues:
  - { kind: keyword, words: [ask], match: first word }
  - { kind: fallback }
scenes:
  - id: one
    name: Questions
    steps:
      - kind: answer
        id: a
        text: What would you like to know?
        notKnown: { text: "I cannot say that. Somebody of ours can.", times: 2, to: team }
        person: team
        most: 3
        noReply: { after: 30m, to: end }
      - { kind: say, id: bye, text: See you on board. }
  - id: team
    name: Team
    steps: [{ kind: say, id: t, text: Somebody will write to you. }]
`;
const KEYWORD = `
format: dart-loop/1
name: Fares
cues: [{ kind: keyword, words: [fares], match: whole word }]
scenes: [{ id: one, name: One, steps: [{ kind: say, id: s, text: The fares are on the board. }] }]
`;

const DOGS = 'Dogs are welcome on deck. They travel free.';
const FARES = 'A single costs £4.20. Children under five go free.';
const BICYCLES = 'Bicycles go on every boat, except the 07:10. A bicycle costs £2.';

/** What sources that say these three things say to each question of a message. */
const sourcesSay = (message: string): FromSources =>
  message
    .split(/[?\n]/)
    .map((question) => question.trim())
    .filter((question) => question !== '' && !/^(?:hi|thanks)$/.test(question))
    .flatMap((question) => {
      const [text = null] = [
        ...(/dog/.test(question) ? [DOGS] : []),
        ...(/single/.test(question) ? [FARES] : []),
        ...(/bicycle/.test(question) ? [BICYCLES] : []),
      ];
      return one({ question, came: text === null ? 'not known' : 'answered', text });
    });

/** A conversation whose sources answer as soon as they are asked. */
class Asking extends Conversation {
  /** What was asked of the sources, in turn. */
  readonly asked: string[] = [];
  say(text: string): string[] {
    return [...this.says(text), ...this.answers()];
  }
  /** The sources say what they know to what was asked. */
  answers(): string[] {
    const said: string[] = [];
    for (
      let [errand] = this.rehearsal.errands;
      errand?.kind === 'ask sources';
      [errand] = this.rehearsal.errands
    ) {
      const { question } = errand;
      this.asked.push(question);
      said.push(
        ...this.delivers({
          ok: true,
          body: sourcesSay(question),
        }),
      );
    }
    return said;
  }
  /** How questions came out, in turn. */
  get came(): string[] {
    return this.responses.flatMap(({ effects }) =>
      effects.flatMap((effect) => (effect.kind === 'asked' ? [`${effect.came}: ${effect.question}`] : [])),
    );
  }
}
const begun = (loops = [LOOP]) => {
  const talk = new Asking(loops.map(loopOf));
  expect(talk.say('ask')).toEqual(['What would you like to know?']);
  return talk;
};
const one = (more: Partial<FromSources[number]>): FromSources => [
  { question: '', came: 'not known', text: null, from: null, passage: null, offers: [], ...more },
];

test('a question is answered in the words of the sources, until there is nothing more to ask', () => {
  const talk = begun();
  expect(talk.say('can I bring my dog?')).toEqual([DOGS]);
  expect(talk.say('and bicycles?')).toEqual([BICYCLES]);
  expect(talk.say('ok thanks')).toEqual(['See you on board.']);
  expect(talk.came).toEqual(['answered: can I bring my dog', 'answered: and bicycles']);
  expect(talk.run).toBeNull();
});

test('after as many answers as the step gives the loop goes on', () => {
  const talk = begun();
  talk.say('can I bring my dog?');
  talk.say('what does a single cost?');
  expect(talk.say('do bicycles cost anything?')).toEqual([BICYCLES, 'See you on board.']);
});

test('words that led to the step and ask something are answered at once; a keyword alone is not', () => {
  const byWord = new Asking([loopOf(LOOP)]);
  expect(byWord.say('ask can I bring my dog?')).toEqual([DOGS]);
  expect(byWord.asked).toEqual(['can I bring my dog?']);
  const byFallback = new Asking([loopOf(LOOP)]);
  expect(byFallback.say('do you take bicycles?')).toEqual([BICYCLES]);
  expect(byFallback.asked).toEqual(['do you take bicycles?']);
});

test('words that no earlier question could read are a question; those it has read are not', () => {
  const loop = (more: string) =>
    loopOf(`
format: dart-loop/1
name: Crossing
cues: [{ kind: keyword, words: [go], match: exactly }]
scenes:
  - id: one
    name: One
    steps:
      - { kind: ask, id: q, text: Which email?, reply: email, field: email, ${more} }
      - { kind: answer, id: a, text: And what would you like to know? }
`);
  const unread = new Asking([loop('somethingElse: next')]);
  unread.say('go');
  expect(unread.say('do you take bicycles?')).toEqual([BICYCLES]);
  const read = new Asking([loop('')]);
  read.say('go');
  expect(read.say('mira@example.org')).toEqual(['And what would you like to know?']);
  expect(read.asked).toEqual([]);
});

test('two questions in one message get one answer', () => {
  expect(begun().say('can I bring my dog? what does a single cost?')).toEqual([`${DOGS}\n\n${FARES}`]);
});

test('what is not sure is offered to choose from: tapped, by its letter, or none of them', () => {
  const [question, text] = ['where can I park?', 'Do you mean one of these?'];
  const offer = () => {
    const talk = begun();
    expect(talk.says(question)).toEqual([]);
    const offers = ['Parking on the quay', 'Parking at Harwick'].map((label, at) => ({
      ...{ label, text: `About ${label}.`, passage: `p${at}` },
    }));
    expect(talk.delivers({ ok: true, body: one({ question, came: 'offered', offers }) })).toEqual([text]);
    return talk;
  };
  expect(offer().taps('Parking at Harwick')).toEqual(['About Parking at Harwick.']);
  expect(offer().say('a')).toEqual(['About Parking on the quay.']);
  const picked = offer();
  picked.taps('Parking at Harwick');
  expect(picked.came).toEqual([`offered: ${question}`, `picked: ${question}`]);
  // The button stands there still; it is no answer to what was asked since.
  const late = offer();
  const stale = late.rehearsal.offered[0]!;
  late.say('can I bring my dog?');
  expect(late.came).toContain(`passed over: ${question}`);
  expect(late.on({ kind: 'tap', ...stale.ref, label: stale.label })).toEqual([]);
  const passed = offer();
  expect(passed.taps('None of these')).toEqual(['I cannot say that. Somebody of ours can.']);
  expect(passed.came).toEqual([`offered: ${question}`, `passed over: ${question}`]);
  // A longer message is a question, though a word of it stands in an offer.
  expect(offer().say('how much does a single from Harwick cost?')).toEqual([FARES]);
});

test('what the sources do not say is said to be not known, and leads out after so many in a row', () => {
  const talk = begun();
  const unknown = 'I cannot say that. Somebody of ours can.';
  expect(talk.say('do you sell umbrellas?')).toEqual([unknown]);
  expect(talk.say('can I bring my dog?')).toEqual([DOGS]);
  expect(talk.say('who painted the funnel?')).toEqual([unknown]);
  expect(talk.say('do you sell umbrellas?')).toEqual([unknown, 'Somebody will write to you.']);
  expect(talk.came.filter((each) => each.startsWith('not known'))).toHaveLength(3);
});

test('the sources cannot be asked: it is not known, and says why beside the conversation', () => {
  const talk = begun();
  talk.says('can I bring my dog?');
  expect(talk.delivers({ ok: false, reason: 'it took too long' })).toEqual([
    'I cannot say that. Somebody of ours can.',
  ]);
  expect(talk.notes()).toContain('sources not asked');
  expect(talk.came).toEqual([]);
  // Nor does an answer in another shape than ours come through.
  talk.says('can I bring my dog?');
  expect(talk.delivers({ ok: true, body: { say: 'Everything is free!' } })[0]).toBe(
    'I cannot say that. Somebody of ours can.',
  );
});

test('who wants a person is led there, also by the first words', () => {
  expect(begun().say('can I speak to somebody please')).toEqual(['Somebody will write to you.']);
  const first = new Asking([loopOf(LOOP)]);
  expect(first.say('I want to talk to a real person')).toEqual(['Somebody will write to you.']);
  expect(first.asked).toEqual([]);
});

test.each([
  ['can i talk to a human', true],
  ['Get me a real person!', true],
  ['please call me back', true],
  ['quiero hablar con una persona', true],
  ['je voudrais parler à quelqu’un', true],
  ['ich möchte mit einem Menschen sprechen', true],
  ['vorrei parlare con un operatore', true],
  ['quero falar com alguém', true],
  ['how many people fit on the boat?', false],
  ['is the price per person?', false],
  ['what do you call the small boat', false],
  ['do you have a talk on seals', false],
])('“%s” asks for a person: %s', (said, wants) => {
  expect(wantsPerson(fold(said))).toBe(wants);
});

test('a cue of another loop that hears the words goes before the sources, and the decision says so', () => {
  const talk = begun([LOOP, KEYWORD]);
  expect(talk.say('what are your fares')).toEqual(['The fares are on the board.']);
  expect(talk.asked).toEqual([]);
  const { candidates } = talk.responses.at(-1)!.decision!;
  expect(candidates.map(({ who, outcome }) => [who, outcome])).toEqual(
    expect.arrayContaining([
      ['Fares', 'won'],
      ['Ask us', 'lost'],
    ]),
  );
});

test('what comes while the sources are asked joins the question: one answer meets both', () => {
  const talk = begun();
  expect(talk.says('can I bring my dog?')).toEqual([]);
  expect(talk.says('and what does a single cost?')).toEqual([]);
  expect(talk.says('thanks')).toEqual([]);
  expect(talk.answers()).toEqual([`${DOGS}\n\n${FARES}`]);
});

test('messages within the time it gathers are one question', () => {
  const talk = new Asking([loopOf(LOOP.replace('most: 3', 'gather: 10s'))]);
  talk.say('ask');
  for (const text of ['hi', 'can I bring my dog?', 'what does a single cost?', 'thanks']) {
    expect(talk.say(text)).toEqual([]);
    expect(talk.later('3s')).toEqual([]);
  }
  expect(talk.later('10s')).toEqual([]);
  expect(talk.answers()).toEqual([`${DOGS}\n\n${FARES}`]);
});

test('a person of the team steps in while the sources are asked: nothing is said, then or later', () => {
  const talk = begun();
  talk.says('can I bring my dog?');
  talk.on({ kind: 'step in', by: 'Bram' });
  expect(talk.answers()).toEqual([]);
  expect(talk.on({ kind: 'hand back', by: 'Bram', how: 'resume' })).toEqual(['What would you like to know?']);
});

test('nobody asks: the exit for that is taken', () => {
  const talk = begun();
  talk.later('30m');
  expect(talk.run).toBeNull();
});

test('whatever comes in whatever order, a message gets one answer at the most, and none while a person has it', () => {
  const happening = fc.constantFrom(
    'dog',
    'single',
    'odd',
    'answers',
    'step in',
    'hand back',
    'none',
    'thanks',
  );
  fc.assert(
    fc.property(fc.array(happening, { maxLength: 30 }), (all) => {
      const talk = new Asking([loopOf(LOOP)]);
      let heard = 0;
      const said: string[] = [];
      const words: Record<string, string> = {
        dog: 'can I bring my dog?',
        single: 'what does a single cost?',
        odd: 'do you sell umbrellas?',
        none: 'none of these',
        thanks: 'thanks',
      };
      for (const each of all) {
        const held = talk.rehearsal.standing.held !== null;
        let now: string[];
        if (each === 'answers') now = talk.answers();
        else if (each === 'step in') now = talk.on({ kind: 'step in', by: 'Bram' });
        else if (each === 'hand back') now = talk.on({ kind: 'hand back', by: 'Bram', how: 'resume' });
        else {
          heard++;
          now = talk.says(words[each]!);
        }
        if (held && each !== 'hand back') expect(now).toEqual([]);
        said.push(...now.filter((text) => /welcome|costs|cannot say/.test(text)));
      }
      said.push(...talk.answers().filter((text) => /welcome|costs|cannot say/.test(text)));
      expect(said.length).toBeLessThanOrEqual(heard);
      expect(talk.rehearsal.errands).toEqual([]);
    }),
  );
});
