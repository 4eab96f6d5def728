import { smsParts } from '../channels/gsm';
import type { ChannelKind } from '../channels/channelKind';
import type { Asked } from './finding';
import { textOf, type Passage } from './passage';
import { typeFit } from './questionTypes';
import { meets, shareMet, termsOf, wordsOf } from './terms';

/** A sentence that takes something back of the one before it, or sets its condition. */
const EXCEPTION =
  /^(?:but|except|unless|only|however|after that|afterwards|later|otherwise|outside|not|no|from|until|between|on (?:public )?holidays)\b|\b(?:except|unless|apart from|instead|does not|do not|is not|are not|cannot|may not|must|nothing)\b/i;

/** What of a sentence counts for being the one that answers. */
const COUNTS = { coverage: 0.5, concepts: 0.2, type: 0.25, first: 0.08 };

/** Whether a text may be as long as it is. */
export type Fits = (text: string) => boolean;

/** Characters of one answer where nothing else is asked for. */
export const USUAL_LENGTH = 600;
/** Parts of an SMS; each is paid for. */
const MOST_PARTS = 2;

export const withinLength =
  (most: number): Fits =>
  (text) =>
    text.length <= most;

/** How long an answer may be on a channel: an SMS of two parts, elsewhere {@link USUAL_LENGTH}. */
export const fitsChannel = (channel: ChannelKind): Fits =>
  channel === 'sms' ? (text) => smsParts(text).parts <= MOST_PARTS : withinLength(USUAL_LENGTH);

/** Some of a passage's sentences, by their places, with the exceptions that follow: without them they lie. */
export function withExceptions(sentences: readonly string[], chosen: Iterable<number>): number[] {
  const places = new Set(chosen);
  // What is added is looked at in its turn.
  for (const place of places)
    if (place + 1 < sentences.length && EXCEPTION.test(sentences[place + 1]!)) places.add(place + 1);
  return [...places].sort((one, other) => one - other);
}

/**
 * What of a passage is said where no more than `fits` may be: in its own words and order, all of it where it
 * fits, but for questions that it asks itself; else the sentence that answers, an exception that follows it,
 * and what fits besides. No sentence is cut; null where not even the one that answers fits.
 */
export function saidOf(passage: Passage, asked: Asked, fits: Fits): string | null {
  const sentences = passage.sentences.filter((sentence) => !/\?["”’)]*$/.test(sentence));
  if (sentences.length === 0) return null;
  const said = (places: Iterable<number>) =>
    textOf({ sentences: [...places].sort((one, other) => one - other).map((at) => sentences[at]!) });
  const all = said(sentences.keys());
  if (fits(all)) return all;
  const worth = sentences.map((sentence, at) => {
    const terms = termsOf(wordsOf(sentence));
    const shared = [...asked.terms.concepts].filter((concept) => terms.concepts.has(concept)).length;
    return (
      COUNTS.coverage * shareMet(asked.tells, (stem) => meets(stem, terms)) +
      COUNTS.concepts * (asked.terms.concepts.size === 0 ? 0 : shared / asked.terms.concepts.size) +
      COUNTS.type * (typeFit(asked.text, sentence) ?? 0) +
      (at === 0 ? COUNTS.first : 0)
    );
  });
  const best = worth.indexOf(Math.max(...worth));
  const places = new Set(withExceptions(sentences, [best]));
  if (!fits(said(places))) return null;
  const others = sentences.map((_, at) => at).sort((one, other) => worth[other]! - worth[one]!);
  for (const at of others) if (!places.has(at) && fits(said([...places, at]))) places.add(at);
  return said(places);
}
