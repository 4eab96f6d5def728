import { z } from 'zod';
import { Duration, FieldKey, LocalId, Target, waitingParts } from '../../loops/model/basics';
import { LanguageCode } from '../../people/client';
import { FieldType } from '../../people/person';
import { READERS } from '../../language/replies';
import type { Question } from './askReading';

const Text = z
  .string()
  .trim()
  .min(1, 'an ask needs its question')
  .max(4_096, 'a text has at most 4,096 characters');
export const Option = z
  .object({
    id: LocalId,
    label: z.string().trim().min(1, 'an option needs a label').max(80),
    to: Target.optional(),
  })
  .strict();
export type Option = z.infer<typeof Option>;

/** What an answer may be, for a question and for a further one of the same message. */
const bounds = {
  /** Of a number. */
  min: z.number().optional(),
  max: z.number().optional(),
  /** Which days a date may be: ahead (left out), past, or any. */
  days: z.enum(['ahead', 'past', 'any']).optional(),
};
/** A question in another language; its options by their ids. */
const wordings = {
  text: Text.optional(),
  options: z.record(LocalId, z.string().trim().min(1).max(80)).optional(),
};

/** What does not go with how the reply is read. */
function sayMisfits(
  step: Omit<Question, 'text' | 'field'>,
  context: { addIssue(issue: { code: 'custom'; path: string[]; message: string }): void },
): void {
  const say = (path: string, message: string) => context.addIssue({ code: 'custom', path: [path], message });
  const listed = step.reply === 'one of' || step.reply === 'several of';
  if (listed && !step.options) say('options', `a question whose reply is ${step.reply} needs its options`);
  if (!listed && step.options)
    say('options', 'only a question whose reply is one of or several of has options');
  if (step.reply !== 'several of' && step.none !== undefined)
    say('none', '“none” is an answer only where several of the options can be named');
  if (step.reply !== 'number' && (step.min !== undefined || step.max !== undefined))
    say('min', 'only a number has a min and a max');
  if (step.min !== undefined && step.max !== undefined && step.min > step.max)
    say('max', `max (${step.max}) is below min (${step.min})`);
  if (step.reply !== 'date' && step.days !== undefined) say('days', 'only a date can be ahead or past');
}

/** A further field that the same message may answer; its question is put where it did not. */
const Part = z
  .object({
    text: Text,
    reply: FieldType,
    field: FieldKey,
    options: z
      .array(Option.omit({ to: true }))
      .min(2, 'a question with options needs at least two')
      .max(26)
      .optional(),
    none: z.boolean().optional(),
    ...bounds,
    variants: z
      .record(
        LanguageCode,
        z
          .object({
            ...wordings,
          })
          .strict(),
      )
      .optional(),
  })
  .strict()
  .superRefine((part, context) => sayMisfits(part, context));

/** Asks a question, reads the reply as `reply`, and stores it as a typed value in `field`. */
export const Ask = z
  .object({
    id: LocalId,
    kind: z.literal('ask'),
    text: Text,
    reply: FieldType,
    field: FieldKey,
    /** What can be answered, where the reply is "one of" or "several of". */
    options: z.array(Option).min(2, 'a question with options needs at least two').max(26).optional(),
    /** "None" is an answer where several of the options can be named: an empty list. */
    none: z.boolean().optional(),
    /** Exits for a yes or a no; only where the reply is yes/no. */
    yes: Target.optional(),
    no: Target.optional(),
    ...bounds,
    /** The question may be passed over, to the next step or another. */
    skip: z
      .object({ to: Target.optional(), label: z.string().trim().min(1).max(40).optional() })
      .strict()
      .optional(),
    /**
     * What to do when the field has a value already: ask all the same (left out), confirm it, or skip the
     * question.
     */
    known: z.enum(['ask', 'confirm', 'skip']).optional(),
    /** How a known value is put up for confirmation; has a wording of ours when left out. */
    confirm: z.string().trim().min(1).max(1_000).optional(),
    /** Several messages are read as one answer, once nothing more has come for so long. */
    gather: Duration.optional(),
    /** Further fields that the same message may answer: "2 dogs, Friday at 3". */
    also: z.array(Part).min(1).max(5, 'one message answers at most six fields').optional(),
    /** Asked after several of the options were named, until nothing more is; in our words, where left out. */
    anythingElse: z.object({ text: Text.optional() }).strict().optional(),
    /**
     * Whether what was read is shown back before it is taken: where it is unsure (left out), always or never.
     * `below`: how sure a reading must be to be taken, from 0 to 1. The words may name the answer as
     * `{{ answers.FIELD }}`.
     */
    showBack: z
      .object({
        when: z.enum(['unsure', 'always', 'never']),
        below: z.number().min(0).max(1).optional(),
        text: z.string().trim().min(1).max(1_000).optional(),
      })
      .strict()
      .optional(),
    /** The same in other languages; options by their ids. */
    variants: z
      .record(
        LanguageCode,
        z
          .object({
            ...wordings,
            retry: z.string().min(1).max(4_096).optional(),
            anythingElse: Text.optional(),
            showBack: z.string().trim().min(1).max(1_000).optional(),
          })
          .strict(),
      )
      .optional(),
    ...waitingParts,
  })
  .strict()
  .superRefine((step, context) => {
    const say = (path: string, message: string) =>
      context.addIssue({ code: 'custom', path: [path], message });
    if (step.reply !== 'yes/no' && (step.yes !== undefined || step.no !== undefined))
      say('yes', 'only a yes/no question has exits for yes and no');
    sayMisfits(step, context);
    if (step.confirm !== undefined && step.known !== 'confirm')
      say('confirm', 'a wording for confirming needs “known: confirm”');
    if (step.gather !== undefined && (step.options || step.reply === 'yes/no'))
      say('gather', 'messages are gathered for answers in free words only');
    if (step.anythingElse && step.reply !== 'several of')
      say('anythingElse', '“anything else?” is asked where several of the options can be named');
    if (step.showBack?.below !== undefined && step.showBack.when !== 'unsure')
      say('showBack', '“below” goes with “when: unsure”');
    if (!step.also) return;
    const fields = [step.field, ...step.also.map(({ field }) => field)];
    if (new Set(fields).size < fields.length) say('also', 'each field is asked for once');
    const taken = [step.reply, ...step.also.map(({ reply }) => reply)];
    for (const reply of ['text', 'yes/no', 'file', 'place'] as const)
      if (taken.filter((each) => each === reply).length > 1)
        say('also', `one message cannot answer two questions for ${READERS[reply].words}`);
    if (step.gather !== undefined) say('gather', 'messages are gathered for one answer, and not for several');
    if (step.known === 'confirm')
      say('known', 'what is known is confirmed for one answer, and not for several');
    if (step.anythingElse) say('anythingElse', '“anything else?” belongs to a question for one field');
  });
export type Ask = z.infer<typeof Ask>;
