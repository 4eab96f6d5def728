import { allOf, anyOf, type TermQuery } from './termQuery';

/** A range as beginnings of what lies in it: as many as it takes, or, in fewer terms, one less others. */
export interface Range {
  beginnings: string[];
  /**
   * For a row, which has only one term of the kind; an index would have to read the whole of a beginning to
   * leave out others.
   */
  expression: TermQuery;
}

/**
 * The beginnings that cover every text from `low` to `high`, both of the same length and of digits (or 0 to
 * f, where they are 16 long), with the same other signs in the same places; null when there is none between
 * them.
 */
export function rangeOf(low: string, high: string, lexeme: (beginning: string) => TermQuery): Range | null {
  if (low > high) return null;
  const alphabet = low.length === 16 ? '0123456789abcdef' : '0123456789';
  const last = alphabet.at(-1)!;
  const isSign = (at: number) => !alphabet.includes(high[at]!);
  const isWhole = (text: string | null, edge: string, from: number) =>
    text === null || [...text.slice(from)].every((letter, index) => letter === edge || isSign(from + index));

  /** What lies within and what lies outside, of all that begins so. */
  const parted = (begun: string, from: string | null, to: string | null): Parted => {
    const at = begun.length;
    if (at === low.length || (isWhole(from, '0', at) && isWhole(to, last, at)))
      return { beginnings: [begun], within: { terms: 1, words: lexeme(begun) }, outside: NOTHING };
    if (isSign(at)) return parted(begun + high[at]!, from, to);
    const lowest = from?.[at] ?? '0';
    const highest = to?.[at] ?? last;
    const parts = [...alphabet].map((letter): Parted => {
      const next = begun + letter;
      if (letter < lowest || letter > highest)
        return { beginnings: [], within: NOTHING, outside: { terms: 1, words: lexeme(next) } };
      return parted(next, letter === lowest ? from : null, letter === highest ? to : null);
    });
    const within = eitherOf(parts.map((part) => part.within));
    const outside = eitherOf(parts.map((part) => part.outside));
    return {
      beginnings: parts.flatMap((part) => part.beginnings),
      within: shorter(within, without(lexeme(begun), outside)),
      outside: shorter(outside, without(lexeme(begun), within)),
    };
  };
  const { beginnings, within } = parted('', low, high);
  return { beginnings, expression: within.words };
}

interface Said {
  terms: number;
  words: TermQuery;
}
interface Parted {
  beginnings: string[];
  within: Said;
  outside: Said;
}
const NOTHING: Said = { terms: 0, words: { any: [] } };
const shorter = (one: Said, other: Said): Said => (other.terms < one.terms ? other : one);
const without = (all: TermQuery, { terms, words }: Said): Said => ({
  terms: terms + 1,
  words: allOf(all, { not: words }),
});
function eitherOf(parts: Said[]): Said {
  const said = parts.filter(({ terms }) => terms > 0);
  if (said.length < 2) return said[0] ?? NOTHING;
  return {
    terms: said.reduce((sum, { terms }) => sum + terms, 0),
    words: anyOf(...said.map(({ words }) => words)),
  };
}
