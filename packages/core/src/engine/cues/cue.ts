import { z } from 'zod';
import { Duration, LineKey, LocalId } from '../../loops/model/basics';
import { Condition, conditionsIn } from '../../people/condition';

/** How often a cue may start its loop for the same person. */
export const Again = z.union(
  [
    z.enum(['always', 'once', 'not while running', 'after finishing']),
    z.object({ onceIn: Duration }).strict(),
  ],
  '"again" is always, once, not while running, after finishing, or { onceIn: 7d }',
);
export type Again = z.infer<typeof Again>;

/** What a cue does when its loop is under way with the person already. */
export const WhileRunning = z.enum(['start over', 'ignore', 'resume']);
export type WhileRunning = z.infer<typeof WhileRunning>;

/**
 * What every cue carries: its id within the loop, the lines it listens on (none means all lines of the loop),
 * and when it may fire again.
 */
export const cueParts = {
  id: LocalId,
  lines: z.array(LineKey).max(50).optional(),
  /** Left out: always. */
  again: Again.optional(),
  /** Left out: start over. */
  whileRunning: WhileRunning.optional(),
  /** Whom it hears: those of whom this holds. Left out: everybody. */
  who: Condition.refine(
    (condition) =>
      ![...conditionsIn(condition)].some((each) => each.answer !== undefined || each.cue !== undefined),
    {
      error:
        'whom a cue hears is asked before its loop begins, so nothing can be asked of its answers or cues',
    },
  ).optional(),
};
