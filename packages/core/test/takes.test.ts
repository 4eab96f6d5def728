import { CHANNEL_KINDS, type ChannelKind, type Loop, type Take } from '../src';
import { examine } from '../src/loops/check/examine';
import { differences } from '../src/loops/file/differences';
import { readLoopFile, writeLoopFile } from '../src/loops/file/loopFile';
import { renameScene, editStep } from '../src/loops/edit/edits';
import { takeOfConversation, withTakes } from '../src/loops/takes/keepTake';
import { acceptTake, playTake } from '../src/loops/takes/takes';
import { pathLines } from '../src/engine/rehearsal/pathLines';
import { DEMO_LOOPS } from './demoLoops';
import { loopOf } from './support';

const LOOP =
  loopOf(`{ format: dart-loop/1, name: News, cues: [{ kind: keyword, words: [news], match: exactly }], scenes: [
  { id: one, name: One, steps: [
    { id: hello, kind: say, text: "Hello {{ person.first_name | default: 'there' }}. News?", choices: [{ id: yes, label: Yes please, to: mail }, { id: no, label: No, to: bye }], noReply: { after: 3h, to: bye } }] },
  { id: mail, name: Mail, steps: [{ id: mail, kind: ask, text: Your email?, reply: email, field: email, retry: { times: 1, text: With an @. }, otherwise: bye, noReply: { after: 1d, to: bye } },
    { id: tell, kind: alert, by: email, to: [desk@example.org], text: "New: {{ person.email }}" }, { id: done, kind: say, text: "Noted, {{ person.email }}." }] },
  { id: bye, name: Bye, steps: [{ id: bye, kind: say, text: Another time. }] }] }`);

const take = (does: string[], more: Partial<Take> = {}): Take => ({
  id: 'take-1',
  name: 'Says yes',
  channel: 'telegram',
  begins: '2026-11-24T09:00:00.000Z',
  person: { id: 'somebody', firstName: 'Mira' },
  turns: does.map((each) => ({ does: each, ours: [] })),
  ...more,
});
/** A take with what we say now as what is kept. */
const kept = (loop: Loop, made: Take): Take =>
  acceptTake(withTakes(loop, [made]), playTake(loop, made, {})).takes![0]!;

test('a take keeps both sides, what would have gone elsewhere too, and plays the same again', () => {
  const made = kept(LOOP, take(['news', '[Yes please]', 'odd', 'mira@example.org']));
  expect(made.turns).toEqual([
    { does: 'news', ours: ['Hello Mira. News?\n[Yes please] [No]'] },
    { does: '[Yes please]', ours: ['Your email?'] },
    { does: 'odd', ours: ['With an @.'] },
    {
      does: 'mira@example.org',
      ours: [
        'Noted, mira@example.org.',
        '(Would tell desk@example.org by email: New: mira@example.org)',
      ].reverse(),
    },
  ]);
  expect(playTake(LOOP, made, {})).toMatchObject({ changed: 0 });
});

test('a reworded loop changes the turns it is heard in, and only those; it is accepted, or mended by putting it back', () => {
  const loop = withTakes(LOOP, [kept(LOOP, take(['news', '[No]']))]);
  const reworded = editStep(loop, 'bye', (step) => ({ ...step, text: 'So long.' }) as typeof step);
  const [played] = examine(reworded, {}).takes;
  expect(played).toMatchObject({
    changed: 1,
    turns: [{ does: 'news' }, { does: '[No]', kept: ['Another time.'], now: ['So long.'] }],
  });
  expect(examine(acceptTake(reworded, played!), {}).takes[0]!.changed).toBe(0);
  expect(
    examine(
      editStep(reworded, 'bye', (step) => ({ ...step, text: 'Another time.' }) as typeof step),
      {},
    ).takes[0]!.changed,
  ).toBe(0);
});

test('a choice that is gone says so, and accepting leaves its turn out', () => {
  const loop = withTakes(LOOP, [kept(LOOP, take(['news', '[No]', '~ tag late']))]);
  const without = editStep(
    loop,
    'hello',
    (step) => ({ ...step, choices: [{ id: 'yes', label: 'Yes please', to: 'mail' }] }) as typeof step,
  );
  const [played] = examine(without, {}).takes;
  expect(played!.turns[1]).toMatchObject({ cannot: expect.stringContaining('no such choice to tap') });
  expect(acceptTake(without, played!).takes![0]!.turns.map(({ does }) => does)).toEqual([
    'news',
    '~ tag late',
  ]);
});

test('a path is covered by the take that goes all of it, and by no other', () => {
  const loop = withTakes(LOOP, [kept(LOOP, take(['news', '[Yes please]', 'mira@example.org']))]);
  const { paths } = examine(loop, {});
  expect(
    paths
      .filter((path) => path.takes.length > 0)
      .map(({ steps }) => steps.map(({ words }) => words).filter(Boolean)),
  ).toEqual([['Yes please', 'an email address']]);
});

test('takes and accepted findings travel in files, byte for byte, and are no change to publish', () => {
  const loop: Loop = {
    ...withTakes(LOOP, [kept(LOOP, take(['news']))]),
    accepted: [{ finding: 'no way out|hello|', reason: 'They know' }],
  };
  for (const as of ['yaml', 'json'] as const) {
    const once = writeLoopFile(loop, as);
    const read = readLoopFile(once);
    expect(read.ok && writeLoopFile(read.loop, as)).toBe(once);
  }
  expect(differences(LOOP, loop)).toEqual([]);
  expect(differences(LOOP, renameScene(loop, 'one', 'First'))).toHaveLength(1);
});

test('a take may begin in any scene, play a channel that refuses, and skip to what is waited for', () => {
  const made = kept(LOOP, take(['/scene mail', '+next', '~ channel refuses', 'news']));
  expect(made.turns.map(({ ours }) => ours)).toEqual([
    ['Your email?'],
    ['Another time.'],
    [],
    ['(Would not arrive: Hello Mira. News?)'],
  ]);
});

test('a real conversation becomes a take: its taps, the time that passed, and what we said', () => {
  const at = Date.UTC(2026, 10, 24, 9);
  const minute = 60_000;
  const made = takeOfConversation(
    [
      { at: at - minute, from: 'us', text: 'Before', labels: [] },
      { at, from: 'them', words: 'news', how: 'said' },
      { at: at + 2_000, from: 'us', text: 'Hello there. News?', labels: ['Yes please', 'No'] },
      { at: at + 5 * minute, from: 'them', words: 'Yes please', how: 'tapped' },
      { at: at + 5 * minute + 1_000, from: 'us', text: 'Your email?', labels: [] },
      { at: at + 5 * minute + 86_400_000, from: 'us', text: 'Another time.', labels: [] },
    ],
    { id: 'real', name: 'Real', channel: 'telegram', person: { id: 'p' } },
  )!;
  expect(made.turns).toEqual([
    { does: 'news', ours: ['Hello there. News?\n[Yes please] [No]'] },
    { does: '+5m', ours: [] },
    { does: '[Yes please]', ours: ['Your email?'] },
    { does: '+1440m', ours: ['Another time.'] },
  ]);
  expect(playTake(LOOP, made, {}).changed).toBe(0);
  expect(
    takeOfConversation([], { id: 'real', name: 'Real', channel: 'telegram', person: { id: 'p' } }),
  ).toBeNull();
});

const LOOPS = DEMO_LOOPS.map(({ name, text }) => [name, loopOf(text)] as const);
const channels: readonly ChannelKind[] = CHANNEL_KINDS;

describe('every demo loop, on every channel', () => {
  test.each(LOOPS)('%s: a take of each of its paths plays the same again', (_name, loop) => {
    const { paths } = examine(loop, {});
    for (const channel of channels)
      for (const path of paths.slice(0, 12)) {
        const { lines, fields } = pathLines(loop, path, {});
        const made = kept(loop, take(lines, { channel, person: { id: 'p', fields } }));
        expect(playTake(loop, made, {}).changed).toBe(0);
      }
  });
});
