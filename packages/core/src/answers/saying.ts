import type { Asked } from './finding';
import { textOf, type Passage } from './passage';
import { typeFit } from './questionTypes';
import { meets, shareMet, termsOf, wordsOf } from './terms';

/** A sentence that takes something back of the one before it, or sets its condition. */
const EXCEPTION =
  /^(?:but|except|unless|only|however|after that|afterwards|later|otherwise|outside|not|no|from|until|between|on (?:public )?holidays)\b|\b(?:except|unless|apart from|instead|does not|do not|is not|are not|cannot|may not|must|nothing)\b/i;

/** What of a sentence counts for being the one that answers. */
const COUNTS = { coverage: 0.5, concepts: 0.2, type: 0.25, first: 0.08 };

/**
 * What of a passage is said in at most `most` characters, in its own words and order: all of it where it
 * fits, but for questions that it asks itself; else the sentence that answers, an exception that follows it,
 * and what fits besides. No sentence is cut; null where not even the one that answers fits.
 */
export function saidOf(passage: Passage, asked: Asked, most: number): string | null {
  const sentences = passage.sentences.filter((sentence) => !/\?["”’)]*$/.test(sentence));
  if (sentences.length === 0) return null;
  const whole = textOf({ ...passage, sentences });
  if (whole.length <= most) return whole;
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
  const said = new Set([best]);
  const lengthWith = (at: number) =>
    [...said, at].reduce((sum, each) => sum + sentences[each]!.length + 1, 0) - 1;
  if (sentences[best]!.length > most) return null;
  // Without its exception it would not be true.
  for (let next = best + 1; next < sentences.length && EXCEPTION.test(sentences[next]!); next++) {
    if (lengthWith(next) > most) return null;
    said.add(next);
  }
  const others = sentences.map((_, at) => at).sort((one, other) => worth[other]! - worth[one]!);
  for (const at of others) if (!said.has(at) && lengthWith(at) <= most) said.add(at);
  return [...said]
    .sort((one, other) => one - other)
    .map((at) => sentences[at])
    .join(' ');
}
