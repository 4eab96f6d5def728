import { Step, stageWords } from '../src';
import { Conversation, loopOf } from './support';

/** A loop that asks one question, given as in a file, and says what came of it. */
const asking = (question: string, said: string) =>
  loopOf(
    `{ format: dart-loop/1, name: Asks, cues: [{ kind: keyword, words: [go], match: exactly }], scenes: [{ id: one, name: One, steps: [{ kind: ask, ${question} }, { kind: say, text: "${said}" }] }, { id: by-phone, name: By phone, steps: [{ kind: say, text: We call you. }] }] }`,
  );

describe('one message answers several questions', () => {
  const TYPES = { dogs: 'number', day: 'date', time: 'time', name: 'text', size: 'one of' } as const;
  const grooming = (more = '') =>
    new Conversation(
      [
        asking(
          `text: "How many dogs, and when?", reply: number, field: dogs, max: 6, retry: { times: 2, text: Sorry? }, otherwise: by-phone, also: [{ text: "Which day?", reply: date, field: day }, { text: "At what time?", reply: time, field: time }] ${more}`,
          '{{ answers.dogs }} on {{ answers.day }} at {{ answers.time }}',
        ),
      ],
      'telegram',
      TYPES,
    );
  // On Tuesday 24 November 2026.
  test.each([
    ['2 dogs, Friday at 3pm', '2 on 2026-11-27 at 15:00'],
    ['friday 3pm, two', '2 on 2026-11-27 at 15:00'],
    ['I would like to bring 3 dogs on 4 December at half past ten', '3 on 2026-12-04 at 10:30'],
    ['2 dogs friday at 15:30', '2 on 2026-11-27 at 15:30'],
    ['tomorrow 9:15\n1 dog', '1 on 2026-11-25 at 09:15'],
    ['a couple of dogs on 5/12 at noon please', '2 on 2026-12-05 at 12:00'],
  ])('“%s”', (said, then) => {
    const conversation = grooming();
    conversation.says('go');
    expect(conversation.says(said)).toEqual([then]);
  });
  test('what is missing is asked, what is doubtful confirmed, and what was read is kept', () => {
    const conversation = grooming();
    expect(conversation.says('go')).toEqual(['How many dogs, and when?']);
    expect(conversation.says('two dogs')).toEqual(['Which day?']);
    expect(conversation.person.fields.dogs).toEqual({ type: 'number', value: 2 });
    // A span is narrowed, and the time that came with it kept.
    expect(conversation.says('next week at 4pm')).toEqual(['Which day, between 30 November and 6 December?']);
    expect(conversation.person.fields.time).toEqual({ type: 'time', value: '16:00' });
    expect(conversation.says('wednesday')).toEqual(['2 on 2026-12-02 at 16:00']);
  });
  test('answers come in any order; what none can be read from is asked again', () => {
    const conversation = grooming();
    conversation.says('go');
    expect(conversation.says('hm')).toEqual(['Sorry?']);
    expect(conversation.says('friday')).toEqual(['How many dogs, and when?']);
    // What could not be read before does not count against the next question.
    expect(conversation.says('hm')).toEqual(['Sorry?']);
    expect(conversation.says('hm')).toEqual(['Sorry?']);
    expect(conversation.says('9 dogs')).toEqual(['We call you.']);
  });
  test('a number that is out of bounds is asked for again, and the rest kept', () => {
    const conversation = grooming();
    conversation.says('go');
    expect(conversation.says('12 dogs, friday 3pm')).toEqual(['How many dogs, and when?']);
    expect(conversation.says('4')).toEqual(['4 on 2026-11-27 at 15:00']);
  });
  test('what is known is passed over, where the step says so', () => {
    const conversation = grooming(', known: skip');
    conversation.rehearsal = {
      ...conversation.rehearsal,
      person: {
        ...conversation.person,
        fields: { dogs: { type: 'number', value: 2 }, time: { type: 'time', value: '10:00' } },
      },
    };
    expect(conversation.says('go')).toEqual(['Which day?']);
    expect(conversation.says('tomorrow')).toEqual(['2 on 2026-11-25 at 10:00']);
  });
  test('all are shown back in one question, and put right in words', () => {
    const conversation = grooming(', showBack: { when: always }');
    conversation.says('go');
    expect(conversation.says('2 dogs on friday')).toEqual(['At what time?']);
    expect(conversation.says('3pm')).toEqual(['2, Friday 27 November, 15:00, is that right?']);
    expect(conversation.says('saturday please')).toEqual(['2, Saturday 28 November, 15:00, is that right?']);
    expect(conversation.says('yes')).toEqual(['2 on 2026-11-28 at 15:00']);
    conversation.says('go');
    conversation.says('3 dogs tomorrow 9:30');
    expect(conversation.says('no')).toEqual(['How many dogs, and when?']);
  });
  test('two doubtful answers are asked about one after the other, and none is lost', () => {
    const conversation = new Conversation(
      [
        asking(
          'text: "Your email and the day?", reply: email, field: email, also: [{ text: "Which day?", reply: date, field: day }]',
          '{{ answers.email }} {{ answers.day }}',
        ),
      ],
      'telegram',
      { email: 'email', day: 'date' },
    );
    conversation.says('go');
    expect(conversation.says('mira@gmial.com, in two months')).toEqual(['Did you mean mira@gmail.com?']);
    expect(conversation.says('yes')).toEqual(['Sunday 24 January, is that right?']);
    expect(conversation.says('yes')).toEqual(['mira@gmail.com 2027-01-24']);
  });
  test('words, options and an address in one; free words get what is left', () => {
    const conversation = new Conversation(
      [
        asking(
          'text: "Your name, your email and the size?", reply: text, field: name, also: [{ text: "Your email?", reply: email, field: email }, { text: "Which size?", reply: one of, field: size, options: [{ id: s, label: Small }, { id: l, label: Large }] }]',
          '{{ answers.name }} / {{ answers.email }} / {{ answers.size }}',
        ),
      ],
      'telegram',
      { name: 'text', email: 'email', size: 'one of' },
    );
    conversation.says('go');
    expect(conversation.says('Mira Vale, mira@example.org and large')).toEqual([
      'Mira Vale / mira@example.org / Large',
    ]);
    conversation.says('go');
    expect(conversation.says('Robin, small')).toEqual(['Your email?']);
    expect(conversation.says('robin@gmial.com')).toEqual(['Did you mean robin@gmail.com?']);
    expect(conversation.says('yes')).toEqual(['Robin / robin@gmail.com / Small']);
  });
  test.each([
    ['also: [{ text: A, reply: number, field: a }]', 'each field is asked for once'],
    ['also: [{ text: A, reply: date, field: b }], known: confirm', 'confirmed for one answer'],
    ['also: [{ text: A, reply: date, field: b, min: 3 }]', 'only a number has'],
  ])('a step with %s is refused', (more, reason) => {
    const read = () => asking(`text: Q, reply: number, field: a, ${more}`, 'x');
    expect(read).toThrow(reason);
  });
});

describe('anything else?', () => {
  const treats = (more = '') =>
    new Conversation(
      [
        asking(
          `text: "What shall we do?", reply: several of, field: jobs, options: [{ id: a, label: Nails }, { id: b, label: Ears }, { id: c, label: Bow }], anythingElse: { ${more} }, retry: { times: 1, text: Sorry? }, otherwise: by-phone`,
          '{{ answers.jobs }}',
        ),
      ],
      'telegram',
      { jobs: 'several of' },
    );
  test('is asked until it is all, with what is left and its letters', () => {
    const conversation = treats();
    expect(conversation.says('go')).toEqual(['What shall we do?\nA Nails\nB Ears\nC Bow']);
    expect(conversation.says('ears')).toEqual(['Anything else?\nA Nails\nC Bow']);
    expect(conversation.says('the bow too')).toEqual(['Anything else?\nA Nails']);
    expect(conversation.person.fields.jobs).toEqual({ type: 'several of', value: ['Ears', 'Bow'] });
    expect(conversation.says("no that's all thanks")).toEqual(['Ears, Bow']);
  });
  test('is not asked where nothing is left, or none is wanted; the last of them ends it', () => {
    const conversation = treats('text: "And?"');
    conversation.says('go');
    expect(conversation.says('all of them')).toEqual(['Nails, Ears, Bow']);
    conversation.says('go');
    expect(conversation.says('A and B')).toEqual(['And?\nC Bow']);
    expect(conversation.says('C')).toEqual(['Nails, Ears, Bow']);
  });
  test('“none” is an empty list where the step allows it, and asked again where it does not', () => {
    const allowed = treats();
    const step = allowed.rehearsal.versions[0]!.loop.scenes[0]!.steps[0]!;
    Object.assign(step, { none: true });
    for (const said of [
      'none of them',
      'no thanks',
      'ninguno',
      'aucun',
      'keins davon',
      'nenhum',
      'nessuno',
    ]) {
      allowed.says('go');
      allowed.says(said);
      expect(allowed.person.fields.jobs).toEqual({ type: 'several of', value: [] });
    }
    const not = treats();
    not.says('go');
    expect(not.says('none of them')).toEqual(['Sorry?']);
    expect(() => asking('text: Q, reply: number, field: n, none: true', 'x')).toThrow(
      '“none” is an answer only',
    );
  });
  test('what cannot be read loses nothing that was named', () => {
    const conversation = treats();
    conversation.says('go');
    conversation.says('ears');
    expect(conversation.says('the green one')).toEqual(['Sorry?']);
    expect(conversation.says('nails')).toEqual(['Anything else?\nC Bow']);
    expect(conversation.says('nope')).toEqual(['Nails, Ears']);
  });
  test.each([
    'no',
    'nothing else',
    "c'est tout",
    'das wars',
    'nada más',
    'só isso',
    'basta così',
    'nope, done',
  ])('“%s” is all', (said) => {
    const conversation = treats();
    conversation.says('go');
    conversation.says('ears');
    expect(conversation.says(said)).toEqual(['Ears']);
  });
});

describe('an answer is shown back', () => {
  const day = (showBack: string) =>
    new Conversation(
      [asking(`text: "Which day?", reply: date, field: day, showBack: { ${showBack} }`, 'Noted.')],
      'telegram',
      { day: 'date' },
    );
  test('always, in words of the builder’s own', () => {
    const conversation = day('when: always, text: "So {{ answers.day }} at {{ client.name }}?"');
    conversation.says('go');
    expect(conversation.says('saturday week')).toEqual(['So Saturday 5 December at Saltmarsh Ferries?']);
    expect(conversation.says('no')).toEqual(['Which day?']);
    expect(conversation.says('friday')).toEqual(['So Friday 27 November at Saltmarsh Ferries?']);
    expect(conversation.says('yes')).toEqual(['Noted.']);
    expect(conversation.person.fields.day).toEqual({ type: 'date', value: '2026-11-27' });
  });
  test('where it is unsure, below a measure of the step’s own; or never', () => {
    const usual = day('when: unsure');
    usual.says('go');
    expect(usual.says('in two months')).toEqual(['Sunday 24 January, is that right?']);
    const never = day('when: never');
    never.says('go');
    expect(never.says('in two months')).toEqual(['Noted.']);
    const lax = day('when: unsure, below: 0.3');
    lax.says('go');
    expect(lax.says('in two months')).toEqual(['Noted.']);
    // One of two is asked about however sure one is to be.
    never.says('go');
    expect(never.says('tuesday')).toHaveLength(1);
  });
  test('a reading of options counts as well; what was tapped is not asked about', () => {
    const conversation = new Conversation(
      [
        asking(
          'text: "Which size?", reply: one of, field: size, options: [{ id: s, label: Small boat }, { id: l, label: Large boat }], showBack: { when: unsure, below: 0.9 }',
          'Noted.',
        ),
      ],
      'telegram',
      { size: 'one of' },
    );
    conversation.says('go');
    expect(conversation.says('small')).toEqual(['Small boat, is that right?']);
    expect(conversation.says('yes')).toEqual(['Noted.']);
    conversation.says('go');
    expect(conversation.says('small boat')).toEqual(['Noted.']);
    conversation.says('go');
    expect(conversation.taps('Large boat')).toEqual(['Noted.']);
  });
  test('what somebody wrote is no merge field', () => {
    const conversation = new Conversation(
      [asking('text: "Your name?", reply: text, field: name, showBack: { when: always }', 'Noted.')],
      'telegram',
      { name: 'text' },
    );
    conversation.says('go');
    expect(conversation.says('{{ brief.phone }}')).toEqual(['{{ brief.phone }}, is that right?']);
  });
  test('a measure goes with “unsure” only', () => {
    const read = Step.safeParse({
      id: 's',
      kind: 'ask',
      text: 'Q',
      reply: 'date',
      field: 'd',
      showBack: { when: 'always', below: 0.5 },
    });
    expect(read.error?.issues[0]?.message).toContain('“below” goes with “when: unsure”');
  });
});

test('what could not be read at one question does not count at the next', () => {
  const loop = loopOf(
    '{ format: dart-loop/1, name: Two, cues: [{ kind: keyword, words: [go], match: exactly }], scenes: [{ id: one, name: One, steps: [{ kind: ask, text: How many?, reply: number, field: n, retry: { times: 2, text: A number please. } }, { kind: ask, text: Your email?, reply: email, field: email, known: confirm, retry: { times: 2, text: An email please. }, otherwise: end }] }] }',
  );
  const conversation = new Conversation(
    [loop],
    'telegram',
    { n: 'number', email: 'email' },
    {
      person: { fields: { email: { type: 'email', value: 'mira@example.org' } } },
    },
  );
  conversation.says('go');
  conversation.says('hm');
  conversation.says('hm');
  conversation.says('3');
  expect(conversation.says('hm')).toEqual(['An email please.']);
  expect(conversation.says('hm')).toEqual(['An email please.']);
});

test('a reading says why it is no surer, and the conversation shows it', () => {
  const conversation = new Conversation(
    [asking('text: "How many?", reply: number, field: n', 'Noted.')],
    'telegram',
    { n: 'number' },
  );
  conversation.says('go');
  conversation.says('a dozen');
  const note = conversation.responses.at(-1)!.notes.find(({ code }) => code === 'reply read')!;
  expect(note).toMatchObject({ value: { value: 12 }, why: 'it is said in words' });
  expect(stageWords(note)).toBe('Read as a number (it is said in words). n = 12.');
  conversation.says('go');
  conversation.says('12');
  expect(stageWords(conversation.responses.at(-1)!.notes.find(({ code }) => code === 'reply read')!)).toBe(
    'Read as a number. n = 12.',
  );
});
