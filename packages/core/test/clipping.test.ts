import { Loop } from '../src';
import { clipScenes, clipSteps, paste } from '../src/loops/edit/clipping';
import { moveSteps, placeSteps, removeSteps } from '../src/loops/edit/edits';
import { findInLoop, replaceInLoop } from '../src/loops/edit/textEdits';
import { loopOf, SAILINGS } from './support';

const OTHER = loopOf(
  '{ format: dart-loop/1, name: Other, cues: [], scenes: [{ id: one, name: One, steps: [{ id: a, kind: say, text: A }] }] }',
);
const ids = (loop: Loop) =>
  loop.scenes.map((scene) => `${scene.id}: ${scene.steps.map((step) => step.id).join(' ')}`);

test('steps are pasted where one stands, with ids of their own; what led elsewhere leads on', () => {
  const pasted = paste(OTHER, { sceneId: 'one', index: 1 }, clipSteps(SAILINGS, ['hello', 'mail']));
  expect(pasted.problem).toBeNull();
  expect(pasted.stepIds).toEqual(['hello', 'mail']);
  expect(pasted.loop.scenes[0]!.steps[1]).toMatchObject({ choices: [{ to: 'next' }, { to: 'next' }] });
  expect(Loop.safeParse(pasted.loop).success).toBe(true);
  const again = paste(pasted.loop, { sceneId: 'one', index: 0 }, clipSteps(SAILINGS, ['hello']));
  expect(again.stepIds).toEqual(['say']);
});

test('scenes are pasted with what leads between them', () => {
  const pasted = paste(OTHER, { sceneId: 'one', index: 0 }, clipScenes(SAILINGS, ['welcome', 'bye']));
  expect(pasted.loop.scenes.map(({ id }) => id)).toEqual(['one', 'welcome', 'bye']);
  expect(pasted.loop.scenes[1]!.steps[0]).toMatchObject({ choices: [{ to: 'next' }, { to: 'bye' }] });
  const twice = paste(SAILINGS, { sceneId: 'welcome', index: 0 }, clipScenes(SAILINGS, ['bye']));
  expect(new Set(twice.loop.scenes.map(({ id }) => id)).size).toBe(SAILINGS.scenes.length + 1);
});

test('what is no clipping is typed; a broken one is refused and changes nothing', () => {
  expect(paste(OTHER, { sceneId: 'one', index: 1 }, 'Hello\nask email').stepIds).toHaveLength(2);
  const broken = paste(
    OTHER,
    { sceneId: 'one', index: 1 },
    'format: dart-loop/clipping/1\nsteps: [{ kind: dance }]',
  );
  expect(broken).toMatchObject({ loop: OTHER, problem: expect.stringContaining('cannot be read') });
});

test('several steps are moved and removed together', () => {
  const loop = paste(OTHER, { sceneId: 'one', index: 1 }, 'B\nC\nD\n## Two\nE').loop;
  const named = (each: Loop) =>
    each.scenes
      .map((scene) => scene.steps.map((step) => ('text' in step ? step.text : '')).join(''))
      .join('|');
  const [b, c] = loop.scenes[0]!.steps.slice(1, 3).map((step) => step.id) as [string, string];
  expect(named(loop)).toBe('ABCD|E');
  expect(named(moveSteps(loop, [b, c], -1))).toBe('BCAD|E');
  expect(named(moveSteps(loop, [b, c], 1))).toBe('ADBC|E');
  expect(named(moveSteps(moveSteps(loop, [b, c], 1), [b, c], 1))).toBe('AD|BCE');
  expect(named(moveSteps(loop, ['a', b], -1))).toBe('ABCD|E');
  expect(named(placeSteps(loop, [b, 'a'], { sceneId: loop.scenes[1]!.id, index: 1 }))).toBe('CD|EAB');
  expect(named(removeSteps(loop, [b, c]))).toBe('AD|E');
  expect(ids(loop)).toHaveLength(2);
});

test('words are found and replaced in all texts, and nowhere else', () => {
  const loop = loopOf(`{ format: dart-loop/1, name: L, cues: [], scenes: [{ id: one, name: One, steps: [
    { id: boat, kind: say, text: "The Boat leaves. A boat?", choices: [{ id: boat, label: By boat, to: one }], retry: { times: 1, text: Boat or bus? } },
    { id: ask, kind: ask, text: Which boat?, reply: text, field: boat }] }] }`);
  expect(findInLoop(loop, 'boat')).toEqual([
    { stepId: 'boat', count: 4 },
    { stepId: 'ask', count: 1 },
  ]);
  const replaced = replaceInLoop(loop, 'boat', 'ferry');
  expect(replaced.scenes[0]!.steps).toMatchObject([
    {
      id: 'boat',
      text: 'The ferry leaves. A ferry?',
      choices: [{ id: 'boat', label: 'By ferry' }],
      retry: { text: 'ferry or bus?' },
    },
    { text: 'Which ferry?', field: 'boat' },
  ]);
  expect(findInLoop(replaced, 'boat')).toEqual([]);
  expect(replaceInLoop(loop, 'boat', 'ferry', ['ask']).scenes[0]!.steps[0]).toEqual(loop.scenes[0]!.steps[0]);
  expect(replaceInLoop(loop, 'Which boat?', '')).toEqual(loop);
  expect(replaceInLoop(loop, 'a.*', 'x')).toEqual(loop);
});
