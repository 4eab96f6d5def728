import { saysNone } from '../../language/answers';
import { fold } from '../../language/fold';
import { readChoice, readChoices } from '../../language/choice';
import { phrases } from '../../language/phrases';
import { READERS, readReply } from '../../language/replies';
import type { Span } from '../../language/replies/reading';
import type { FieldType, Value } from '../../people/person';
import { readingWorld, type Reply, type StepWorld } from './step';

/** One question of an `ask`, whose answer is stored in one field. */
export interface Question {
  text: string;
  reply: FieldType;
  field: string;
  options?: { id: string; label: string; to?: string }[];
  /** "None" is an answer where several of the options can be named: an empty list. */
  none?: boolean;
  min?: number;
  max?: number;
  days?: 'ahead' | 'past' | 'any';
  variants?: Record<string, { text?: string; options?: Record<string, string> }>;
}

/**
 * What a reply comes to as the answer to a question. `either`, `span`: it could be one of two, or lies in
 * there; `suggestion`: more likely meant.
 */
export type AnswerReading =
  | { ok: true; value: Value; confidence: number; why?: string; suggestion?: Value; cutFrom?: number }
  | { ok: false; reason: string; either?: Value[]; span?: Span };

/** All questions of a step, each with the field that its answer is stored in. */
export const questionsOf = (step: Question & { also?: readonly Question[] }): Question[] => [
  step,
  ...(step.also ?? []),
];

/** The options as they are shown in a language. */
export function optionsFor({ options = [], variants }: Question, language: string) {
  const labels = variants?.[language]?.options;
  return options.map((option) => ({ ...option, label: labels?.[option.id] ?? option.label }));
}

/**
 * How a question is put in a language. Several options cannot be tapped one by one on every channel: they
 * stand in the text with their letters.
 */
export function questionText(question: Question, language: string): string {
  const text = question.variants?.[language]?.text ?? question.text;
  return question.reply === 'several of' ? [text, ...lettered(question, language, [])].join('\n') : text;
}

/** The options with their letters, but for those that are taken: "B Nails". */
export const lettered = (question: Question, language: string, taken: readonly string[]): string[] =>
  optionsFor(question, language).flatMap(({ id, label }, index) =>
    taken.includes(id) ? [] : [`${String.fromCharCode(65 + index)} ${label}`],
  );

/** What can be tapped under a question: its options where one is meant, and the passing over. */
export function choicesUnder(
  { skip }: { skip?: { label?: string } },
  question: Question,
  { language }: StepWorld,
): { id: string; label: string }[] {
  const options = question.reply === 'several of' ? [] : optionsFor(question, language);
  return [...options, ...(skip ? [{ id: 'skip', label: skip.label ?? phrases(language).skip }] : [])];
}

/**
 * Reads a reply as the answer to a question. `within`: the span in which it was asked where; `onlyNamed`: a
 * number by itself is no time of day.
 */
export function readAnswer(
  question: Question,
  reply: Reply,
  world: StepWorld,
  { within, onlyNamed }: { within?: Span; onlyNamed?: boolean } = {},
): AnswerReading {
  const { reply: type, options } = question;
  if (reply.kind === 'file' || reply.kind === 'place') {
    if (type !== reply.kind)
      return { ok: false, reason: `it is a ${reply.kind}, and ${READERS[type].words} is asked for` };
    return {
      ok: true,
      confidence: 1,
      value:
        reply.kind === 'file' ? { type: 'file', value: reply.file } : { type: 'place', value: reply.place },
    };
  }
  if (options && type === 'several of') {
    if (reply.kind === 'choice')
      return { ok: false, reason: 'several of the options are named in words here' };
    if (question.none && saysNone(fold(reply.text)))
      return { ok: true, confidence: 1, value: { type: 'several of', value: [] } };
    const shown = readChoices(reply.text, optionsFor(question, world.language));
    if (!shown.ok) return shown;
    const value = options.filter(({ id }) => shown.ids.includes(id)).map(({ label }) => label);
    return { ok: true, ...surely(shown.confidence), value: { type: 'several of', value } };
  }
  if (options) {
    const shown =
      reply.kind === 'choice'
        ? { ok: true as const, id: reply.choiceId, confidence: 1 }
        : readOption(question, reply.text, world);
    if (!shown.ok) return shown;
    const option = options.find((each) => each.id === shown.id);
    // The value is the label as the loop has it, whatever language it was shown in: values are compared and
    // counted.
    return option
      ? { ok: true, ...surely(shown.confidence), value: { type: 'one of', value: option.label } }
      : { ok: false, reason: 'that option is not there any more' };
  }
  if (reply.kind === 'choice') return { ok: false, reason: 'the question is answered in words here' };
  const reading = readReply(type, reply.text, {
    ...readingWorld(world),
    days: question.days,
    within,
    onlyNamed,
  });
  return reading.ok ? (outOfBounds(question, reading.value) ?? reading) : reading;
}

const surely = (confidence: number) =>
  confidence < 1 ? { confidence, why: 'it is not the label, word for word' } : { confidence };

function outOfBounds({ min, max }: Question, value: Value): AnswerReading | null {
  if (value.type !== 'number') return null;
  if (min !== undefined && value.value < min) return { ok: false, reason: `${value.value} is below ${min}` };
  return max !== undefined && value.value > max
    ? { ok: false, reason: `${value.value} is above ${max}` }
    : null;
}

function readOption(question: Question, text: string, world: StepWorld) {
  const shown = readChoice(text, optionsFor(question, world.language));
  return shown.ok || !question.variants?.[world.language] ? shown : readChoice(text, question.options ?? []);
}
