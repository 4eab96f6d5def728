import fc from 'fast-check';
import { respond, winnerOf, type Incoming } from '../src';
import { Conversation, SAILINGS, loopOf, texts } from './support';

const keyword = (name: string, match: string, words: string, more = '') =>
  loopOf(
    `{ format: dart-loop/1, name: ${name}, cues: [{ kind: keyword, words: [${words}], match: ${match} ${more} }], scenes: [{ name: One, steps: [{ kind: say, text: this is ${name} }] }] }`,
  );

describe('the story', () => {
  test('keyword, choice, bad email twice, then the value with its type', () => {
    const talk = new Conversation([SAILINGS]);
    expect(talk.says('sailings!')).toEqual(['Hello Mira. Want alerts?']);
    const run = talk.run!;
    const tapped = talk.hears({
      kind: 'tap',
      runId: run.id,
      stepId: 'hello',
      choiceId: 'yes-keep-me',
      label: 'Yes, keep me posted',
    });
    expect(texts(tapped)).toEqual(['Your email?']);
    expect(talk.says('mira at example')).toEqual(['That is no email.']);
    expect(talk.says('mira@example.org')).toEqual(['Thanks, mira@example.org.']);
    expect(talk.person.fields).toEqual({ email: { type: 'email', value: 'mira@example.org' } });
    expect(talk.person.tags).toEqual(['alerts']);
    expect(talk.run).toBeNull();
    expect(talk.responses.at(-1)!.shelf).toBe('settled');
  });
  test('after the last retry the exit is taken', () => {
    const talk = new Conversation([SAILINGS], 'sms');
    talk.says('sailings');
    expect(talk.says('a')).toEqual(['Your email?']);
    expect(talk.says('one')).toEqual(['That is no email.']);
    expect(talk.says('two')).toEqual(['That is no email.']);
    expect(talk.says('three')).toEqual(['Another time.']);
    expect(talk.responses.at(-1)!.notes.map((note) => note.code)).toContain('gave up');
    expect(talk.person.fields).toEqual({});
  });
  test('no reply leads out by its exit, once', () => {
    const talk = new Conversation([SAILINGS]);
    const started = talk.hears({ kind: 'text', text: 'sailings' });
    const timer = started.effects.find((effect) => effect.kind === 'timer')!;
    expect(timer).toMatchObject({
      kind: 'timer',
      dueAt: talk.now + 3 * 3_600_000,
      incoming: { kind: 'timer', turn: 1 },
    });
    const run = talk.run!;
    expect(talk.waits()).toEqual(['Still there?', 'Another time.']);
    const again = talk.hears({ kind: 'timer', runId: run.id, turn: 1, what: 'run' });
    expect(again).toMatchObject({ runs: [], effects: [], decision: null });
  });
});

describe('who answers', () => {
  test('exactly goes before first word before whole word, and each loser has its reason', () => {
    const talk = new Conversation([
      keyword('Broad', 'whole word', 'open'),
      keyword('First', 'first word', 'open'),
      keyword('Exact', 'exactly', 'open'),
    ]);
    const { decision } = talk.hears({ kind: 'text', text: 'Open!' });
    expect(winnerOf(decision!).who).toBe('Exact');
    expect(
      decision!.candidates
        .filter((candidate) => candidate.outcome === 'lost')
        .map((candidate) => [candidate.who, candidate.reason]),
    ).toEqual([
      ['First', 'its match is broader (first word, against exactly)'],
      ['Broad', 'its match is broader (whole word, against exactly)'],
    ]);
    expect(talk.says('open on sunday')).toEqual(['this is First']);
    expect(talk.says('are you open')).toEqual(['this is Broad']);
  });
  test('narrower lines, then the longer keyword, then the client’s own order', () => {
    expect(
      new Conversation([
        keyword('Everywhere', 'exactly', 'open'),
        keyword('Here', 'exactly', 'open', ', lines: [telegram]'),
      ]).says('open'),
    ).toEqual(['this is Here']);
    expect(
      new Conversation([
        keyword('Short', 'whole word', 'open'),
        keyword('Long', 'whole word', 'open sunday'),
      ]).says('are you open sunday'),
    ).toEqual(['this is Long']);
    expect(
      new Conversation([keyword('One', 'exactly', 'open'), keyword('Two', 'exactly', 'open')]).says('open'),
    ).toEqual(['this is One']);
  });
  test('a cue of another line is not heard', () => {
    const talk = new Conversation([keyword('Only sms', 'exactly', 'open', ', lines: [sms]')]);
    expect(talk.says('open')).toEqual([]);
    expect(talk.responses[0]!.shelf).toBe('waiting on us');
  });
  test('a waiting run that can read it goes before a keyword; one that cannot gives way to it', () => {
    const talk = new Conversation([SAILINGS, keyword('News', 'exactly', 'news')]);
    talk.says('sailings');
    expect(talk.says('news')).toEqual(['this is News']);
    expect(talk.responses.at(-1)!.runs.map((run) => run.status)).toEqual(['replaced', 'finished']);
    const other = new Conversation([
      SAILINGS,
      keyword('Yes', 'exactly', 'yes, keep me posted'.replace(',', '')),
    ]);
    other.says('sailings');
    expect(other.says('yes keep me posted')).toEqual(['Your email?']);
    expect(
      other.responses.at(-1)!.decision!.candidates.find((candidate) => candidate.who === 'Yes'),
    ).toMatchObject({ outcome: 'lost' });
  });
  test('what nobody can answer waits for a person, and says why', () => {
    const talk = new Conversation([SAILINGS]);
    expect(talk.says('is there space for two bikes')).toEqual([]);
    expect(winnerOf(talk.responses[0]!.decision!)).toMatchObject({
      place: 'nobody',
      reason: 'no cue hears this, and no run can read it',
    });
    expect(talk.hears({ kind: 'other', what: 'voice note' }).shelf).toBe('waiting on us');
  });
  test('a say without a retry lets the conversation wait for a person, and keeps its place', () => {
    const talk = new Conversation([SAILINGS]);
    talk.says('sailings');
    expect(talk.says('hmm')).toEqual([]);
    expect(talk.responses.at(-1)!.shelf).toBe('waiting on us');
    expect(talk.says('a')).toEqual(['Your email?']);
  });
});

describe('late taps', () => {
  const tap = (runId: string, choiceId = 'not-today'): Incoming => ({
    kind: 'tap',
    runId,
    stepId: 'hello',
    choiceId,
    label: 'Not today',
  });
  test('one after the run has moved on starts again from that choice', () => {
    const talk = new Conversation([SAILINGS]);
    talk.says('sailings');
    const first = talk.run!.id;
    talk.says('a');
    const late = talk.hears(tap(first));
    expect(texts(late)).toEqual(['Another time.']);
    expect(late.runs.map((run) => run.status)).toEqual(['replaced', 'finished']);
    expect(late.notes.map((note) => note.code)).toEqual([
      'late tap',
      'run replaced',
      'choice read',
      'finished',
    ]);
  });
  test('one of a run that is over does too', () => {
    const talk = new Conversation([SAILINGS]);
    talk.says('sailings');
    const first = talk.run!.id;
    talk.says('b');
    expect(texts(talk.hears(tap(first)))).toEqual(['Another time.']);
  });
  test('one whose choice is gone waits for a person', () => {
    const talk = new Conversation([SAILINGS]);
    talk.says('sailings');
    const gone = talk.hears(tap(talk.run!.id, 'gone'));
    expect(gone.shelf).toBe('waiting on us');
    expect(winnerOf(gone.decision!).place).toBe('nobody');
  });
});

test('a circle that never waits is stopped, with a note', () => {
  const circle = loopOf(
    '{ format: dart-loop/1, name: Round, cues: [{ kind: keyword, words: [go], match: exactly }], scenes: [{ id: a, name: A, steps: [{ kind: go, to: b }] }, { id: b, name: B, steps: [{ kind: go, to: a }] }] }',
  );
  const talk = new Conversation([circle]);
  const response = talk.hears({ kind: 'text', text: 'go' });
  expect(response.notes.at(-1)).toEqual({ code: 'circle', scene: expect.any(String) });
  expect(response.runs.at(-1)!.status).toBe('stopped');
  expect(response.shelf).toBe('waiting on us');
});

test('loops that call each other without waiting are stopped after a handful of messages, and the team hears why', () => {
  const calls = (name: string, next: string) =>
    loopOf(
      `{ format: dart-loop/1, name: ${name}, cues: [{ kind: keyword, words: [${name}], match: exactly }], scenes: [{ name: One, steps: [{ kind: say, text: this is ${name} }, { kind: go, loop: ${next} }] }] }`,
    );
  const talk = new Conversation([calls('Tick', 'Tack'), calls('Tack', 'Tick')]);
  const response = talk.hears({ kind: 'text', text: 'tick' });
  const round = ['this is Tick', 'this is Tack'];
  expect(texts(response)).toEqual([...round, ...round, ...round]);
  expect(response.notes.at(-1)).toEqual({ code: 'circle', scene: 'One' });
  expect(response.shelf).toBe('waiting on us');
  expect(response.standing.stopped).toMatch(/goes round in a circle/);
  // It is said until the person writes again.
  expect(talk.hears({ kind: 'text', text: 'hello?' }).standing.stopped).toBeUndefined();
});

test('a scene that is gone through again with a question in between is no circle', () => {
  const talk = new Conversation([
    loopOf(
      '{ format: dart-loop/1, name: Menu, cues: [{ kind: keyword, words: [menu], match: exactly }], scenes: [{ id: a, name: A, steps: [{ kind: say, text: What next?, choices: [{ label: Hours, to: b }] }] }, { id: b, name: B, steps: [{ kind: say, text: Nine to five. }, { kind: go, to: a }] }] }',
    ),
  ]);
  talk.says('menu');
  for (let round = 0; round < 6; round++) expect(talk.says('hours')).toEqual(['Nine to five.', 'What next?']);
});

test('a set step types its value by the field, and says so when it cannot', () => {
  const loop = loopOf(
    '{ format: dart-loop/1, name: Set, cues: [{ kind: keyword, words: [go], match: exactly }], scenes: [{ name: A, steps: [{ kind: set, changes: [{ do: field, field: seats, value: "4" }, { do: field, field: mail, value: "{{ person.first_name }}" }, { do: add tag, tag: x }, { do: remove tag, tag: x }] }] }] }',
  );
  const talk = new Conversation([loop], 'telegram', { seats: 'number', mail: 'email' });
  const response = talk.hears({ kind: 'text', text: 'go' });
  expect(talk.person.fields).toEqual({ seats: { type: 'number', value: 4 } });
  expect(talk.person.tags).toEqual([]);
  expect(response.notes.find((note) => note.code === 'field not set')).toMatchObject({ field: 'mail' });
});

describe('properties over any conversation', () => {
  const move = fc.oneof(
    fc
      .constantFrom('sailings', 'a', 'b', 'yes', 'mira@example.org', 'news', 'open', 'hmm', '', '🎉')
      .map((text): Incoming => ({ kind: 'text', text })),
    fc
      .record({ run: fc.nat(4), choiceId: fc.constantFrom('yes-keep-me', 'not-today', 'gone') })
      .map(({ run, choiceId }): Incoming => ({
        kind: 'tap',
        runId: `00000000-0000-7000-8000-${(run * 256).toString(16).padStart(12, '0')}`,
        stepId: 'hello',
        choiceId,
        label: 'x',
      })),
    fc.record({ run: fc.nat(4), turn: fc.nat(4) }).map(({ run, turn }): Incoming => ({
      kind: 'timer',
      runId: `00000000-0000-7000-8000-${(run * 256).toString(16).padStart(12, '0')}`,
      turn,
      what: 'run',
    })),
    fc.constant<Incoming>({ kind: 'other', what: 'picture' }),
    fc.constantFrom<Incoming>(
      { kind: 'step in', by: 'Ines' },
      { kind: 'hand back', by: 'Ines', how: 'resume' },
      { kind: 'tag', tag: 'x', on: true, depth: 0 },
    ),
  );
  const loops = [SAILINGS, keyword('News', 'whole word', 'news'), keyword('Open', 'first word', 'open')];
  test('every event but a timer is decided once, has one winner, and at most one run is under way', () => {
    fc.assert(
      fc.property(fc.array(move, { maxLength: 15 }), (moves) => {
        const talk = new Conversation(loops);
        for (const incoming of moves) {
          const response = talk.hears(incoming);
          if (['timer', 'step in', 'hand back', 'tag'].includes(incoming.kind))
            expect(response.decision).toBeNull();
          else
            expect(
              response.decision!.candidates.filter((candidate) => candidate.outcome === 'won'),
            ).toHaveLength(1);
          expect(talk.runs.filter((run) => run.status === 'under way').length).toBeLessThanOrEqual(1);
        }
      }),
    );
  });
  test('the same world gives the same answer, and is not changed by it', () => {
    fc.assert(
      fc.property(fc.array(move, { maxLength: 8 }), move, (before, last) => {
        const talk = new Conversation(loops);
        for (const incoming of before) talk.hears(incoming);
        const world = talk.world(last);
        const { version: _version, liveLoop: _liveLoop, cues: _cues, ...plain } = world;
        const copy = JSON.stringify(plain);
        expect(respond(world, last)).toEqual(respond(world, last));
        expect(JSON.stringify(plain)).toBe(copy);
      }),
    );
  });
});
