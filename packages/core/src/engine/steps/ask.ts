import { z } from 'zod';
import { isSkipWord } from '../../consent/words';
import {
  Duration,
  FieldKey,
  LocalId,
  NEXT,
  Target,
  waitingExits,
  waitingParts,
  waitingTexts,
} from '../../loops/model/basics';
import { LanguageCode } from '../../people/client';
import { FieldType, valueWords, type Value } from '../../people/person';
import { saysNone } from '../../language/answers';
import { fold } from '../../language/fold';
import { readChoice } from '../../language/choice';
import { phrases } from '../../language/phrases';
import { MOST_READ, READERS } from '../../language/replies';
import { askAnythingElse, readAnythingElse } from './askAnythingElse';
import { leads, store, storeKnown } from './askAnswered';
import { askBack, doubtAbout, settled, showBackOf, whichOf, yesNoChoices } from './askBack';
import { askParts, partsOf, readParts } from './askParts';
import { choicesUnder, questionText, questionsOf, readAnswer, type Question } from './askReading';
import { WAIT, go, type Outcome, type Play, type Reply, type StepKind, type StepWorld } from './step';

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
    min: z.number().optional(),
    max: z.number().optional(),
    days: z.enum(['ahead', 'past', 'any']).optional(),
    variants: z
      .record(
        LanguageCode,
        z
          .object({
            text: Text.optional(),
            options: z.record(LocalId, z.string().trim().min(1).max(80)).optional(),
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
    /** Bounds of a number. */
    min: z.number().optional(),
    max: z.number().optional(),
    /** Which days a date may be: ahead (left out), past, or any. */
    days: z.enum(['ahead', 'past', 'any']).optional(),
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
            text: Text.optional(),
            options: z.record(LocalId, z.string().trim().min(1).max(80)).optional(),
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

function put(step: Ask, play: Play): Outcome {
  if (step.also) return askParts(step, play);
  const { language } = play.world;
  play.say(questionText(step, language), choicesUnder(step, step, play.world));
  return WAIT;
}

/** Stores the answer and leads on. */
function answered(step: Ask, value: Value, play: Play): Outcome {
  store(step, value, play);
  return step.anythingElse ? askAnythingElse(step, value, play) : leads(step, value);
}

export const ask: StepKind<Ask> = {
  enter(step, play) {
    const { language, person } = play.world;
    const known = person.fields[step.field];
    if (known?.type === step.reply && !step.also && step.known === 'skip') {
      storeKnown(step, known, play);
      return leads(step, known);
    }
    if (known?.type === step.reply && step.known === 'confirm') {
      const text = step.confirm ?? phrases(language).stillRight(valueWords(known));
      return askBack(play, {
        field: step.field,
        text,
        ...(step.confirm && { fills: {} }),
        choices: yesNoChoices(language),
        aside: { kind: 'still right', value: known },
      });
    }
    return put(step, play);
  },
  choices(step, world, aside) {
    const about = aside?.kind === 'parts' ? aside.about : aside;
    if (about?.kind === 'which of') return whichOf(about.values, world.language);
    if (aside?.kind === 'anything else') return [];
    return choicesUnder(step, partsOf(step, aside)[0]!, world);
  },
  read(step, reply, world, aside) {
    if (aside?.kind === 'anything else') return readAnythingElse(step, reply, world, aside.values);
    if (aside && aside.kind !== 'parts') {
      const back = settled(reply, world, aside);
      if (back)
        return {
          ok: true,
          summary: back.summary,
          take(play) {
            if (back.value === null) return put(step, play);
            if (!('isKnown' in back && back.isKnown)) return answered(step, back.value, play);
            storeKnown(step, back.value, play);
            return leads(step, back.value);
          },
        };
    }
    if (step.skip && !isNone(step, reply) && isSkip(step, reply, world)) {
      const to = step.skip.to ?? NEXT;
      return {
        ok: true,
        summary: 'passing over the question',
        take(play) {
          play.note({ code: 'skipped' });
          return go(to);
        },
      };
    }
    if (step.also) return readParts(step, reply, world, aside);
    const reading = readAnswer(step, reply, world, {
      within: aside?.kind === 'which in' ? aside.span : undefined,
    });
    // What was tapped is not asked about.
    const showBack = reply.kind === 'choice' ? { when: 'never' as const } : showBackOf(step, world);
    const doubt = doubtAbout(reading, step, world, aside, showBack);
    if (doubt)
      return { ok: true, summary: doubtWords(reading.ok, step), take: (play) => askBack(play, doubt) };
    if (!reading.ok) return reading;
    return {
      ok: true,
      summary: READERS[step.reply].words,
      gathers: step.gather !== undefined && reply.kind === 'text',
      take(play) {
        if (reading.cutFrom) play.note({ code: 'text cut', kept: MOST_READ, of: reading.cutFrom });
        return answered(step, reading.value, play);
      },
    };
  },
  exits: (step) => [
    ...(step.options ?? []).flatMap((option, index) =>
      option.to
        ? [{ kind: 'answer' as const, words: option.label, to: option.to, path: ['options', index, 'to'] }]
        : [],
    ),
    ...(step.yes ? [{ kind: 'answer' as const, words: 'yes', to: step.yes, path: ['yes'] }] : []),
    ...(step.no ? [{ kind: 'answer' as const, words: 'no', to: step.no, path: ['no'] }] : []),
    ...(step.skip?.to
      ? [
          {
            kind: 'skipped' as const,
            words: step.skip.label ?? 'skipped',
            to: step.skip.to,
            path: ['skip', 'to'],
          },
        ]
      : []),
    ...waitingExits(step),
  ],
  fallsTo(step) {
    const open = (step.options ?? [])
      .filter((option) => step.reply !== 'one of' || !option.to)
      .map(({ label }) => label);
    const answers =
      step.reply === 'one of' && !step.also
        ? open
        : step.reply === 'yes/no' && !step.also
          ? [...(step.yes ? [] : ['yes']), ...(step.no ? [] : ['no'])]
          : [
              questionsOf(step)
                .map(({ reply }) => READERS[reply].words)
                .join(' and '),
            ];
    return [
      ...(answers.length > 0
        ? [
            {
              by: 'answer' as const,
              words:
                answers.length > 2 ? `${answers[0]} and ${answers.length - 1} more` : answers.join(' or '),
            },
          ]
        : []),
      ...(step.skip && !step.skip.to
        ? [{ by: 'skipped' as const, words: step.skip.label ?? 'skipped' }]
        : []),
      ...(step.known === 'skip' && answers.length > 0
        ? [{ by: 'known already' as const, words: 'known already' }]
        : []),
    ];
  },
  texts: (step) => [
    step.text,
    step.confirm ?? '',
    step.anythingElse?.text ?? '',
    step.showBack?.text ?? '',
    ...(step.also ?? []).flatMap((part) => [
      part.text,
      ...(part.options ?? []).map(({ label }) => label),
      ...Object.values(part.variants ?? {}).flatMap((each) => [
        each.text ?? '',
        ...Object.values(each.options ?? {}),
      ]),
    ]),
    ...waitingTexts(step),
    ...(step.options ?? []).map((option) => option.label),
    ...Object.values(step.variants ?? {}).flatMap((each) => [
      each.text ?? '',
      each.retry ?? '',
      each.anythingElse ?? '',
      each.showBack ?? '',
      ...Object.values(each.options ?? {}),
    ]),
  ],
  words: (step) => step.text,
};

const doubtWords = (isRead: boolean, { reply }: Question): string =>
  isRead ? READERS[reply].words : `more than one ${reply === 'time' ? 'time' : 'day'}`;

/** "None" passes over a question, but where it is an answer. */
const isNone = ({ none }: Ask, reply: Reply): boolean =>
  none === true && reply.kind === 'text' && saysNone(fold(reply.text));

function isSkip(step: Ask, reply: Reply, world: StepWorld): boolean {
  if (reply.kind === 'choice') return reply.choiceId === 'skip';
  return (
    reply.kind === 'text' &&
    (isSkipWord(reply.text) ||
      readChoice(reply.text, [{ id: 'skip', label: step.skip!.label ?? phrases(world.language).skip }]).ok)
  );
}
