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
import { readChoice, readChoices } from '../../language/choice';
import { phrases } from '../../language/phrases';
import { MOST_READ, READERS, readReply } from '../../language/replies';
import type { Span } from '../../language/replies/reading';
import { askBack, askedWhich, spoken, whichOf } from './askBack';
import {
  WAIT,
  go,
  readingWorld,
  type Aside,
  type Outcome,
  type Play,
  type Reply,
  type StepKind,
  type StepReading,
  type StepWorld,
} from './step';

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
    /** The same in other languages; options by their ids. */
    variants: z
      .record(
        LanguageCode,
        z
          .object({
            text: Text.optional(),
            options: z.record(LocalId, z.string().trim().min(1).max(80)).optional(),
            retry: z.string().min(1).max(4_096).optional(),
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
    const listed = step.reply === 'one of' || step.reply === 'several of';
    if (listed && !step.options) say('options', `a question whose reply is ${step.reply} needs its options`);
    if (!listed && step.options)
      say('options', 'only a question whose reply is one of or several of has options');
    if (step.reply !== 'number' && (step.min !== undefined || step.max !== undefined))
      say('min', 'only a number has a min and a max');
    if (step.min !== undefined && step.max !== undefined && step.min > step.max)
      say('max', `max (${step.max}) is below min (${step.min})`);
    if (step.reply !== 'date' && step.days !== undefined) say('days', 'only a date can be ahead or past');
    if (step.confirm !== undefined && step.known !== 'confirm')
      say('confirm', 'a wording for confirming needs “known: confirm”');
    if (step.gather !== undefined && (listed || step.reply === 'yes/no'))
      say('gather', 'messages are gathered for answers in free words only');
  });
export type Ask = z.infer<typeof Ask>;

function optionsFor(step: Ask, language: string): Option[] {
  const labels = step.variants?.[language]?.options;
  return (step.options ?? []).map((option) => ({ ...option, label: labels?.[option.id] ?? option.label }));
}

function choicesOf(step: Ask, world: StepWorld): { id: string; label: string }[] {
  const options = step.reply === 'several of' ? [] : optionsFor(step, world.language);
  const skip = step.skip ? [{ id: 'skip', label: step.skip.label ?? phrases(world.language).skip }] : [];
  return [...options, ...skip];
}

/**
 * Several options cannot be tapped one by one on every channel: they stand in the text with their letters.
 */
function questionOf(step: Ask, language: string): string {
  const text = step.variants?.[language]?.text ?? step.text;
  if (step.reply !== 'several of') return text;
  return [
    text,
    ...optionsFor(step, language).map(
      (option, index) => `${String.fromCharCode(65 + index)} ${option.label}`,
    ),
  ].join('\n');
}

const yesNoChoices = (language: string) => [
  { id: 'yes', label: phrases(language).yes },
  { id: 'no', label: phrases(language).no },
];

/** Stores the answer and leads on. */
function answered(step: Ask, value: Value, play: Play): Outcome {
  play.note({ code: 'reply read', type: value.type, field: step.field, value });
  play.setField(step.field, value);
  play.answer(step.field, value);
  return leads(step, value);
}

function leads(step: Ask, value: Value): Outcome {
  if (value.type === 'yes/no') return go((value.value ? step.yes : step.no) ?? NEXT);
  if (value.type === 'one of')
    return go(step.options?.find((option) => option.label === value.value)?.to ?? NEXT);
  return go(NEXT);
}

export const ask: StepKind<Ask> = {
  enter(step, play) {
    const { language, person } = play.world;
    const known = person.fields[step.field];
    if (known && known.type === step.reply && step.known === 'skip') {
      play.note({ code: 'known already', field: step.field, value: known });
      play.answer(step.field, known);
      return leads(step, known);
    }
    if (known && known.type === step.reply && step.known === 'confirm') {
      play.note({ code: 'asked back', what: 'still right' });
      play.say(step.confirm ?? phrases(language).stillRight(valueWords(known)), yesNoChoices(language));
      return { kind: 'wait', for: 'reply', aside: { kind: 'still right', value: known } };
    }
    play.say(questionOf(step, language), choicesOf(step, play.world));
    return WAIT;
  },
  choices: (step, world, aside) =>
    aside?.kind === 'which of' ? whichOf(aside.values, world.language) : choicesOf(step, world),
  read(step, reply, world, aside) {
    const back = aside && readAside(step, reply, world, aside);
    if (back) return back;
    if (
      step.skip &&
      (reply.kind === 'choice'
        ? reply.choiceId === 'skip'
        : reply.kind === 'text' && isSkip(step, reply.text, world))
    ) {
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
    const span = aside?.kind === 'which in' ? aside.span : undefined;
    const reading = valueOf(step, reply, world, span);
    if (!reading.ok) return askedWhich(reading, world, aside ?? null) ?? reading;
    const { value, suggestion } = reading;
    return {
      ok: true,
      summary: READERS[step.reply].words,
      gathers: step.gather !== undefined && reply.kind === 'text',
      take(play) {
        if (reading.cutFrom) play.note({ code: 'text cut', kept: MOST_READ, of: reading.cutFrom });
        const words = phrases(world.language);
        if (suggestion)
          return askBack(
            play,
            words.didYouMean(spoken(suggestion, world.language)),
            yesNoChoices(world.language),
            { kind: 'did you mean', typed: value, suggested: suggestion },
          );
        if (reading.confidence < TAKEN_FROM)
          return askBack(
            play,
            words.isThatRight(spoken(value, world.language)),
            yesNoChoices(world.language),
            {
              kind: 'is that right',
              value,
            },
          );
        return answered(step, value, play);
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
      step.reply === 'one of'
        ? open
        : step.reply === 'yes/no'
          ? [...(step.yes ? [] : ['yes']), ...(step.no ? [] : ['no'])]
          : [READERS[step.reply].words];
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
    ...waitingTexts(step),
    ...(step.options ?? []).map((option) => option.label),
    ...Object.values(step.variants ?? {}).flatMap((each) => [
      each.text ?? '',
      each.retry ?? '',
      ...Object.values(each.options ?? {}),
    ]),
  ],
  words: (step) => step.text,
};

function isSkip(step: Ask, text: string, world: StepWorld): boolean {
  return (
    isSkipWord(text) ||
    readChoice(text, [{ id: 'skip', label: step.skip!.label ?? phrases(world.language).skip }]).ok
  );
}

/** How sure a reading is that is taken without asking. */
const TAKEN_FROM = 0.6;

type AskReading =
  | { ok: true; value: Value; confidence: number; suggestion?: Value; cutFrom?: number }
  | { ok: false; reason: string; either?: Value[]; span?: Span };

function valueOf(step: Ask, reply: Reply, world: StepWorld, within?: Span): AskReading {
  if (reply.kind === 'file' || reply.kind === 'place') {
    if (step.reply !== reply.kind)
      return { ok: false, reason: `it is a ${reply.kind}, and ${READERS[step.reply].words} is asked for` };
    return {
      ok: true,
      confidence: 1,
      value:
        reply.kind === 'file' ? { type: 'file', value: reply.file } : { type: 'place', value: reply.place },
    };
  }
  if (step.options && step.reply === 'several of') {
    if (reply.kind === 'choice')
      return { ok: false, reason: 'several of the options are named in words here' };
    const shown = readChoices(reply.text, optionsFor(step, world.language));
    if (!shown.ok) return shown;
    return {
      ok: true,
      confidence: 1,
      value: {
        type: 'several of',
        value: step.options.filter((option) => shown.ids.includes(option.id)).map((option) => option.label),
      },
    };
  }
  if (step.options) {
    const shown =
      reply.kind === 'choice'
        ? { ok: true as const, id: reply.choiceId }
        : readOption(step, reply.text, world);
    if (!shown.ok) return shown;
    const option = step.options.find((each) => each.id === shown.id);
    // The value is the label as the loop has it, whatever language it was shown in: values are compared and
    // counted.
    return option
      ? { ok: true, confidence: 1, value: { type: 'one of', value: option.label } }
      : { ok: false, reason: 'that option is not there any more' };
  }
  if (reply.kind === 'choice') return { ok: false, reason: 'the question is answered in words here' };
  const reading = readReply(step.reply, reply.text, { ...readingWorld(world), days: step.days, within });
  if (!reading.ok) return reading;
  if (reading.value.type === 'number') {
    if (step.min !== undefined && reading.value.value < step.min)
      return { ok: false, reason: `${reading.value.value} is below ${step.min}` };
    if (step.max !== undefined && reading.value.value > step.max)
      return { ok: false, reason: `${reading.value.value} is above ${step.max}` };
  }
  return reading;
}

function readOption(step: Ask, text: string, world: StepWorld) {
  const shown = readChoice(text, optionsFor(step, world.language));
  return shown.ok || !step.variants?.[world.language] ? shown : readChoice(text, step.options ?? []);
}

/**
 * The answer to a question of ours about the answer: yes, no, or the right value straight away. Null: it is
 * read as an answer to the question itself.
 */
function readAside(step: Ask, reply: Reply, world: StepWorld, aside: Aside): StepReading | null {
  if (aside.kind === 'times' || aside.kind === 'which in') return null;
  if (aside.kind === 'which of') {
    const shown = whichOf(aside.values, world.language);
    const read =
      reply.kind === 'choice'
        ? shown.findIndex(({ id }) => id === reply.choiceId)
        : reply.kind === 'text'
          ? placeOf(reply.text, shown)
          : -1;
    const value = aside.values[read];
    return value
      ? { ok: true, summary: READERS[step.reply].words, take: (play) => answered(step, value, play) }
      : null;
  }
  const said =
    reply.kind === 'choice'
      ? reply.choiceId === 'yes' || reply.choiceId === 'no'
        ? reply.choiceId === 'yes'
        : null
      : reply.kind === 'text'
        ? yesOrNo(reply.text, world)
        : null;
  if (said === null) return null;
  return {
    ok: true,
    summary: said ? 'a yes' : 'a no',
    take(play) {
      if (aside.kind === 'did you mean') return answered(step, said ? aside.suggested : aside.typed, play);
      if (said && aside.kind === 'is that right') return answered(step, aside.value, play);
      if (said && aside.kind === 'still right') {
        play.note({ code: 'known already', field: step.field, value: aside.value });
        play.answer(step.field, aside.value);
        return leads(step, aside.value);
      }
      play.say(questionOf(step, world.language), choicesOf(step, world));
      return WAIT;
    },
  };
}

/** Which of the choices a text names, by its place from 0; -1 for none. */
function placeOf(text: string, shown: { id: string; label: string }[]): number {
  const read = readChoice(text, shown);
  return read.ok ? shown.findIndex(({ id }) => id === read.id) : -1;
}

function yesOrNo(text: string, world: StepWorld): boolean | null {
  const byLetter = readChoice(text, yesNoChoices(world.language));
  if (byLetter.ok) return byLetter.id === 'yes';
  const reading = readReply('yes/no', text, readingWorld(world));
  return reading.ok && reading.value.type === 'yes/no' ? reading.value.value : null;
}
