import { z } from 'zod';
import { LocalId, Target } from '../../loops/model/basics';
import { go as leadTo, type StepKind } from './step';

/** Goes to a scene, or to another loop of the client (by its name), with return or without. */
export const Go = z
  .object({
    id: LocalId,
    kind: z.literal('go'),
    to: Target.optional(),
    loop: z.string().trim().min(1).max(80).optional(),
    /** A scene of the other loop; its first, when left out. */
    scene: LocalId.optional(),
    /** Comes back to the next step when the other loop is over. */
    back: z.boolean().optional(),
  })
  .strict()
  .refine(
    (step) => (step.to === undefined) !== (step.loop === undefined),
    'a go leads either "to" a scene or to a "loop"',
  )
  .refine(
    (step) => step.loop !== undefined || (step.scene === undefined && step.back === undefined),
    '"scene" and "back" go with a loop',
  );
export type Go = z.infer<typeof Go>;

export const go: StepKind<Go> = {
  enter(step, play) {
    if (step.loop !== undefined)
      return { kind: 'call', loop: step.loop, scene: step.scene, back: step.back ?? false };
    play.note({ code: 'went', to: play.where(step.to!) });
    return leadTo(step.to!);
  },
  exits: (step) => (step.to === undefined ? [] : [{ kind: 'go', words: 'goes', to: step.to, path: ['to'] }]),
  fallsTo: (step) =>
    step.loop !== undefined && step.back ? [{ by: 'itself', words: `back from “${step.loop}”` }] : [],
  texts: () => [],
  words: (step) =>
    step.loop === undefined
      ? ''
      : `to the loop “${step.loop}”${step.scene ? `, scene ${step.scene}` : ''}${step.back ? ', and back' : ''}`,
};
