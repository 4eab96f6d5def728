import { findScene } from '../../model/loop';
import { exitsOf } from '../../../engine/steps';
import { fold } from '../../../language/fold';
import { check } from '../check';

/** Exits to scenes and loops that are not there, or that start nobody now. */
export const missingTarget = check<'missing target' | 'missing loop' | 'loop at rest'>(function* ({
  loop,
  places,
  known,
}) {
  for (const { step, where, at } of places) {
    for (const exit of exitsOf(step))
      if (exit.to !== 'next' && exit.to !== 'end' && !findScene(loop, exit.to))
        yield {
          ...at,
          code: 'missing target',
          severity: 'stops',
          about: exit.path.join('.'),
          reason: `“${exit.words}” in ${where} leads to the scene “${exit.to}”, which is not there.`,
          fix: {
            words: 'Let it lead to the next step',
            edits: [{ edit: 'step', stepId: step.id, path: exit.path, value: 'next' }],
          },
        };
    if (step.kind === 'vary' && step.goal && 'scene' in step.goal && !findScene(loop, step.goal.scene))
      yield {
        ...at,
        code: 'missing target',
        severity: 'stops',
        about: 'goal',
        reason: `The goal of the vary in ${where} is the scene “${step.goal.scene}”, which is not there.`,
        fix: {
          words: 'Take the goal away',
          edits: [{ edit: 'step', stepId: step.id, path: ['goal'], value: undefined }],
        },
      };
    if (step.kind !== 'go' || step.loop === undefined || !known.others || fold(step.loop) === fold(loop.name))
      continue;
    const called = known.others.find((other) => fold(other.name) === fold(step.loop!));
    if (!called)
      yield {
        ...at,
        code: 'missing loop',
        severity: 'stops',
        about: step.loop,
        reason: `The go in ${where} leads to the loop “${step.loop}”, which the client does not have.`,
      };
    else if (step.scene && !findScene(called, step.scene))
      yield {
        ...at,
        code: 'missing target',
        severity: 'stops',
        about: step.scene,
        reason: `The go in ${where} leads to the scene “${step.scene}” of “${step.loop}”, which is not there.`,
        fix: {
          words: 'Let it begin with its first scene',
          edits: [{ edit: 'step', stepId: step.id, path: ['scene'], value: undefined }],
        },
      };
    else if (known.resting?.some((name) => fold(name) === fold(step.loop!)))
      yield {
        ...at,
        code: 'loop at rest',
        severity: 'warns',
        about: step.loop,
        reason: `The go in ${where} leads to the loop “${step.loop}”, which is not live; people are led on to the next step instead.`,
      };
  }
});
