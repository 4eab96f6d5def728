import { z } from 'zod';
import { LocalId, NEXT, Target, waitingExits, waitingParts } from '../../model/basics';
import { readChoice } from '../../words/choice';
import { WAIT, go, type StepKind } from './step';

export const Choice = z.object({ id: LocalId, label: z.string().trim().min(1, 'a choice needs a label').max(80), to: Target }).strict();
export type Choice = z.infer<typeof Choice>;

/** Says a text; with choices it waits until one is tapped or typed. */
export const Say = z
  .object({
    id: LocalId,
    kind: z.literal('say'),
    text: z.string().trim().min(1, 'a say needs a text').max(4_096, 'a text has at most 4,096 characters'),
    choices: z.array(Choice).max(10, 'a say has at most 10 choices').optional(),
    ...waitingParts,
  })
  .strict();
export type Say = z.infer<typeof Say>;

export const say: StepKind<Say> = {
  enter(step, play) {
    play.say(step.text, step.choices);
    return step.choices?.length ? WAIT : go(NEXT);
  },
  read(step, reply, _world) {
    const choices = step.choices ?? [];
    const reading = reply.kind === 'choice' ? ({ ok: true, id: reply.choiceId, how: 'tap' } as const) : readChoice(reply.text, choices);
    if (!reading.ok) return reading;
    const choice = choices.find((candidate) => candidate.id === reading.id);
    if (!choice) return { ok: false, reason: 'that choice is not there any more' };
    return {
      ok: true,
      summary: `the choice “${choice.label}”`,
      take(play) {
        play.note({ code: 'choice read', label: choice.label, how: reading.how, to: play.where(choice.to) });
        return go(choice.to);
      },
    };
  },
  exits: (step) => [
    ...(step.choices ?? []).map((choice, index) => ({
      kind: 'choice' as const,
      words: choice.label,
      to: choice.to,
      path: ['choices', index, 'to'],
    })),
    ...waitingExits(step),
  ],
};
