import { nextTimer, openRehearsal, play, wind } from '../src/engine/rehearsal/rehearsal';
import { performScript } from './performScript';
import { readScriptLine } from '../src/engine/rehearsal/script';
import { FERRIES, NINE, SAILINGS, loopOf, nobodyYet } from './support';

const open = (loops = [SAILINGS], person = nobodyYet) =>
  openRehearsal({
    loops,
    client: FERRIES,
    line: { key: 'telegram', name: 'x', channel: 'telegram' },
    person,
    now: NINE,
  });

describe('a line of a written conversation', () => {
  test.each([
    ['hello there', { kind: 'text', text: 'hello there' }],
    ['#2', { kind: 'tap', number: 2, label: null }],
    ['[Not today]', { kind: 'tap', number: null, label: 'Not today' }],
    ['+3h', { kind: 'wind', ms: 10_800_000 }],
    ['+1d 6h', { kind: 'wind', ms: 108_000_000 }],
    ['/start summer-24', { kind: 'reference', ref: 'summer-24' }],
    ['/Hours', { kind: 'menu', item: 'hours' }],
    ['> Hello', { kind: 'expect', words: 'Hello' }],
    ['>', { kind: 'expect', words: null }],
    ['@file cv.pdf', { kind: 'file', name: 'cv.pdf' }],
    ['@place 54.1, -2.3', { kind: 'place', latitude: 54.1, longitude: -2.3 }],
    ['! failed', { kind: 'delivered', ok: false }],
    ['! 200 {"id": 7}', { kind: 'delivered', ok: true, body: { id: 7 } }],
    ['! 422', { kind: 'delivered', ok: false, reason: 'it was answered 422' }],
    ['~ tag vip', { kind: 'happens', incoming: { kind: 'tag', tag: 'vip', on: true } }],
    ['~ untag vip', { kind: 'happens', incoming: { kind: 'tag', on: false } }],
    ['~ join Workshop news', { kind: 'happens', incoming: { kind: 'list', list: 'Workshop news' } }],
    ['~ webhook shipped', { kind: 'happens', incoming: { kind: 'webhook', hook: 'shipped' } }],
    ['~ step in Ines', { kind: 'happens', incoming: { kind: 'step in', by: 'Ines' } }],
    ['~ say Hello there', { kind: 'happens', incoming: { kind: 'write', text: 'Hello there' } }],
    ['~ hand back', { kind: 'happens', incoming: { kind: 'hand back', how: 'resume' } }],
    ['~ hand back end', { kind: 'happens', incoming: { kind: 'hand back', how: 'end' } }],
    ['~ hand back nudge', { kind: 'happens', incoming: { kind: 'hand back', how: { scene: 'nudge' } } }],
    // A number that a person writes is not a time to wind by.
    ['+44 7700 900123', { kind: 'text', text: '+44 7700 900123' }],
  ])('%s', (written, line) => expect(readScriptLine(written)).toMatchObject(line));
  test.each(['', '   ', '// a remark'])('“%s” is nothing', (written) =>
    expect(readScriptLine(written)).toBeNull(),
  );
  test.each([
    ['! maybe', 'no answer to what was sent out'],
    ['! 200 {"id"', 'not JSON'],
    ['~ dance', 'not known'],
    ['~ say', 'needs the words'],
    ['+3x', 'no time to wind the clock by'],
  ])('“%s” is refused', (written, reason) => expect(readScriptLine(written)).toContain(reason));
});

describe('the clock', () => {
  test('what falls due on the way is played at its own time, in order', () => {
    const loop = (name: string, after: string) =>
      loopOf(
        `{ format: dart-loop/1, name: ${name}, cues: [{ kind: silence, after: ${after} }], scenes: [{ name: One, steps: [{ kind: say, text: ${name} }] }] }`,
      );
    const started = play(open([loop('Late', '3h'), loop('Early', '1h')]), { kind: 'text', text: 'hello' });
    expect(nextTimer(started.rehearsal)).toMatchObject({ key: 'silence:loop-2:c'.replace(':c', ':silence') });
    const wound = wind(started.rehearsal, 4 * 3_600_000);
    const ours = wound.entries.filter((entry) => entry.from === 'us');
    expect(ours.map((entry) => [entry.text, (entry.at - NINE) / 3_600_000])).toEqual([
      ['Early', 1],
      ['Late', 3],
    ]);
    expect(wound.rehearsal.now).toBe(NINE + 4 * 3_600_000);
    expect(nextTimer(wound.rehearsal)).toBeNull();
  });
  test('a rehearsal is not changed by what is played on it', () => {
    const before = open();
    const copy = JSON.stringify(before);
    play(before, { kind: 'text', text: 'sailings' });
    wind(before, 1_000_000);
    expect(JSON.stringify(before)).toBe(copy);
  });
  test('a day that is known from the start has its timer', () => {
    const reminder = loopOf(
      '{ format: dart-loop/1, name: R, cues: [{ kind: date, field: day, days: 0, at: "12:00" }], scenes: [{ name: One, steps: [{ kind: say, text: Today is the day. }] }] }',
    );
    const { rehearsal } = wind(
      open([reminder], { ...nobodyYet, fields: { day: { type: 'date', value: '2026-11-24' } } }),
      0,
    );
    expect(wind(rehearsal, 3 * 3_600_000).entries.filter((entry) => entry.from === 'us')).toMatchObject([
      { text: 'Today is the day.' },
    ]);
  });
});

test('a whole conversation: what was expected and did not come is named by its line', () => {
  const { failures, entries } = performScript(
    open(),
    'sailings\n> Hello Mira\n[Yes, keep me posted]\n> Your phone?\n[Never]\n~ dance\n',
  );
  expect(failures).toEqual([
    expect.stringContaining('line 6: “~ dance” is not known'),
    'line 4: “Your phone?” was expected, and we said “Your email?”',
    expect.stringContaining('line 5: there is no such choice to tap'),
  ]);
  expect(entries.map((entry) => entry.from)).toEqual(['them', 'stage', 'us', 'them', 'stage', 'us']);
});

test('what a run had held back is dropped when it gives way to one that another comment starts', () => {
  const loop = (name: string) =>
    loopOf(
      `{ format: dart-loop/1, name: ${name}, cues: [{ kind: comment, with: [${name}] }], scenes: [{ name: One, steps: [{ kind: say, text: First ${name}. }, { kind: say, text: Second ${name}., choices: [{ label: Go on, to: end }] }] }] }`,
    );
  const rehearsal = openRehearsal({
    loops: [loop('Alder'), loop('Birch')],
    client: FERRIES,
    line: { key: 'ig', name: 'the line', channel: 'instagram' },
    person: nobodyYet,
    now: NINE,
  });
  const played = performScript(
    rehearsal,
    '~ comment @1 alder\n> First Alder.\n~ comment @2 birch\n> First Birch.\nhello\n> Second Birch.',
  );
  expect(played.failures).toEqual([]);
  const said = played.entries.flatMap((entry) => (entry.from === 'us' ? [entry.text] : []));
  expect(said).toEqual(['First Alder.', 'First Birch.', 'Second Birch.']);
});

test('a tag that no loop waits for is told as one', () => {
  const tags = (more: string) =>
    loopOf(
      `{ format: dart-loop/1, name: Tags, cues: [{ kind: keyword, words: [go], match: exactly }${more}], scenes: [{ id: one, name: One, steps: [{ kind: set, changes: [{ do: add tag, tag: vip }] }] }] }`,
    );
  const told = (loop: ReturnType<typeof loopOf>) => {
    return play(open([loop]), { kind: 'text', text: 'go' }, 'go')
      .entries.map(({ text }) => text)
      .join(' ');
  };
  expect(told(tags(''))).toContain('Tag vip on; nothing starts on it.');
  expect(told(tags(', { kind: tag, when: added, tag: vip, again: once }'))).toContain('Tag vip on.');
});
