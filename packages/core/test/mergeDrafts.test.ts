import fc from 'fast-check';
import { Loop } from '../src';
import {
  addScene,
  addStep,
  editStep,
  moveStep,
  removeScene,
  removeStep,
  renameScene,
} from '../src/loops/edit/edits';
import { mergeDrafts } from '../src/loops/edit/mergeDrafts';
import { anyLoop } from './arbitraries';
import { SAILINGS } from './support';

const say = (loop: Loop, id: string, text: string) =>
  editStep(loop, id, (step) => ({ ...step, text }) as typeof step);
const textOf = (loop: Loop, id: string) =>
  (loop.scenes.flatMap((scene) => scene.steps).find((step) => step.id === id) as { text: string }).text;

test('what only one has changed is taken over, whichever it is', () => {
  fc.assert(
    fc.property(anyLoop, anyLoop, (base, other) => {
      expect(mergeDrafts(base, base, other)).toEqual({ loop: other, clashes: [] });
      expect(mergeDrafts(base, other, base)).toEqual({ loop: other, clashes: [] });
      expect(mergeDrafts(base, other, other)).toEqual({ loop: other, clashes: [] });
    }),
  );
});

test('whatever two have done, the result is a loop in which nothing stands twice and nothing new is lost', () => {
  fc.assert(
    fc.property(anyLoop, anyLoop, anyLoop, (base, mine, theirs) => {
      const { loop } = mergeDrafts(base, mine, theirs);
      expect(Loop.safeParse(loop).success).toBe(true);
      const ids = loop.scenes.flatMap((scene) => scene.steps.map((step) => step.id));
      expect(new Set(ids).size).toBe(ids.length);
      const before = new Set(base.scenes.flatMap((scene) => scene.steps.map((step) => step.id)));
      for (const side of [mine, theirs])
        for (const step of side.scenes.flatMap((scene) => scene.steps))
          if (!before.has(step.id)) expect(ids).toContain(step.id);
    }),
  );
});

test('two write in different steps, scenes, choices and cues at once: both stand', () => {
  const mine = say(renameScene(SAILINGS, 'bye', 'So long'), 'hello', 'Ahoy');
  const theirs = addStep(say(SAILINGS, 'mail', 'Where to?'), 'bye', { kind: 'say', text: 'More' }).loop;
  const { loop, clashes } = mergeDrafts(SAILINGS, mine, theirs);
  expect(clashes).toEqual([]);
  expect([textOf(loop, 'hello'), textOf(loop, 'mail')]).toEqual(['Ahoy', 'Where to?']);
  expect(loop.scenes.find((scene) => scene.id === 'bye')).toMatchObject({ name: 'So long' });
  expect(loop.scenes.find((scene) => scene.id === 'bye')!.steps.at(-1)).toMatchObject({ text: 'More' });
  const label = (loop_: Loop, at: number, words: string) =>
    editStep(
      loop_,
      'hello',
      (step) =>
        ({
          ...step,
          choices: (step as { choices: object[] }).choices.map((each, index) =>
            index === at ? { ...each, label: words } : each,
          ),
        }) as typeof step,
    );
  const both = mergeDrafts(SAILINGS, label(SAILINGS, 0, 'Aye'), label(SAILINGS, 1, 'Nay'));
  expect(both.clashes).toEqual([]);
  expect(both.loop.scenes[0]!.steps[0]).toMatchObject({ choices: [{ label: 'Aye' }, { label: 'Nay' }] });
});

test('the same text by both: ours stands, theirs is named', () => {
  const { loop, clashes } = mergeDrafts(
    SAILINGS,
    say(SAILINGS, 'hello', 'Ahoy'),
    say(SAILINGS, 'hello', 'Good day'),
  );
  expect(textOf(loop, 'hello')).toBe('Ahoy');
  expect(clashes).toEqual([
    { stepId: 'hello', sceneId: null, cueId: null, path: ['text'], theirs: 'Good day' },
  ]);
});

test('a step that one removes and the other writes in stays; one that is moved and written in stands where it was moved to', () => {
  expect(
    textOf(
      mergeDrafts(SAILINGS, removeStep(SAILINGS, 'mail'), say(SAILINGS, 'mail', 'Where to?')).loop,
      'mail',
    ),
  ).toBe('Where to?');
  const moved = mergeDrafts(SAILINGS, moveStep(SAILINGS, 'hello', 1), say(SAILINGS, 'hello', 'Ahoy')).loop;
  expect(moved.scenes.find((scene) => scene.steps.some((step) => step.id === 'hello'))!.id).toBe('email');
  expect(textOf(moved, 'hello')).toBe('Ahoy');
  const gone = mergeDrafts(SAILINGS, removeScene(SAILINGS, 'bye'), addScene(SAILINGS, 'New').loop).loop;
  expect(gone.scenes.map(({ id }) => id)).not.toContain('bye');
  expect(gone.scenes.map(({ id }) => id)).toContain('new');
  const kept = mergeDrafts(SAILINGS, removeScene(SAILINGS, 'email'), say(SAILINGS, 'mail', 'Where to?')).loop;
  expect(kept.scenes.find((scene) => scene.id === 'email')!.steps.map(({ id }) => id)).toEqual(['mail']);
});

test('the order of entries is no change: what the server has written anew is still the same', () => {
  const turned = (value: unknown): unknown =>
    Array.isArray(value)
      ? value.map(turned)
      : value !== null && typeof value === 'object'
        ? Object.fromEntries(
            Object.entries(value)
              .reverse()
              .map(([key, each]) => [key, turned(each)]),
          )
        : value;
  const base = turned(SAILINGS) as Loop;
  expect(mergeDrafts(base, removeStep(SAILINGS, 'mail'), say(base, 'hello', 'Ahoy'))).toMatchObject({
    clashes: [],
  });
  const { loop } = mergeDrafts(base, removeStep(SAILINGS, 'mail'), say(base, 'hello', 'Ahoy'));
  expect(loop.scenes.flatMap((scene) => scene.steps.map(({ id }) => id))).not.toContain('mail');
  expect(textOf(loop, 'hello')).toBe('Ahoy');
});
