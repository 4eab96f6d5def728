import { z } from 'zod';
import { AfterExit, LocalId, Target, durationWords } from '../../loops/model/basics';
import { isOpen } from '../../time/openings';
import { go, type StepKind } from './step';

/** Hands the conversation to a person. The loop holds still until they hand it back. */
export const HandOver = z
  .object({
    id: LocalId,
    kind: z.literal('hand over'),
    /** Who it is for, as the inbox shows it; left out: whoever is there. */
    to: z.string().trim().min(1).max(60).optional(),
    /** For the person who takes it. */
    note: z.string().trim().max(1_000).optional(),
    /** Said to the person in the conversation. */
    text: z.string().trim().min(1).max(4_096).optional(),
    /** Said instead outside opening hours; with a target, the conversation is not held but led there. */
    offDuty: z
      .object({ text: z.string().trim().min(1).max(4_096), to: Target.optional() })
      .strict()
      .optional(),
    /** When nobody has stepped in for so long, the loop goes on. */
    giveUp: AfterExit.optional(),
  })
  .strict();
export type HandOver = z.infer<typeof HandOver>;

export const handOver: StepKind<HandOver> = {
  enter(step, play) {
    const { client, now } = play.world;
    if (!isOpen(client.openingHours, now, client.timeZone)) {
      play.note({ code: 'nobody on duty' });
      if (step.offDuty) play.say(step.offDuty.text);
      else if (step.text) play.say(step.text);
      if (step.offDuty?.to) return go(step.offDuty.to);
    } else if (step.text) play.say(step.text);
    play.hold(step.to ?? null, play.merge(step.note ?? ''));
    return { kind: 'wait', for: 'person' };
  },
  exits: (step) => [
    ...(step.offDuty?.to
      ? [{ kind: 'off duty' as const, words: 'nobody on duty', to: step.offDuty.to, path: ['offDuty', 'to'] }]
      : []),
    ...(step.giveUp
      ? [
          {
            kind: 'given up' as const,
            words: `nobody stepped in for ${durationWords(step.giveUp.after)}`,
            to: step.giveUp.to,
            path: ['giveUp', 'to'],
          },
        ]
      : []),
  ],
  fallsTo: () => [{ by: 'handed back', words: 'handed back' }],
  texts: (step) => [step.note ?? '', step.text ?? '', step.offDuty?.text ?? ''],
  words: (step) =>
    [
      `to ${step.to ?? 'whoever is there'}${step.note ? `, with the note “${step.note}”` : ''}.`,
      ...(step.text ? [`Says “${step.text}”`] : []),
      ...(step.offDuty ? [`When nobody is on duty: “${step.offDuty.text}”`] : []),
    ].join(' '),
};
