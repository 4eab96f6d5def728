import { OpeningHours, readReply, winnerOf, type Incoming, type Loop } from '../src';
import { Conversation, loopOf, texts } from './support';

/** A loop that says its name; `cue` as in a file. */
const saying = (name: string, cue: string, steps = `[{ kind: say, text: this is ${name} }]`): Loop =>
  loopOf(
    `{ format: dart-loop/1, name: ${name}, cues: [${cue}], scenes: [{ id: one, name: One, steps: ${steps} }] }`,
  );
const keyword = (word: string, more = '') => `{ kind: keyword, words: [${word}], match: exactly ${more} }`;
const text = (words: string): Incoming => ({ kind: 'text', text: words });

describe('when a cue may fire again', () => {
  test('once, once in a time, after finishing', () => {
    const once = new Conversation([saying('Once', keyword('go', ', again: once'))]);
    expect(once.says('go')).toEqual(['this is Once']);
    expect(once.says('go')).toEqual([]);
    expect(once.responses.at(-1)!.decision!.candidates[1]).toMatchObject({
      outcome: 'lost',
      reason: 'it has started for this person before, and may only once',
    });
    const weekly = new Conversation([saying('Weekly', keyword('go', ', again: { onceIn: 7d }'))]);
    weekly.says('go');
    weekly.later('6d');
    expect(weekly.says('go')).toEqual([]);
    weekly.later('1d');
    expect(weekly.says('go')).toEqual(['this is Weekly']);
    const asking = '[{ kind: ask, text: How many?, reply: number, field: n }]';
    const finishing = new Conversation([saying('Finish', keyword('go', ', again: after finishing'), asking)]);
    finishing.says('go');
    expect(finishing.says('go')).toEqual([]);
    finishing.says('3');
    expect(finishing.says('go')).toEqual(['How many?']);
  });
  const asking = (whileRunning: string) =>
    saying(
      'Asks',
      keyword('go', `, whileRunning: ${whileRunning}`),
      '[{ kind: say, text: Hello. }, { kind: ask, text: How many?, reply: number, field: n }]',
    );
  test('while it runs: start over, ignore, resume', () => {
    const over = new Conversation([asking('start over')]);
    over.says('go');
    expect(over.says('go')).toEqual(['Hello.', 'How many?']);
    expect(over.runs.map((run) => run.status)).toEqual(['replaced', 'under way']);
    const ignored = new Conversation([asking('ignore')]);
    ignored.says('go');
    expect(ignored.says('go')).toEqual([]);
    const resumed = new Conversation([asking('resume')]);
    resumed.says('go');
    expect(resumed.says('go')).toEqual(['How many?']);
    expect(resumed.runs).toHaveLength(1);
    expect(resumed.says('4')).toEqual([]);
    expect(resumed.person.fields.n).toEqual({ type: 'number', value: 4 });
  });
});

describe('the places of the order', () => {
  const ask = saying('Ask', keyword('ask'), '[{ kind: ask, text: Say something, reply: text, field: x }]');
  const all = [
    ask,
    saying('First', '{ kind: first message }'),
    saying('Rest', '{ kind: fallback }'),
    saying('Word', keyword('word')),
    saying('Always', keyword('agent', ', alwaysWins: true')),
  ];
  const place = (talk: Conversation, incoming: Incoming, id?: string) =>
    winnerOf(talk.hears(incoming, id).decision!).place;
  test('first message, then fallback; a keyword goes before both', () => {
    const talk = new Conversation(all);
    expect(place(talk, text('hello'))).toBe('first message');
    expect(place(talk, text('hello'))).toBe('fallback');
    expect(place(talk, text('word'))).toBe('other cue');
    expect(place(new Conversation(all), text('word'))).toBe('other cue');
  });
  test('a fallback answers beside a run that cannot read it, which keeps its place; one that asks itself takes it over', () => {
    const choosing = saying(
      'Choose',
      keyword('choose'),
      '[{ kind: say, text: Which?, choices: [{ label: Boat, to: end }, { label: Bus, to: end }] }]',
    );
    const talk = new Conversation([choosing, saying('Sorry', '{ kind: fallback }')]);
    talk.says('choose');
    expect(talk.says('what about the weather')).toEqual(['this is Sorry']);
    expect(
      talk.responses.at(-1)!.decision!.candidates.map((each) => [each.who, each.place, each.outcome]),
    ).toEqual([
      ['Sorry', 'fallback', 'won'],
      ['Choose', 'waiting run cannot read it', 'lost'],
    ]);
    expect(talk.rehearsal.shelf).toBe('running');
    talk.says('bus');
    expect(talk.runs.map((run) => run.status)).toEqual(['finished', 'finished']);
    const asking = new Conversation([
      choosing,
      saying(
        'Asks',
        '{ kind: fallback }',
        '[{ kind: ask, text: Shall we call?, reply: yes/no, field: call }]',
      ),
    ]);
    asking.says('choose');
    expect(asking.says('hm')).toEqual(['Shall we call?']);
    expect(asking.runs.map((run) => run.status)).toEqual(['replaced', 'under way']);
  });
  test('whoever answers, the loops that take only what is left say why they did not', () => {
    const talk = new Conversation(all);
    const { decision } = talk.hears(text('word'));
    expect(decision!.candidates.map((each) => [each.who, each.outcome, each.reason])).toEqual([
      ['Word', 'won', '“word” was heard exactly'],
      ['First', 'lost', 'it takes only what nothing else takes'],
      ['Rest', 'lost', 'it takes only what nothing else takes'],
    ]);
  });
  test('a cue that always wins goes before a run that can read it, which goes before keywords', () => {
    const talk = new Conversation(all);
    talk.says('ask');
    expect(place(talk, text('word'))).toBe('waiting run can read it');
    talk.says('ask');
    expect(place(talk, text('agent'))).toBe('cue that always wins');
  });
  test('the same event again is dropped', () => {
    const talk = new Conversation(all);
    expect(place(talk, text('word'), 'event-1')).toBe('other cue');
    const again = talk.hears(text('word'), 'event-1');
    expect(winnerOf(again.decision!).place).toBe('repeated delivery');
    expect(again).toMatchObject({ effects: [], runs: [] });
  });
  test('opt-out words go before everything, in the client’s languages; help explains; nothing is sent until START', () => {
    const talk = new Conversation(all, 'sms', {}, { client: { languages: ['en', 'de'] } });
    talk.says('ask');
    expect(talk.says('Abmelden!')).toEqual([
      'You will get no more messages from Saltmarsh Ferries. Write START to get them again.',
    ]);
    expect(talk.run).toBeNull();
    expect(talk.says('word')).toEqual([]);
    expect(talk.says('stop')).toEqual([]);
    expect(talk.on({ kind: 'webhook', hook: 'x', name: 'x' })).toEqual([]);
    expect(talk.says('START')).toEqual([
      'You get messages from Saltmarsh Ferries again. Write STOP to end them.',
    ]);
    expect(talk.says('word')).toEqual(['this is Word']);
    expect(talk.says('help')[0]).toContain('This is Saltmarsh Ferries, +44 1632 960144.');
    expect(new Conversation(all, 'telegram').says('please stop the boat')).toEqual(['this is First']);
  });
  test('what carriers rule for SMS is a word like any other elsewhere', () => {
    const cancel = saying('Cancel', keyword('cancel'));
    expect(new Conversation([cancel], 'telegram').says('cancel')).toEqual(['this is Cancel']);
    expect(new Conversation([cancel], 'sms').says('cancel')[0]).toContain('no more messages');
  });
  test('a person who has stepped in: recorded only; STOP works even then', () => {
    const talk = new Conversation(all);
    talk.says('ask');
    talk.on({ kind: 'step in', by: 'Ines' });
    const held = talk.hears(text('anybody there'));
    expect(winnerOf(held.decision!)).toMatchObject({ place: 'a person has stepped in', who: 'Ines' });
    expect(held.shelf).toBe('waiting on us');
    expect(talk.says('stop')).toHaveLength(1);
    expect(talk.rehearsal.standing.held).toBeNull();
  });
});

describe('handing over and back', () => {
  const desk = loopOf(`
format: dart-loop/1
name: Desk
cues: [{ kind: keyword, words: [desk], match: exactly }]
scenes:
  - name: One
    steps:
      - { kind: hand over, to: front desk, note: "{{ person.first_name }} waits", text: One moment., offDuty: { text: We open at nine. }, giveUp: { after: 30m, to: sorry } }
      - { kind: say, text: Anything else?, choices: [{ label: "Yes", to: again }, { label: "No", to: end }] }
  - { id: sorry, name: Sorry, steps: [{ kind: say, text: Nobody came. }] }
  - { id: again, name: Again, steps: [{ kind: say, text: Tell us. }] }
`);
  test('held for the team, then the loop goes on after it', () => {
    const talk = new Conversation([desk]);
    expect(talk.says('desk')).toEqual(['One moment.']);
    expect(talk.rehearsal.standing.held).toMatchObject({ by: null, team: 'front desk', note: 'Mira waits' });
    expect(talk.on({ kind: 'write', by: 'Ines', text: 'Hello Mira' })).toEqual(['Hello Mira']);
    expect(talk.later('2h')).toEqual([]);
    expect(talk.on({ kind: 'hand back', by: 'Ines', how: 'resume' })).toEqual(['Anything else?']);
    expect(talk.taps('No')).toEqual([]);
    expect(talk.rehearsal.shelf).toBe('settled');
  });
  test('whoever leaves the team leaves what they have to whoever is there', () => {
    const talk = new Conversation([desk]);
    talk.says('desk');
    talk.on({ kind: 'step in', by: 'Ines' });
    expect(talk.on({ kind: 'left the team', by: 'Bram' })).toEqual([]);
    expect(talk.rehearsal.standing.held).toMatchObject({ by: 'Ines' });
    talk.on({ kind: 'left the team', by: 'Ines' });
    expect(talk.rehearsal.standing.held).toMatchObject({ by: null, team: 'front desk', note: 'Mira waits' });
    expect(talk.rehearsal.shelf).toBe('waiting on us');
    expect(talk.on({ kind: 'hand back', by: 'Petra', how: 'resume' })).toEqual(['Anything else?']);
  });
  test('given up when nobody comes; restarted from a scene; ended', () => {
    const nobody = new Conversation([desk]);
    nobody.says('desk');
    expect(nobody.later('30m')).toEqual(['Nobody came.']);
    expect(nobody.rehearsal.standing.held).toBeNull();
    const restarted = new Conversation([desk]);
    restarted.says('desk');
    expect(restarted.on({ kind: 'hand back', by: 'Ines', how: { scene: 'again' } })).toEqual(['Tell us.']);
    const ended = new Conversation([desk]);
    ended.says('desk');
    ended.on({ kind: 'hand back', by: 'Ines', how: 'end' });
    expect(ended.rehearsal).toMatchObject({ shelf: 'settled' });
    expect(ended.later('1h')).toEqual([]);
  });
  test('outside opening hours it says so, and still holds', () => {
    const closed = new Conversation(
      [desk],
      'telegram',
      {},
      { client: { openingHours: { monday: [{ from: '09:00', to: '17:00' }] } } },
    );
    expect(closed.says('desk')).toEqual(['We open at nine.']);
    expect(closed.rehearsal.standing.held).not.toBeNull();
  });
  test('stepping into a run holds it still: its timers wait, and its question comes again on handing back', () => {
    const nudging = saying(
      'Nudge',
      keyword('go'),
      '[{ kind: ask, text: How many?, reply: number, field: n, noReply: { after: 1h, to: end } }]',
    );
    const talk = new Conversation([nudging]);
    talk.says('go');
    talk.on({ kind: 'step in', by: 'Ines' });
    expect(talk.later('3h')).toEqual([]);
    expect(talk.run?.status).toBe('under way');
    expect(talk.on({ kind: 'hand back', by: 'Ines', how: 'resume' })).toEqual(['How many?']);
    expect(talk.says('2')).toEqual([]);
    expect(talk.person.fields.n).toEqual({ type: 'number', value: 2 });
  });
});

describe('waiting beside others', () => {
  const drip = saying(
    'Drip',
    keyword('course'),
    '[{ kind: say, text: Day one. }, { kind: wait, for: 1d }, { kind: say, text: Day two. }]',
  );
  const hours = saying('Hours', keyword('hours'), '[{ kind: say, text: Until nine. }]');
  const survey = saying(
    'Survey',
    keyword('survey'),
    '[{ kind: ask, text: How was it?, reply: text, field: how }, { kind: say, text: Thanks. }]',
  );
  test('a run that waits for a time goes on, whatever else is answered meanwhile', () => {
    const talk = new Conversation([drip, hours]);
    expect(talk.says('course')).toEqual(['Day one.']);
    expect(talk.says('hours')).toEqual(['Until nine.']);
    expect(talk.later('1d')).toEqual(['Day two.']);
  });
  test('what nobody asked for waits for its turn while the person is being asked, and comes right after', () => {
    const talk = new Conversation([drip, survey]);
    talk.says('course');
    talk.later('23h');
    talk.says('survey');
    expect(talk.later('2h')).toEqual([]);
    expect(talk.says('very nice')).toEqual(['Thanks.', 'Day two.']);
  });
  test('but not longer than a day: then the question gives way', () => {
    const talk = new Conversation([drip, survey]);
    talk.says('course');
    talk.later('23h');
    talk.says('survey');
    talk.later('2h');
    expect(talk.later('1d')).toEqual(['Day two.']);
  });
  test('a loop started by a tag waits for its turn too', () => {
    const tagging = saying(
      'Tagging',
      keyword('go'),
      '[{ kind: set, changes: [{ do: add tag, tag: vip }] }, { kind: ask, text: Name?, reply: text, field: n }]',
    );
    const vip = saying('Vip', '{ kind: tag, tag: vip, when: added }');
    const talk = new Conversation([tagging, vip]);
    expect(talk.says('go')).toEqual(['Name?']);
    expect(talk.says('Mira')).toEqual(['this is Vip']);
  });
});

describe('loops that start each other', () => {
  const tagger = (name: string, on: string, puts: string) =>
    saying(
      name,
      `{ kind: tag, tag: ${on}, when: added }, ${keyword(name.toLowerCase())}`,
      `[{ kind: set, changes: [{ do: remove tag, tag: ${puts} }, { do: add tag, tag: ${puts} }] }, { kind: say, text: ${name} }]`,
    );
  test('are cut off after five without the person, with a reason', () => {
    const talk = new Conversation([tagger('A', 'a', 'b'), tagger('B', 'b', 'a')]);
    const said = talk.says('a');
    expect(said.length).toBeLessThanOrEqual(7);
    expect(
      talk.responses.flatMap((response) => response.notes).find((note) => note.code === 'chain cut'),
    ).toMatchObject({
      reason: 'loops have started each other 5 times without the person',
    });
  });
  test('twenty in an hour are enough', () => {
    const talk = new Conversation([saying('Hook', '{ kind: incoming webhook, hook: x }')]);
    const said = Array.from({ length: 30 }, () => talk.on({ kind: 'webhook', hook: 'x', name: 'x' })).flat();
    expect(said).toHaveLength(20);
    talk.later('1h');
    expect(talk.on({ kind: 'webhook', hook: 'x', name: 'x' })).toHaveLength(1);
  });
  test('a run that gives way takes with it all that wait for it, however deep', () => {
    const calls = (name: string, loop: string, cue: string) =>
      saying(name, cue, `[{ kind: go, loop: ${loop}, back: true }]`);
    const talk = new Conversation([
      calls('Outer', 'Middle', keyword('go')),
      calls('Middle', 'Inner', keyword('middle')),
      saying('Inner', keyword('inner'), '[{ kind: ask, text: Your name?, reply: email, field: email }]'),
      saying('Other', keyword('other'), '[{ kind: ask, text: How many?, reply: number, field: count }]'),
    ]);
    expect(talk.says('go')).toEqual(['Your name?']);
    expect(talk.rehearsal.runs.filter((run) => run.status === 'under way')).toHaveLength(3);
    talk.says('other');
    expect(talk.rehearsal.runs.filter((run) => run.status === 'under way').map((run) => run.loopId)).toEqual([
      'loop-4',
    ]);
  });
  test('a loop that calls another comes back; calls without end are stopped', () => {
    const endless = saying('Endless', keyword('go'), '[{ kind: go, loop: Endless, back: true }]');
    const talk = new Conversation([endless]);
    talk.says('go');
    expect(talk.notes()).toContain('chain cut');
    const missing = new Conversation([
      saying(
        'Missing',
        keyword('go'),
        '[{ kind: go, loop: Nowhere, back: true }, { kind: say, text: On we go. }]',
      ),
    ]);
    expect(missing.says('go')).toEqual(['On we go.']);
    expect(missing.notes()).toContain('unusable');
  });
});

describe('steps', () => {
  const steps = (
    list: string,
    more: ConstructorParameters<typeof Conversation>[3] = {},
    fields: ConstructorParameters<typeof Conversation>[2] = {},
  ) => new Conversation([saying('Steps', keyword('go'), list)], 'telegram', fields, more);
  test('who writes in another language of the client’s is answered in it, where nothing says what they speak', () => {
    const list = '[{ id: q, kind: say, text: Which day?, variants: { es: { text: "¿Qué día?" } } }]';
    const talk = (more: object = {}, languages = ['en', 'es']) =>
      steps(list, { client: { languages }, ...more });
    const first = talk();
    expect(first.says('hola, quería saber si tienen sitio el sábado')).toEqual([]);
    expect(first.says('go')).toEqual(['¿Qué día?']);
    expect(first.person.language).toBe('es');
    // A word or two tells nothing, nor does a language that the client does not speak; what is known stays.
    expect(talk().says('go')).toEqual(['Which day?']);
    const told = (conversation: Conversation) => {
      conversation.says('hola, quería saber si tienen sitio el sábado');
      return conversation.says('go');
    };
    expect(told(talk({}, ['en', 'fr']))).toEqual(['Which day?']);
    expect(told(talk({ person: { language: 'en' } }))).toEqual(['Which day?']);
  });
  test('a say speaks the person’s language, and reads what they saw or what they remember', () => {
    const list =
      '[{ id: q, kind: say, text: Which?, choices: [{ id: a, label: Morning, to: end }, { id: b, label: Evening, to: end }], variants: { es: { text: "¿Cuál?", choices: { a: Mañana, b: Noche } } } }]';
    for (const [reply, choice] of [
      ['noche', 'Evening'],
      ['morning', 'Morning'],
    ] as const) {
      const talk = steps(list, { person: { language: 'es' }, client: { languages: ['en', 'es'] } });
      expect(talk.says('go')).toEqual(['¿Cuál?']);
      talk.says(reply);
      expect(talk.runs[0]!.answers.q).toEqual({ type: 'one of', value: choice });
    }
  });
  test('renaming a choice does not break its button', () => {
    const list = (label: string) =>
      `[{ id: q, kind: say, text: Which?, choices: [{ id: boat, label: ${label}, to: one-b }] }]`;
    const loop = (label: string) =>
      loopOf(
        `{ format: dart-loop/1, name: L, cues: [${keyword('go')}], scenes: [{ name: One, steps: ${list(label)} }, { id: one-b, name: B, steps: [{ kind: say, text: Boat it is. }] }] }`,
      );
    const talk = new Conversation([loop('Boat')]);
    talk.says('go');
    const { ref } = talk.rehearsal.offered[0]!;
    talk.rehearsal = {
      ...talk.rehearsal,
      versions: [{ loopId: 'loop-1', version: 1, loop: loop('The boat') }],
    };
    expect(talk.on({ kind: 'tap', ...ref, label: 'Boat' })).toEqual(['Boat it is.']);
  });
  test('arithmetic, copying, clearing and now', () => {
    const talk = steps(
      '[{ kind: set, changes: [{ do: calculate, field: n, by: plus, amount: "2" }, { do: calculate, field: n, by: times, amount: "{{ person.n }}" }, { do: copy, field: m, from: n }, { do: now, field: day }, { do: now, field: hour }, { do: calculate, field: n, by: divided by, amount: "0" }, { do: clear, field: gone }] }]',
      { person: { fields: { gone: { type: 'text', value: 'x' } } } },
      { n: 'number', m: 'text', day: 'date', hour: 'time' },
    );
    talk.says('go');
    expect(talk.person.fields).toEqual({
      n: { type: 'number', value: 4 },
      m: { type: 'text', value: '4' },
      day: { type: 'date', value: '2026-11-24' },
      hour: { type: 'time', value: '09:00' },
    });
    expect(talk.responses[0]!.notes).toContainEqual({
      code: 'field not set',
      field: 'n',
      reason: 'nothing can be divided by nought',
    });
  });
  test('unknown is its own case in a split', () => {
    const list =
      '[{ kind: split, arms: [{ when: { field: n, is: above, value: 3 }, to: end }], unknown: one }]';
    const loop = loopOf(
      `{ format: dart-loop/1, name: S, cues: [${keyword('go')}], scenes: [{ id: zero, name: Zero, steps: ${list.replace('unknown: one', 'unknown: one, otherwise: two')} }, { id: one, name: One, steps: [{ kind: say, text: unknown }] }, { id: two, name: Two, steps: [{ kind: say, text: otherwise }] }] }`,
    );
    expect(new Conversation([loop]).says('go')).toEqual(['unknown']);
    expect(
      new Conversation(
        [loop],
        'telegram',
        {},
        { person: { fields: { n: { type: 'number', value: 2 } } } },
      ).says('go'),
    ).toEqual(['otherwise']);
  });
  test('the same person always draws the same arm; a retired arm moves nobody, and many people are spread by weight', () => {
    const vary = (weights: [number, number]) =>
      `[{ id: v, kind: vary, arms: [{ id: a, weight: ${weights[0]}, to: one }, { id: b, weight: ${weights[1]}, to: two }] }]`;
    const loop = (weights: [number, number]) =>
      loopOf(
        `{ format: dart-loop/1, name: V, cues: [${keyword('go')}], scenes: [{ id: zero, name: Zero, steps: ${vary(weights)} }, { id: one, name: One, steps: [{ kind: say, text: a }] }, { id: two, name: Two, steps: [{ kind: say, text: b }] }] }`,
      );
    const drawn = Array.from(
      { length: 400 },
      (_, at) => new Conversation([loop([3, 1])], 'telegram', {}, { person: { id: `p${at}` } }).says('go')[0],
    );
    const share = drawn.filter((arm) => arm === 'a').length / 400;
    expect(share).toBeGreaterThan(0.68);
    expect(share).toBeLessThan(0.82);
    const talk = new Conversation([loop([1, 0])]);
    expect(talk.says('go')).toEqual(['a']);
    talk.rehearsal = { ...talk.rehearsal, versions: [{ loopId: 'loop-1', version: 1, loop: loop([0, 1]) }] };
    expect(talk.says('go')).toEqual(['a']);
    expect(new Conversation([loop([0, 1])]).says('go')).toEqual(['b']);
  });
  test('a known answer is skipped, or confirmed; a slip in an address is asked about', () => {
    const known = { person: { fields: { email: { type: 'email' as const, value: 'mira@example.org' } } } };
    expect(
      steps(
        '[{ kind: ask, text: Email?, reply: email, field: email, known: skip }, { kind: say, text: "{{ answers.email }}" }]',
        known,
      ).says('go'),
    ).toEqual(['mira@example.org']);
    const confirmed = steps(
      '[{ kind: ask, text: Email?, reply: email, field: email, known: confirm }, { kind: say, text: done }]',
      known,
    );
    expect(confirmed.says('go')).toEqual(['We have mira@example.org. Is that still right?']);
    expect(confirmed.taps('Yes')).toEqual(['done']);
    const slipped = steps(
      '[{ kind: ask, text: Email?, reply: email, field: email }, { kind: say, text: done }]',
    );
    slipped.says('go');
    expect(slipped.says('mira@hotmial.com')).toEqual(['Did you mean mira@hotmail.com?']);
    expect(slipped.says('no')).toEqual(['done']);
    expect(slipped.person.fields.email!.value).toBe('mira@hotmial.com');
  });
  test('of two days that may be meant it is asked which, of a span which day or time in it; what is not said outright is shown back', () => {
    const ask = (reply: string) =>
      steps(
        `[{ kind: ask, text: When?, reply: ${reply}, field: when, retry: { times: 1, text: Again? } }, { kind: say, text: done }]`,
      );
    const asked = (reply: string, ...said: string[]) => {
      const talk = ask(reply);
      talk.says('go');
      return { talk, said: said.flatMap((words) => talk.says(words)), value: talk.person.fields.when?.value };
    };
    // The clock of these tests shows a Tuesday, 24 November 2026.
    const either = asked('date', 'next friday');
    expect(either.said).toEqual(['Do you mean Friday 27 November or Friday 4 December?']);
    expect(either.talk.taps('Fri 4 Dec')).toEqual(['done']);
    expect(either.talk.person.fields.when!.value).toBe('2026-12-04');
    expect(asked('date', 'next friday', 'the second').value).toBe('2026-12-04');
    expect(asked('date', 'next friday', 'the 27th').value).toBe('2026-11-27');
    expect(asked('date', 'tuesday', 'today').value).toBe('2026-11-24');
    expect(asked('date', 'next week', 'thursday')).toMatchObject({
      said: ['Which day, between 30 November and 6 December?', 'done'],
      value: '2026-12-03',
    });
    expect(asked('date', 'in january', '12').value).toBe('2027-01-12');
    const german = steps('[{ kind: ask, text: When?, reply: date, field: when }]', {
      client: { languages: ['de'] },
    });
    german.says('go');
    expect(german.says('nächsten Freitag')).toEqual([
      'Meinen Sie Freitag, 27. November oder Freitag, 4. Dezember?',
    ]);
    // Said again, it is no answer to that.
    expect(asked('date', 'next week', 'next week').said[1]).toBe('Again?');
    expect(asked('time', 'after lunch', 'half 2')).toMatchObject({
      said: ['What time, between 13:00 and 16:00?', 'done'],
      value: '14:30',
    });
    expect(asked('time', 'this evening', 'about 7').value).toBe('19:00');
    const about = asked('date', 'in two months');
    expect(about.said).toEqual(['Sunday 24 January, is that right?']);
    expect(about.talk.says('no')).toEqual(['When?']);
    expect(about.talk.says('in two months')).toEqual(['Sunday 24 January, is that right?']);
    expect(about.talk.says('yes')).toEqual(['done']);
    expect(about.talk.person.fields.when!.value).toBe('2027-01-24');
  });
  test('a bare hour is the one at which the client is open; where both or neither are, it is asked which', () => {
    const at = (openingHours: object, said: string) => {
      const read = readReply('time', said, {
        country: 'GB',
        language: 'en',
        now: 0,
        zone: 'UTC',
        hours: OpeningHours.parse(openingHours),
      });
      return read.ok ? read.value.value : (read.either ?? []).map(({ value }) => value);
    };
    const shop = { tuesday: [{ from: '09:00', to: '18:00' }] };
    expect(at(shop, '5')).toBe('17:00');
    expect(at(shop, '9')).toBe('09:00');
    expect(at(shop, '7')).toEqual(['07:00', '19:00']);
    expect(at({ friday: [{ from: '06:00', to: '22:00' }] }, '7')).toEqual(['07:00', '19:00']);
    expect(at({ friday: [{ from: '17:00', to: '23:00' }] }, 'half past nine')).toBe('21:30');
  });
  test('who may want no more messages is asked once, and the answer goes before the loop’s own question', () => {
    const loop = saying(
      'Asks',
      keyword('go'),
      '[{ kind: ask, text: Coming?, reply: yes/no, field: coming, retry: { times: 2, text: Again? } }, { kind: say, text: noted }]',
    );
    const QUESTION =
      'Do you want no more messages from Saltmarsh Ferries? Write YES for none, or NO to go on.';
    const asked = (...said: string[]) => {
      const talk = new Conversation([loop]);
      talk.says('go');
      return { talk, said: said.flatMap((words) => talk.says(words)) };
    };
    const out = asked('too many messages', 'yes');
    expect(out.said).toEqual([QUESTION, expect.stringContaining('no more messages')]);
    expect(out.talk.rehearsal.standing.optedOut).toBe(true);
    expect(out.talk.responses.at(-1)!.decision!.candidates[0]).toMatchObject({
      outcome: 'won',
      reason: '“yes” says that no more messages are wanted',
    });
    const on = asked('too many messages', 'no', 'yes');
    expect(on.said).toEqual([QUESTION, 'All right, nothing changes.', 'noted']);
    expect(on.talk.person.fields.coming!.value).toBe(true);
    // Something else is read by the loop; nobody is asked twice within a week.
    expect(asked('too many messages', 'what', 'too many messages').said).toEqual([
      QUESTION,
      'Again?',
      'Again?',
    ]);
    // Where any words are an answer, they are one.
    const free = new Conversation([
      saying(
        'Free',
        keyword('go'),
        '[{ kind: ask, text: What is wrong?, reply: text, field: wrong }, { kind: say, text: noted }]',
      ),
    ]);
    free.says('go');
    expect(free.says('too many messages')).toEqual(['noted']);
  });
  test('of a text that is too long the first characters are kept, and it is said', () => {
    const talk = steps('[{ kind: ask, text: Tell us, reply: text, field: story }]');
    talk.says('go');
    talk.says('a'.repeat(5_000));
    expect(String(talk.person.fields.story!.value)).toHaveLength(4_096);
    expect(talk.notes()).toContain('text cut');
    talk.says('go');
    talk.says('short');
    expect(talk.notes().filter((code) => code === 'text cut')).toHaveLength(1);
  });
  test('who does not reply is reminded, again and again, each time in its own words, and leaves at last', () => {
    const loop = (variants = '') =>
      saying(
        'Asks',
        keyword('go'),
        `[{ id: q, kind: say, text: Coming?, choices: [{ label: Yes, to: end }], reminders: [{ after: 3h, text: Still there? ${variants} }, { after: 1d, text: Last call. }], noReply: { after: 3d, to: next } }, { kind: say, text: another time }]`,
      );
    const talk = new Conversation([loop()]);
    const since = (wait: string) => talk.later(wait);
    expect(talk.says('go')).toEqual(['Coming?']);
    expect(since('2h')).toEqual([]);
    expect(since('1h')).toEqual(['Still there?']);
    expect(since('20h')).toEqual([]);
    expect(since('1h')).toEqual(['Last call.']);
    expect(since('2d')).toEqual(['another time']);
    // Whoever answers is not reminded any more; a question that is asked again begins anew.
    const answered = new Conversation([loop()]);
    answered.says('go');
    answered.later('3h');
    expect(answered.taps('Yes')).toEqual([]);
    expect(answered.later('4d')).toEqual([]);
    const spanish = new Conversation(
      [loop(', variants: { es: "¿Sigue ahí?" }')],
      'telegram',
      {},
      { client: { languages: ['es'] } },
    );
    spanish.says('go');
    expect(spanish.later('3h')).toEqual(['¿Sigue ahí?']);
    expect(() =>
      loopOf(
        `{ format: dart-loop/1, name: X, cues: [], scenes: [{ name: One, steps: [{ kind: ask, text: N?, reply: number, field: n, reminders: [{ after: 2h, text: a }, { after: 1h, text: b }] }] }] }`,
      ),
    ).toThrow(/each reminder comes later/);
  });
  test('who does not know leaves by the exit for that; without one they are asked once more, and leave', () => {
    const loop = (more: string, reply = 'number') =>
      loopOf(
        `{ format: dart-loop/1, name: E, cues: [${keyword('go')}], scenes: [{ name: Zero, steps: [{ kind: ask, text: How many?, reply: ${reply}, field: n, retry: { times: 3, text: Again? }, otherwise: other ${more} }, { kind: say, text: read }] }, { id: other, name: O, steps: [{ kind: say, text: other }] }, { id: unsure, name: U, steps: [{ kind: say, text: unsure }] }] }`,
      );
    const after = (more: string, said: string[], reply?: string) => {
      const talk = new Conversation([loop(more, reply)]);
      talk.says('go');
      return said.flatMap((words) => talk.says(words));
    };
    expect(after(', dontKnow: unsure', ["I don't know"])).toEqual(['unsure']);
    expect(after(', dontKnow: unsure', ['no idea'], 'text')).toEqual(['unsure']);
    expect(after(', dontKnow: unsure', ['many', 'dunno'])).toEqual(['Again?', 'unsure']);
    expect(after('', ["I don't know", 'no idea'])).toEqual(['Again?', 'other']);
    expect(after('', ['many', 'very many', 'so many'])).toEqual(['Again?', 'Again?', 'Again?']);
    expect(after('', ['no idea'], 'text')).toEqual(['read']);
  });
  test('something else leads away at once; a retry counts; skipping and calling off have their exits', () => {
    const loop = loopOf(
      `{ format: dart-loop/1, name: E, cues: [${keyword('go')}], scenes: [{ name: Zero, steps: [{ kind: ask, text: Size?, reply: one of, field: size, options: [{ label: Small }, { label: Large }], somethingElse: other, cancel: off, skip: { to: skipped } }] }, { id: other, name: O, steps: [{ kind: say, text: other }] }, { id: off, name: F, steps: [{ kind: say, text: "off" }] }, { id: skipped, name: S, steps: [{ kind: say, text: skipped }] }] }`,
    );
    const after = (reply: string) => {
      const talk = new Conversation([loop]);
      talk.says('go');
      return talk.says(reply);
    };
    expect(after('a medium one')).toEqual(['other']);
    expect(after('never mind')).toEqual(['off']);
    expect(after('skip')).toEqual(['skipped']);
    expect(after('lrage')).toEqual([]);
  });
  test('several messages are gathered and read as one', () => {
    const talk = steps(
      '[{ kind: ask, text: Tell us, reply: text, field: report, gather: 30s }, { kind: say, text: "Noted." }]',
    );
    talk.says('go');
    expect(talk.says('the gate')).toEqual([]);
    talk.later('20s');
    expect(talk.says('was shut')).toEqual([]);
    expect(talk.later('20s')).toEqual([]);
    expect(talk.later('10s')).toEqual(['Noted.']);
    expect(talk.person.fields.report!.value).toBe('the gate\nwas shut');
  });
  test('files and places are answers where they are asked for, and only there', () => {
    const talk = steps(
      '[{ kind: ask, text: CV?, reply: file, field: cv, retry: { times: 1, text: A file please. }, otherwise: end }, { kind: ask, text: Where?, reply: place, field: spot }]',
    );
    talk.says('go');
    expect(talk.says('here it is')).toEqual(['A file please.']);
    expect(talk.on({ kind: 'file', file: { address: 'telegram:f1', name: 'cv.pdf', what: 'file' } })).toEqual(
      ['Where?'],
    );
    talk.on({ kind: 'place', place: { latitude: 54.1, longitude: -2.3 } });
    expect(talk.person.fields).toMatchObject({
      cv: { value: { name: 'cv.pdf' } },
      spot: { value: { latitude: 54.1 } },
    });
  });
  test('sending out waits for its answer, fills fields, keeps types, and has its exit', () => {
    const loop = loopOf(
      `{ format: dart-loop/1, name: Out, cues: [${keyword('go')}], scenes: [{ name: Zero, steps: [{ kind: send out, address: "https://crm.saltmarshferries.example/x", body: { n: "{{ person.n }}", who: "{{ person.first_name }} L" }, reply: [{ from: lead.id, field: crm }, { from: nothing, field: none }], failed: sorry }, { kind: say, text: "Number {{ person.crm }}" }] }, { id: sorry, name: S, steps: [{ kind: say, text: sorry }] }] }`,
    );
    const talk = new Conversation(
      [loop],
      'telegram',
      {},
      { person: { fields: { n: { type: 'number', value: 3 } } } },
    );
    expect(talk.says('go')).toEqual([]);
    expect(talk.rehearsal.errands[0]).toMatchObject({ body: { n: 3, who: 'Mira L' } });
    expect(talk.delivers({ ok: true, body: { lead: { id: 77 } } })).toEqual(['Number 77']);
    expect(talk.responses.at(-1)!.notes).toContainEqual({
      code: 'field not set',
      field: 'none',
      reason: 'the answer has no text or number at “nothing”',
    });
    talk.says('go');
    expect(talk.delivers({ ok: false, reason: 'it was answered 500' })).toEqual(['sorry']);
  });
  test('an alert is told with its merge fields, and the run goes on', () => {
    const talk = steps(
      '[{ kind: alert, by: sms, to: ["+447700900111"], text: "{{ person.first_name }} waits" }, { kind: say, text: told }]',
    );
    const response = talk.hears(text('go'));
    expect(texts(response)).toEqual(['told']);
    expect(response.effects[0]).toMatchObject({
      kind: 'alert',
      by: 'sms',
      to: ['+447700900111'],
      text: 'Mira waits',
    });
  });
  test('a person is moved to another version where their step still stands', () => {
    const talk = steps(
      '[{ id: q, kind: ask, text: Old?, reply: number, field: n }, { kind: say, text: old }]',
    );
    talk.says('go');
    const run = talk.run!;
    const next = saying(
      'Steps',
      keyword('go'),
      '[{ id: q, kind: ask, text: New?, reply: number, field: n }, { kind: say, text: new }]',
    );
    talk.rehearsal = {
      ...talk.rehearsal,
      versions: [...talk.rehearsal.versions, { loopId: 'loop-1', version: 2, loop: next }],
    };
    talk.on({ kind: 'move', runId: run.id, version: 2 });
    expect(talk.says('3')).toEqual(['new']);
    const gone = steps(
      '[{ id: q, kind: ask, text: Old?, reply: number, field: n }, { kind: say, text: old }]',
    );
    gone.says('go');
    gone.rehearsal = {
      ...gone.rehearsal,
      versions: [
        ...gone.rehearsal.versions,
        { loopId: 'loop-1', version: 2, loop: saying('Steps', keyword('go')) },
      ],
    };
    gone.on({ kind: 'move', runId: gone.run!.id, version: 2 });
    expect(gone.says('3')).toEqual(['old']);
  });
});

test('who says the same doubtful day again has not answered: it counts as a try, and the exit is taken', () => {
  const talk = new Conversation([
    loopOf(
      '{ format: dart-loop/1, name: Visit, cues: [{ kind: keyword, words: [visit], match: exactly }], scenes: [{ id: a, name: A, steps: [{ kind: ask, text: Which day?, reply: date, field: day, retry: { times: 1, text: Say a day. }, otherwise: desk }] }, { id: desk, name: Desk, steps: [{ kind: say, text: To the desk. }] }] }',
    ),
  ]);
  expect(talk.says('visit')).toEqual(['Which day?']);
  // A Tuesday: today's or next week's.
  expect(talk.says('tuesday')[0]).toMatch(/Tuesday 24 November.*Tuesday 1 December/);
  expect(talk.says('tuesday')).toEqual(['Say a day.']);
  expect(talk.says('tuesday')[0]).toMatch(/Tuesday 24 November.*Tuesday 1 December/);
  expect(talk.says('tuesday')).toEqual(['To the desk.']);
});
