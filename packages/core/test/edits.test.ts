import { findStep, type Step } from '../src';
import {
  addChoice,
  addScene,
  addStep,
  duplicateStep,
  editStep,
  exitsTo,
  moveScene,
  moveStep,
  removeScene,
  removeStep,
  renameScene,
  setTarget,
  withValueAt,
} from '../src/loops/edit/edits';
import { SAILINGS } from './support';

const steps = (loop: typeof SAILINGS) =>
  loop.scenes.map((scene) => scene.steps.map((step) => step.id).join());

test('edits give a new loop and leave the one they were given as it was', () => {
  const copy = structuredClone(SAILINGS);
  addStep(SAILINGS, 'bye', { kind: 'end' });
  removeStep(SAILINGS, 'mail');
  moveStep(SAILINGS, 'mail', -1);
  addScene(SAILINGS, 'New');
  addChoice(SAILINGS, 'hello', 'Perhaps');
  setTarget(SAILINGS, 'hello', ['choices', 0, 'to'], 'end');
  expect(SAILINGS).toEqual(copy);
});

test('a step is added with a fresh id, duplicated, and removed', () => {
  const { loop, stepId } = addStep(SAILINGS, 'bye', { kind: 'say', text: 'New' }, 0);
  expect(findStep(loop, stepId)).toMatchObject({ stepIndex: 0, scene: { id: 'bye' } });
  const twice = duplicateStep(loop, stepId);
  expect(twice.stepId).not.toBe(stepId);
  expect(findStep(twice.loop, twice.stepId)).toMatchObject({ stepIndex: 1, step: { text: 'New' } });
  expect(removeStep(removeStep(twice.loop, twice.stepId), stepId)).toEqual(SAILINGS);
});

test('moving a step down and up again brings it back, over a scene’s edge too', () => {
  const ids = SAILINGS.scenes.flatMap((scene) => scene.steps.map((step) => step.id));
  for (const id of ids) {
    const down = moveStep(SAILINGS, id, 1);
    if (down !== SAILINGS) expect(steps(moveStep(down, id, -1))).toEqual(steps(SAILINGS));
  }
  expect(findStep(moveStep(SAILINGS, 'hello', 1), 'hello')!.scene.id).toBe('email');
  expect(moveStep(SAILINGS, 'hello', -1)).toBe(SAILINGS);
});

test('scenes are added, renamed, moved and removed; what led to them is counted', () => {
  const { loop, sceneId } = addScene(SAILINGS, 'Pick a time', 1);
  expect(loop.scenes[1]).toEqual({ id: 'pick-a-time', name: 'Pick a time', steps: [] });
  expect(renameScene(loop, sceneId, 'Time').scenes[1]!.name).toBe('Time');
  expect(moveScene(loop, sceneId, 1).scenes[2]!.id).toBe(sceneId);
  expect(moveScene(SAILINGS, 'welcome', -1)).toBe(SAILINGS);
  expect(exitsTo(SAILINGS, 'bye')).toBe(3);
  expect(removeScene(SAILINGS, 'bye').scenes.map((scene) => scene.id)).toEqual(['welcome', 'email', 'nudge']);
});

test('choices and targets', () => {
  const more = addChoice(SAILINGS, 'hello', 'Not today');
  const hello = findStep(more, 'hello')!.step as Extract<Step, { kind: 'say' }>;
  expect(hello.choices!.map((choice) => choice.id)).toEqual(['yes-keep-me', 'not-today', 'not-today-2']);
  expect(
    (findStep(setTarget(SAILINGS, 'hello', ['noReply', 'to'], 'end'), 'hello')!.step as typeof hello).noReply!
      .to,
  ).toBe('end');
  expect(editStep(SAILINGS, 'nothing', (step) => step)).toEqual(SAILINGS);
});

test('a value is put and taken away at its path', () => {
  expect(withValueAt({ a: [1, { b: 2 }] }, ['a', 1, 'b'], 3)).toEqual({ a: [1, { b: 3 }] });
  expect(withValueAt({ a: 1, b: 2 }, ['a'], undefined)).toEqual({ b: 2 });
  expect(withValueAt({ a: [1, 2, 3] }, ['a', 1], undefined)).toEqual({ a: [1, 3] });
});
