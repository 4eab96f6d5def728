import { z } from 'zod';
import { FieldKey, LocalId, NEXT, Target, waitingExits, waitingParts } from '../../model/basics';
import { FieldType } from '../../model/person';
import { READERS, readReply } from '../../words/replies';
import { WAIT, go, type StepKind } from './step';

/** Asks a question, reads the reply as `reply`, and stores it as a typed value in `field`. */
export const Ask = z
  .object({
    id: LocalId,
    kind: z.literal('ask'),
    text: z.string().trim().min(1, 'an ask needs its question').max(4_096, 'a text has at most 4,096 characters'),
    reply: FieldType,
    field: FieldKey,
    /** Exits for a yes or a no; only where the reply is yes/no. */
    yes: Target.optional(),
    no: Target.optional(),
    ...waitingParts,
  })
  .strict()
  .refine(
    (step) => step.reply === 'yes/no' || (step.yes === undefined && step.no === undefined),
    'only a yes/no question has exits for yes and no',
  );
export type Ask = z.infer<typeof Ask>;

export const ask: StepKind<Ask> = {
  enter(step, play) {
    play.say(step.text);
    return WAIT;
  },
  read(step, reply, world) {
    if (reply.kind === 'choice') return { ok: false, reason: 'a question is answered in words here' };
    const reading = readReply(step.reply, reply.text, { country: world.client.country });
    if (!reading.ok) return reading;
    return {
      ok: true,
      summary: READERS[step.reply].words,
      take(play) {
        play.note({ code: 'reply read', type: reading.value.type, field: step.field, value: reading.value });
        play.setField(step.field, reading.value);
        if (reading.value.type === 'yes/no') return go((reading.value.value ? step.yes : step.no) ?? NEXT);
        return go(NEXT);
      },
    };
  },
  exits: (step) => [
    ...(step.yes ? [{ kind: 'answer' as const, words: 'yes', to: step.yes, path: ['yes'] }] : []),
    ...(step.no ? [{ kind: 'answer' as const, words: 'no', to: step.no, path: ['no'] }] : []),
    ...waitingExits(step),
  ],
};
