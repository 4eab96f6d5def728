import { z } from 'zod';
import { LocalId, NEXT, Target } from '../../loops/model/basics';
import { Condition } from '../../people/condition';
import { conditionWords } from '../../people/conditionWords';
import { holds } from '../../people/holds';
import { go, type StepKind } from './step';

/** Leads by the first condition that holds; unknown is its own case. */
export const Split = z
  .object({
    id: LocalId,
    kind: z.literal('split'),
    arms: z
      .array(z.object({ when: Condition, to: Target }).strict())
      .min(1, 'a split needs at least one arm')
      .max(30),
    /** Where none holds; left out, the next step. */
    otherwise: Target.optional(),
    /**
     * Where none holds and one of them could not be decided because something is not known; left out, as
     * otherwise.
     */
    unknown: Target.optional(),
  })
  .strict();
export type Split = z.infer<typeof Split>;

export const split: StepKind<Split> = {
  enter(step, play) {
    let unknown: Condition | null = null;
    for (const arm of step.arms) {
      const held = holds(arm.when, play.world);
      if (held) {
        play.note({ code: 'split', to: play.where(arm.to), because: conditionWords(arm.when) });
        return go(arm.to);
      }
      if (held === null) unknown ??= arm.when;
    }
    const to = (unknown && step.unknown) ?? step.otherwise ?? NEXT;
    play.note({
      code: 'split',
      to: play.where(to),
      because:
        unknown && step.unknown ? `it is not known whether ${conditionWords(unknown)}` : 'nothing else holds',
    });
    return go(to);
  },
  exits: (step) => [
    ...step.arms.map((arm, index) => ({
      kind: 'condition' as const,
      words: conditionWords(arm.when),
      to: arm.to,
      path: ['arms', index, 'to'],
    })),
    ...(step.unknown
      ? [{ kind: 'condition' as const, words: 'not known', to: step.unknown, path: ['unknown'] }]
      : []),
    ...(step.otherwise
      ? [{ kind: 'condition' as const, words: 'otherwise', to: step.otherwise, path: ['otherwise'] }]
      : []),
  ],
  fallsTo: (step) => (step.otherwise ? [] : [{ by: 'condition', words: 'otherwise' }]),
  texts: () => [],
  words: () => 'by what is known',
};
