import fc from 'fast-check';
import type { Loop, Surroundings } from '../src';
import { CheckWorld } from '../src/loops/check/check';
import { pathsOf, type PathStep } from '../src/loops/check/paths';
import { lengthWords, pathKey, pathWords } from '../src/loops/check/pathWords';
import { waysTaken } from '../src/loops/check/waysTaken';
import { pathLines } from '../src/engine/rehearsal/pathLines';
import { playTake } from '../src/loops/takes/takes';
import {
  deliver,
  openRehearsal,
  play,
  wind,
  type Played,
  type Rehearsal,
} from '../src/engine/rehearsal/rehearsal';
import type { Left } from '../src/engine/steps';
import { anyLoop, happenings, type Happening } from './arbitraries';
import { DEMO_LOOPS } from './demoLoops';
import { FERRIES, NINE, SAILINGS, loopOf, nobodyYet, trialSession } from './support';
import { times } from './thorough';

const paths = (loop: Loop, known: Surroundings = {}) => pathsOf(new CheckWorld(loop, known));
const SMS = { lines: [{ key: 'sms', channel: 'sms' as const }] };

test('every way through a loop is listed once, in words, with what it takes', () => {
  const found = paths(SAILINGS, SMS);
  expect(found.cut).toBeNull();
  expect(new Set(found.paths.map(pathKey)).size).toBe(found.paths.length);
  expect(found.paths.map(pathWords)).toContain('Yes, keep me posted, then an email address, then the end');
  for (const path of found.paths) expect(path.cost).toMatchObject([{ channel: 'sms' }]);
  const silent = found.paths.find((path) => pathWords(path).startsWith('no reply in 3 h'))!;
  expect(silent.ms).toBeGreaterThanOrEqual(3 * 3_600_000);
  expect(lengthWords(silent.ms)).toMatch(/^3 h/);
});

test('a question that is asked again costs each time; what is known already costs nothing; a circle ends where it comes round', () => {
  const loop =
    loopOf(`{ format: dart-loop/1, name: L, cues: [{ kind: keyword, words: [go], match: exactly }], scenes: [
    { id: one, name: One, steps: [{ kind: ask, text: N?, reply: number, field: n, known: skip, retry: { times: 2, text: Again }, otherwise: one, noReply: { after: 2d, to: end } }, { kind: say, text: Thanks }] }] }`);
  const found = paths(loop, SMS).paths;
  const by = (words: string) => found.find((path) => pathWords(path).startsWith(words))!;
  expect(by('could not read').cost[0]!.messages).toBe(3);
  expect(by('could not read').ends).toEqual({ how: 'round', words: 'round to 1 One' });
  expect(by('known already').cost[0]!.messages).toBe(1);
  expect(by('a number').cost[0]).toEqual({ channel: 'sms', messages: 2, price: 80 });
  expect(by('no reply').ms).toBe(2 * 86_400_000);
});

test('too many are cut, which is said, and every exit is still on one of them', () => {
  const scenes = Array.from(
    { length: 12 },
    (_, at) =>
      `{ id: s${at}, name: S${at}, steps: [{ id: q${at}, kind: say, text: Which?, choices: [{ id: a, label: Boat, to: s${at + 1} }, { id: b, label: Bus, to: s${at + 1} }, { id: c, label: Bike, to: s${at + 1} }], noReply: { after: 1h, to: end } }] }`,
  );
  const loop = loopOf(
    `{ format: dart-loop/1, name: L, cues: [{ kind: keyword, words: [go], match: exactly }], scenes: [${scenes.join()}, { id: s12, name: End, steps: [{ kind: say, text: Bye }] }] }`,
  );
  const found = paths(loop);
  expect(found.cut).toContain('more than 1,000 paths');
  const exits = new Set(
    found.paths.flatMap((path) => path.steps.map(({ stepId, words }) => `${stepId}:${words}`)),
  );
  for (let at = 0; at < 12; at++)
    for (const words of ['Boat', 'Bus', 'Bike', 'no reply in 1 h'])
      expect(exits).toContain(`q${at}:${words}`);
});

function happen(rehearsal: Rehearsal, what: Happening): Played {
  if ('winds' in what) return wind(rehearsal, what.winds);
  const still = { rehearsal, entries: [], responses: [] };
  if ('delivers' in what)
    return deliver(rehearsal, { ok: what.delivers, reason: 'refused', body: {} }) ?? still;
  if ('does' in what) return play(rehearsal, what.does);
  const choice = rehearsal.offered[what.taps % Math.max(1, rehearsal.offered.length)];
  return choice ? play(rehearsal, { kind: 'tap', ...choice.ref, label: choice.label }) : still;
}

test('whatever is played at random goes along a listed path, as far as it does not come round', () => {
  let compared = 0;
  fc.assert(
    fc.property(anyLoop, happenings, (loop, all) => {
      const world = new CheckWorld(loop, {});
      const found = pathsOf(world);
      if (found.cut) return;
      const first = loop.scenes[0]!.steps[0]!.id;
      const calls = new Set(
        world.places.flatMap(({ step }) => (step.kind === 'go' && step.loop !== undefined ? [step.id] : [])),
      );
      let rehearsal = openRehearsal({
        loops: [loop],
        client: FERRIES,
        line: { key: 'telegram', name: 'x', channel: 'telegram' },
        person: nobodyYet,
        now: NINE,
      });
      const trail: Left[] = [];
      for (const what of all) {
        // Staff may lead a run to any scene.
        if ('does' in what && what.does.kind === 'hand back' && typeof what.does.how === 'object') continue;
        const played = happen(rehearsal, what);
        rehearsal = played.rehearsal;
        trail.push(...played.responses.flatMap((response) => response.trail));
      }
      const keys = found.paths.map(pathKey);
      for (const run of rehearsal.runs) {
        const taken = waysTaken(world, trail, run.id);
        if (taken[0]?.stepId !== first) continue;
        const until = taken.findIndex(
          (step, at) =>
            calls.has(step.stepId) || taken.findIndex(({ stepId }) => stepId === step.stepId) < at,
        );
        const part: PathStep[] = until < 0 ? taken : taken.slice(0, until);
        if (part.length === 0) continue;
        compared++;
        const key = pathKey({ steps: part });
        if (!keys.some((each) => each === key || each.startsWith(`${key}>`)))
          throw new Error(`${key}\nis none of\n${keys.join('\n')}`);
      }
    }),
    { numRuns: times(300, 1_000) },
  );
  expect(compared).toBeGreaterThan(50);
});

const LOOPS = DEMO_LOOPS.map(({ name, text }) => [name, loopOf(text)] as const);

describe('a listed path can be gone', () => {
  test.each(LOOPS)('%s', (_name, loop) => {
    const channel = 'telegram' as const;
    const known: Surroundings = {
      client: { name: 'Any', country: 'GB', timeZone: 'Europe/London', languages: ['en'], openingHours: {} },
      calendars: loop.scenes.flatMap(({ steps }) =>
        steps.flatMap((step) => (step.kind === 'book' ? [trialSession({ name: step.calendar })] : [])),
      ),
    };
    const world = new CheckWorld(loop, known);
    const { paths: all } = pathsOf(world);
    expect(all.length).toBeGreaterThan(0);
    // What the person does not decide cannot be asked for.
    const theirs = all.filter(
      (path) =>
        !path.steps.some(({ by }) => ['condition', 'chance', 'off duty', 'nothing free'].includes(by)) &&
        path.ends.how !== 'other loop',
    );
    for (const path of theirs) {
      const { lines, fields } = pathLines(loop, path, {});
      const take = {
        id: 't',
        name: 'T',
        channel,
        begins: new Date(NINE).toISOString(),
        person: { id: 'p', fields },
        turns: lines.map((does) => ({ does, ours: [] })),
      };
      const played = playTake(loop, take, known, world);
      const key = pathKey(path).replace(/:itself:$/, '');
      const went = pathKey(played);
      if (
        !(went === key || went.startsWith(key) || key.startsWith(went)) ||
        played.steps.length < path.steps.length - 1
      )
        throw new Error(
          `${key}\nwas gone as\n${went}\nby\n${played.turns.map((turn) => `${turn.does} -> ${turn.cannot ?? turn.now.join(' / ')}`).join('\n')}`,
        );
    }
  });
});
