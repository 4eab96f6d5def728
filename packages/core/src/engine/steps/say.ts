import { z } from 'zod';
import { TemplateName } from '../../channels/templates';
import { LocalId, NEXT, Target, waitingExits, waitingParts, waitingTexts } from '../../loops/model/basics';
import { LanguageCode } from '../../people/client';
import { readChoice } from '../../language/choice';
import { BY_ITSELF, WAIT, go, type StepKind, type StepWorld } from './step';

export const Choice = z
  .object({ id: LocalId, label: z.string().trim().min(1, 'a choice needs a label').max(80), to: Target })
  .strict();
export type Choice = z.infer<typeof Choice>;

const Address = z.string().min(1).max(2_000);
const Text = z.string().trim().min(1, 'a say needs a text').max(4_096, 'a text has at most 4,096 characters');

/** Says a text; with choices it waits until one is tapped or typed. */
export const Say = z
  .object({
    id: LocalId,
    kind: z.literal('say'),
    text: Text,
    choices: z.array(Choice).max(60, 'a say has at most 60 choices').optional(),
    media: z
      .object({ what: z.enum(['image', 'file', 'video', 'audio']), address: Address })
      .strict()
      .optional(),
    /** A link as a card or button; its text stands in the message where the channel has neither. */
    link: z
      .object({
        label: z.string().trim().min(1).max(60),
        address: Address,
        title: z.string().trim().max(80).optional(),
        image: Address.optional(),
      })
      .strict()
      .optional(),
    /** Seconds of "is typing" before it. */
    typing: z.number().int().min(1).max(20).optional(),
    /** The same in other languages; choices by their ids. What is left out is said as above. */
    variants: z
      .record(
        LanguageCode,
        z
          .object({
            text: Text.optional(),
            choices: z.record(LocalId, z.string().trim().min(1).max(80)).optional(),
            retry: z.string().min(1).max(4_096).optional(),
          })
          .strict(),
      )
      .optional(),
    /**
     * What becomes of it where the channel lets the line not write now; left out: it is held until the person
     * writes.
     */
    whenShut: z
      .discriminatedUnion('do', [
        z
          .object({
            do: z.literal('template'),
            name: TemplateName,
            parameters: z.array(z.string().min(1).max(1_024)).max(20).optional(),
            /** The file above its text, where the template shows one. */
            file: Address.optional(),
          })
          .strict(),
        z.object({ do: z.literal('other line') }).strict(),
        z.object({ do: z.literal('drop') }).strict(),
      ])
      .optional(),
    ...waitingParts,
  })
  .strict()
  .refine((step) => step.whenShut?.do !== 'other line' || !step.choices?.length, {
    message:
      'a say with choices cannot go by another line, because its loop waits for the answer on this one',
    path: ['whenShut'],
  });
export type Say = z.infer<typeof Say>;

/** Choices with their labels in the person's language. */
function choicesFor(step: Say, language: string): Choice[] {
  const labels = step.variants?.[language]?.choices;
  return (step.choices ?? []).map((choice) => ({ ...choice, label: labels?.[choice.id] ?? choice.label }));
}

export const say: StepKind<Say> = {
  enter(step, play) {
    const { language } = play.world;
    play.say(step.variants?.[language]?.text ?? step.text, choicesFor(step, language), {
      media: step.media,
      link: step.link,
      typing: step.typing,
      whenShut: step.whenShut,
    });
    return step.choices?.length ? WAIT : go(NEXT);
  },
  choices: (step, world) => choicesFor(step, world.language),
  read(step, reply, world) {
    if (reply.kind === 'file' || reply.kind === 'place')
      return { ok: false, reason: `it is a ${reply.kind}, and a choice is asked for` };
    const choices = step.choices ?? [];
    const reading =
      reply.kind === 'choice'
        ? ({ ok: true, id: reply.choiceId, how: 'tap' } as const)
        : readTyped(step, reply.text, world);
    if (!reading.ok) return reading;
    const choice = choices.find((candidate) => candidate.id === reading.id);
    if (!choice) return { ok: false, reason: 'that choice is not there any more' };
    return {
      ok: true,
      summary: `the choice “${choice.label}”`,
      take(play) {
        play.note({ code: 'choice read', label: choice.label, how: reading.how, to: play.where(choice.to) });
        play.answer(step.id, { type: 'one of', value: choice.label });
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
  fallsTo: (step) => (step.choices?.length ? [] : BY_ITSELF),
  texts: (step) => [
    step.text,
    ...(step.choices ?? []).map((choice) => choice.label),
    ...waitingTexts(step),
    ...(step.media ? [step.media.address] : []),
    ...(step.link ? [step.link.address, step.link.title ?? ''] : []),
    ...(step.whenShut?.do === 'template'
      ? [...(step.whenShut.parameters ?? []), step.whenShut.file ?? '']
      : []),
    ...Object.values(step.variants ?? {}).flatMap((each) => [
      each.text ?? '',
      each.retry ?? '',
      ...Object.values(each.choices ?? {}),
    ]),
  ],
  words: (step) => step.text,
};

/**
 * Labels in the person's language first, then as they stand in the loop: people answer what they saw, or what
 * they remember.
 */
function readTyped(step: Say, text: string, world: StepWorld) {
  const shown = readChoice(text, choicesFor(step, world.language));
  return shown.ok || !step.variants?.[world.language] ? shown : readChoice(text, step.choices ?? []);
}
