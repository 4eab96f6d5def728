import { z } from 'zod';
import { LocalId, NEXT, TagName, Target } from '../../loops/model/basics';
import { go, type StepKind } from './step';

/**
 * Random arms by weight; the same arm for the same person, also when weights change. A weight of nought draws
 * nobody new.
 */
export const Vary = z
  .object({
    id: LocalId,
    kind: z.literal('vary'),
    arms: z
      .array(z.object({ id: LocalId, weight: z.number().min(0).max(1_000), to: Target }).strict())
      .min(2, 'a vary needs at least two arms')
      .max(10),
    /** What the arms are compared on: a tag that is put on, or a scene that is reached. */
    goal: z
      .union(
        [z.object({ tag: TagName }).strict(), z.object({ scene: LocalId }).strict()],
        'a goal is { tag: name } or { scene: id }',
      )
      .optional(),
  })
  .strict()
  .superRefine((step, context) => {
    if (step.arms.every((arm) => arm.weight === 0))
      context.addIssue({
        code: 'custom',
        path: ['arms'],
        message: 'at least one arm needs a weight above nought',
      });
    const ids = step.arms.map((arm) => arm.id);
    const twice = ids.find((id, at) => ids.indexOf(id) !== at);
    if (twice)
      context.addIssue({ code: 'custom', path: ['arms'], message: `two arms have the id “${twice}”` });
  });
export type Vary = z.infer<typeof Vary>;

/** A number from 0 to 1 that depends on the text alone, evenly spread: FNV-1a with a final mixing. */
export function evenly(text: string): number {
  let hash = 0x811c9dc5;
  for (let at = 0; at < text.length; at++) hash = Math.imul(hash ^ text.charCodeAt(at), 0x01000193);
  hash = Math.imul(hash ^ (hash >>> 16), 0x85ebca6b);
  hash = Math.imul(hash ^ (hash >>> 13), 0xc2b2ae35);
  return ((hash ^ (hash >>> 16)) >>> 0) / 0x1_0000_0000;
}

export const vary: StepKind<Vary> = {
  enter(step, play) {
    const drawn = play.arm();
    let arm = step.arms.find((each) => each.id === drawn);
    if (!arm) {
      const total = step.arms.reduce((sum, each) => sum + each.weight, 0);
      let left = evenly(`${play.world.person.id}|${play.loopId}|${step.id}`) * total;
      arm =
        step.arms.find((each) => each.weight > 0 && (left -= each.weight) < 0) ??
        step.arms.findLast((each) => each.weight > 0);
      if (!arm) return go(NEXT);
      play.draw(arm.id);
    }
    play.note({ code: 'arm', arm: arm.id, to: play.where(arm.to) });
    return go(arm.to);
  },
  exits: (step) =>
    step.arms.map((arm, index) => ({
      kind: 'chance' as const,
      words: `arm ${arm.id}, weight ${arm.weight}`,
      to: arm.to,
      path: ['arms', index, 'to'],
    })),
  fallsTo: () => [],
  texts: () => [],
  words: () => 'by chance, the same for the same person',
};
