import type { HolidayTable } from '../../time/holidayTable';
import type { Plain, Sense } from './senses';
import { tokensOf, type Token } from './tokens';

type Is = Sense['is'];
type Of<K extends Is> = Extract<Sense, { is: K }>;

/** A number at a place of a sentence, and where it goes on behind it. */
export interface NumberAt {
  n: number;
  next: number;
  /** "the 12th", "third". */
  isOrdinal: boolean;
  /** In figures: how many. */
  digits?: number;
}

/** More of them in a row than these are no part of a day or a time. */
const MOST_SKIPPED = 4;

/** Words that link to what follows, so that a number before them counts nothing: "at 10 with two dogs". */
const LINKS = new Set(
  'with for because if then con para porque avec pour parce mit fur weil com per perche'.split(' '),
);

/** What somebody wrote, in tokens, with what the rules ask of it. */
export class Sentence {
  readonly tokens: readonly Token[];

  constructor(written: string, language: string, holidays?: HolidayTable) {
    this.tokens = tokensOf(written, language, holidays);
  }

  get length(): number {
    return this.tokens.length;
  }

  has(at: number, ...kinds: Is[]): boolean {
    return this.tokens[at]?.senses.some(({ is }) => kinds.includes(is)) ?? false;
  }

  sense<K extends Is>(at: number, is: K): Of<K> | undefined {
    return this.tokens[at]?.senses.find((sense): sense is Of<K> => sense.is === is);
  }

  /** Whether a token can be part of a day or a time at all. */
  hasMeaning(at: number): boolean {
    const token = this.tokens[at];
    return token !== undefined && (token.senses.length > 0 || token.figures !== undefined);
  }

  words(at: number): string | undefined {
    return this.tokens[at]?.words;
  }

  /** Over a few small words that carry nothing by themselves. */
  skip(at: number, ...kinds: Plain[]): number {
    let next = at;
    while (next < at + MOST_SKIPPED && this.has(next, ...kinds)) next++;
    return next;
  }

  /** Nothing, a break, or words about days and times: what stands before is not somebody's count. */
  endsAt(at: number): boolean {
    const token = this.tokens[at];
    return token === undefined || token.isBreak === true || token.senses.length > 0 || LINKS.has(token.words);
  }

  numberAt(at: number): NumberAt | null {
    const token = this.tokens[at];
    const number = this.sense(at, 'number');
    const ordinal = this.sense(at, 'ordinal');
    if (!token || (!number && !ordinal)) return null;
    // "Twenty third" is two words and one number.
    const ones = number && number.n >= 20 && number.n % 10 === 0 ? this.sense(at + 1, 'ordinal') : undefined;
    if (ones && ones.n < 10) return { n: number!.n + ones.n, next: at + 2, isOrdinal: true };
    return {
      n: (number ?? ordinal)!.n,
      next: at + 1,
      isOrdinal: number === undefined,
      digits: token.digits,
    };
  }
}
