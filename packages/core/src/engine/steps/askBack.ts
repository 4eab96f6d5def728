import { phrases } from '../../language/phrases';
import type { Span } from '../../language/replies/reading';
import { valueWords, type Value } from '../../people/person';
import { dayWords } from '../../time/zones';
import type { Aside, Outcome, Play, StepReading, StepWorld } from './step';

/** A value as it stands in a question of ours: a day with its weekday. */
export const spoken = (value: Value, language: string): string =>
  value.type === 'date' ? dayWords(value.value, language, 'long') : valueWords(value);

/** The values to choose from, short enough for a button. */
export const whichOf = (values: readonly Value[], language: string) =>
  values.map((value, at) => ({
    id: `which-${at + 1}`,
    label: value.type === 'date' ? dayWords(value.value, language, 'short') : valueWords(value),
  }));

export function askBack(
  play: Play,
  text: string,
  choices: { id: string; label: string }[],
  aside: Exclude<Aside, { kind: 'times' }>,
): Outcome {
  play.note({ code: 'asked back', what: aside.kind });
  play.say(text, choices);
  return { kind: 'wait', for: 'reply', aside };
}

/**
 * The question which of two is meant, or which day or time of a span. Null where there is neither, and where
 * just that was asked: who says the same again has not answered.
 */
export function askedWhich(
  { either, span }: { either?: Value[]; span?: Span },
  world: StepWorld,
  asked: Aside | null,
): StepReading | null {
  const { language } = world;
  const words = phrases(language);
  const [one, other] = either ?? [];
  const before = asked?.kind === 'which of' ? asked.values : [];
  if (one && other && one.value === before[0]?.value && other.value === before[1]?.value) return null;
  if (one && other)
    return {
      ok: true,
      summary: 'one of two',
      take: (play) =>
        askBack(
          play,
          words.whichOf(spoken(one, language), spoken(other, language)),
          whichOf([one, other], language),
          { kind: 'which of', values: [one, other] },
        ),
    };
  if (!span || (asked?.kind === 'which in' && asked.span.from === span.from && asked.span.to === span.to))
    return null;
  return {
    ok: true,
    summary: span.type === 'date' ? 'more than one day' : 'more than one time',
    take: (play) => askBack(play, whichIn(span, language), [], { kind: 'which in', span }),
  };
}

function whichIn({ type, from, to }: Span, language: string): string {
  const words = phrases(language)[type === 'date' ? 'whichDay' : 'whichTime'];
  const end = (at: string) => (type === 'date' ? dayWords(at, language, 'of month') : at);
  const begins = from !== null && from !== '00:00' ? from : null;
  const ends = to !== null && to !== '23:59' ? to : null;
  if (begins && ends) return words.between(end(begins), end(ends));
  return begins ? words.from(end(begins)) : words.until(end(ends ?? to ?? ''));
}
