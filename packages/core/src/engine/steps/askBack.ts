import { readChoice } from '../../language/choice';
import { phrases } from '../../language/phrases';
import { readReply } from '../../language/replies';
import type { Span } from '../../language/replies/reading';
import { valueWords, type Value } from '../../people/person';
import { dayWords } from '../../time/zones';
import type { AnswerReading, Question } from './askReading';
import {
  readingWorld,
  type Aside,
  type AskedBack,
  type Outcome,
  type Play,
  type Reply,
  type StepWorld,
} from './step';

/** When an answer is shown back before it is taken, and in which words; in ours, where they are left out. */
export interface ShowBack {
  when: 'unsure' | 'always' | 'never';
  below?: number;
  text?: string;
}

/** Whether and how a reading is shown back, in the person's language. */
export const showBackOf = (
  { showBack, variants }: { showBack?: ShowBack; variants?: Record<string, { showBack?: string }> },
  { language }: StepWorld,
): ShowBack | undefined => showBack && { ...showBack, text: variants?.[language]?.showBack ?? showBack.text };

/** How sure a reading is that is taken without asking. */
const TAKEN_FROM = 0.6;

/** A value as it stands in a question of ours: a day with its weekday. */
export const spoken = (value: Value, language: string): string =>
  value.type === 'date' ? dayWords(value.value, language, 'long') : valueWords(value);

export const yesNoChoices = (language: string) => [
  { id: 'yes', label: phrases(language).yes },
  { id: 'no', label: phrases(language).no },
];

/** The values to choose from, short enough for a button. */
export const whichOf = (values: readonly Value[], language: string) =>
  values.map((value, at) => ({
    id: `which-${at + 1}`,
    label: value.type === 'date' ? dayWords(value.value, language, 'short') : valueWords(value),
  }));

/** Asks, and waits for the answer; `aside` is what the run remembers of it. */
export function askBack(
  play: Play,
  { text, fills, choices, aside }: AskedBack,
  remembered: Aside = aside,
): Outcome {
  play.note({ code: 'asked back', what: aside.kind });
  play.say(text, choices, fills ? { fills } : { asItIs: true });
  return { kind: 'wait', for: 'reply', aside: remembered };
}

/**
 * What is to be asked about a reading before it is taken; null where it is taken, or cannot be read at all.
 * `asked`: what was asked last: who says the same again has not answered which of two it is.
 */
export function doubtAbout(
  reading: AnswerReading,
  { field }: Question,
  world: StepWorld,
  asked: Aside | null,
  showBack?: ShowBack,
): AskedBack | null {
  const { language } = world;
  const words = phrases(language);
  if (!reading.ok) return whichOne(reading, field, world, asked);
  const { value, suggestion, confidence } = reading;
  const when = showBack?.when ?? 'unsure';
  if (when === 'never') return null;
  const choices = yesNoChoices(language);
  if (suggestion)
    return {
      field,
      text: words.didYouMean(spoken(suggestion, language)),
      choices,
      aside: { kind: 'did you mean', typed: value, suggested: suggestion },
    };
  if (when === 'unsure' && confidence >= (showBack?.below ?? TAKEN_FROM)) return null;
  const shown = spoken(value, language);
  return {
    field,
    ...(showBack?.text
      ? { text: showBack.text, fills: { [field]: { type: 'text' as const, value: shown } } }
      : { text: words.isThatRight(shown) }),
    choices,
    aside: { kind: 'is that right', value },
  };
}

/** The question which of two is meant, or which day or time of a span. */
function whichOne(
  { either, span }: { either?: Value[]; span?: Span },
  field: string,
  { language }: StepWorld,
  asked: Aside | null,
): AskedBack | null {
  const words = phrases(language);
  const [one, other] = either ?? [];
  const before = asked?.kind === 'which of' ? asked.values : [];
  if (one && other && one.value === before[0]?.value && other.value === before[1]?.value) return null;
  if (one && other)
    return {
      field,
      text: words.whichOf(spoken(one, language), spoken(other, language)),
      choices: whichOf([one, other], language),
      aside: { kind: 'which of', values: [one, other] },
    };
  if (!span || (asked?.kind === 'which in' && asked.span.from === span.from && asked.span.to === span.to))
    return null;
  return { field, text: whichIn(span, language), choices: [], aside: { kind: 'which in', span } };
}

function whichIn({ type, from, to }: Span, language: string): string {
  const words = phrases(language)[type === 'date' ? 'whichDay' : 'whichTime'];
  const end = (at: string) => (type === 'date' ? dayWords(at, language, 'of month') : at);
  const begins = from !== null && from !== '00:00' ? from : null;
  const ends = to !== null && to !== '23:59' ? to : null;
  if (begins && ends) return words.between(end(begins), end(ends));
  return begins ? words.from(end(begins)) : words.until(end(ends ?? to ?? ''));
}

/**
 * What the answer to a question of ours comes to: the value that is meant, or that the question is to be put
 * again. Null: it is read as an answer to the question itself.
 */
export function settled(
  reply: Reply,
  world: StepWorld,
  aside: Aside,
): { summary: string; value: Value; isKnown?: boolean } | { summary: string; value: null } | null {
  if (aside.kind === 'which of') {
    const value = aside.values[placeOf(reply, whichOf(aside.values, world.language))];
    return value ? { summary: 'which of them', value } : null;
  }
  if (aside.kind !== 'did you mean' && aside.kind !== 'is that right' && aside.kind !== 'still right')
    return null;
  const said = yesOrNo(reply, world);
  if (said === null) return null;
  const summary = said ? 'a yes' : 'a no';
  if (aside.kind === 'did you mean') return { summary, value: said ? aside.suggested : aside.typed };
  if (!said) return { summary, value: null };
  return { summary, value: aside.value, isKnown: aside.kind === 'still right' };
}

/** Which of the choices a reply names, by its place from 0; -1 for none. */
function placeOf(reply: Reply, shown: { id: string; label: string }[]): number {
  if (reply.kind === 'choice') return shown.findIndex(({ id }) => id === reply.choiceId);
  const read = reply.kind === 'text' ? readChoice(reply.text, shown) : null;
  return read?.ok ? shown.findIndex(({ id }) => id === read.id) : -1;
}

/** A yes or a no, tapped or in words; null for neither. */
export function yesOrNo(reply: Reply, world: StepWorld): boolean | null {
  const at = placeOf(reply, yesNoChoices(world.language));
  if (at >= 0) return at === 0;
  if (reply.kind !== 'text') return null;
  const reading = readReply('yes/no', reply.text, readingWorld(world));
  return reading.ok && reading.value.type === 'yes/no' ? reading.value.value : null;
}
