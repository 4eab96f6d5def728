import { NEEDS } from './needs';
import { stemOf, wordsOf } from './terms';

/** A need that a question comes near to, and how near: from 0 to 1. */
export interface NeedMet {
  need: number;
  likeness: number;
}

/** Words that ways of asking have in common, whatever they ask for; they count little. */
const WAYS = new Set(
  'can i you do is there it the a an are we my your me to for of in on with at what how when where any have be'.split(
    ' ',
  ),
);
const LITTLE = 0.15;
const weightOf = (word: string): number => (WAYS.has(word) ? LITTLE : 1);
/** Below this a likeness says nothing. */
const LEAST = 0.3;
const MOST_NEEDS = 3;

/** A way of asking: its words without their endings, each with how much it counts. */
export type Wording = ReadonlyMap<string, number>;

export const wordingOf = (words: readonly string[]): Wording =>
  new Map(words.map((word) => [stemOf(word), weightOf(word)]));

const ASKS = NEEDS.map(({ asks }) => asks.map((ask) => wordingOf(wordsOf(ask))));

/** How alike two ways of asking are, from 0 to 1: what both have of all that either has, by its weight. */
export function likenessOf(one: Wording, other: Wording): number {
  let both = 0;
  let all = 0;
  for (const [stem, weight] of one) {
    all += weight;
    if (other.has(stem)) both += weight;
  }
  for (const [stem, weight] of other) if (!one.has(stem)) all += weight;
  return all === 0 ? 0 : both / all;
}

/** The needs of everyday that a question comes near to, the nearest first; its words as a book has them. */
export function needsOf(words: readonly string[]): NeedMet[] {
  const asked = wordingOf(words);
  return ASKS.map((asks, need) => ({
    need,
    likeness: Math.max(...asks.map((ask) => likenessOf(asked, ask))),
  }))
    .filter(({ likeness }) => likeness >= LEAST)
    .sort((one, other) => other.likeness - one.likeness)
    .slice(0, MOST_NEEDS);
}

const CUES = NEEDS.map(({ heading, text }) => ({
  heading: heading.map((cue) => ` ${wordsOf(cue).join(' ')} `),
  text: text.map((cue) => ` ${wordsOf(cue).join(' ')} `),
}));
const IN_TEXT = 0.5;

/** How far a passage speaks of a need: wholly where its heading does, by half where only its text does. */
export function speaksOf(need: number, folded: { heading: string; text: string }): number {
  const { heading, text } = CUES[need]!;
  if (heading.some((cue) => folded.heading.includes(cue))) return 1;
  return text.some((cue) => folded.text.includes(cue)) ? IN_TEXT : 0;
}
