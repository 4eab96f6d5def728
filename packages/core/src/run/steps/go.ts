import { z } from 'zod';
import { LocalId, Target } from '../../model/basics';
import { go as leadTo, type StepKind } from './step';

/** Goes to a scene. */
export const Go = z.object({ id: LocalId, kind: z.literal('go'), to: Target }).strict();
export type Go = z.infer<typeof Go>;

export const go: StepKind<Go> = {
  enter(step, play) {
    play.note({ code: 'went', to: play.where(step.to) });
    return leadTo(step.to);
  },
  exits: (step) => [{ kind: 'go', words: 'goes', to: step.to, path: ['to'] }],
};
