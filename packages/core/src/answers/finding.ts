import { areOf, nearnessOf, nearWhole, type Encoder } from './encoder/meaning';
import { textOf, type Passage } from './passage';
import { likenessOf, needsOf, speaksOf, wordingOf, type NeedMet, type Wording } from './needing';
import { NEEDS } from './needs';
import { typeFit } from './questionTypes';
import { meets, mended, shareMet, stemOf, termsOf, wordsOf, type Terms } from './terms';

/** A passage with how well it fits a question. */
export interface Found {
  passage: Passage;
  score: number;
  /** What the score is made of, each between 0 and about 1. */
  features: Features;
  /** The question's words that were met in it, or whose meaning was, without their endings. */
  matched: string[];
  /** The same words as they were asked. */
  words: string[];
}

/** What was found: the passages that fit best, the best first. */
export interface Finding {
  found: Found[];
  /** How far the first stands before all others: 1 alone, near 0 among many. */
  ahead: number;
}

const FEATURES = [
  'words',
  'coverage',
  'heading',
  'concepts',
  'headingConcepts',
  'type',
  'need',
  'wording',
  'nearHeading',
  'nearWhole',
  'nearSentence',
] as const;
export type Features = Record<(typeof FEATURES)[number], number>;

/** How much each counts where passages are compared by their words alone. */
const BY_WORDS: Features = {
  words: 3.1,
  coverage: 4.6,
  heading: 2.4,
  concepts: 1.5,
  headingConcepts: 0.8,
  type: 1.8,
  need: 3.3,
  wording: 5,
  nearHeading: 0,
  nearWhole: 0,
  nearSentence: 0,
};

/** And where by their meaning as well: fitted on the eight businesses of the tests, none below 0. */
const BY_MEANING: Features = {
  words: 2.1,
  coverage: 2.9,
  heading: 1.2,
  concepts: 1,
  headingConcepts: 1.1,
  type: 0.7,
  need: 3.4,
  wording: 5,
  nearHeading: 1.9,
  nearWhole: 3.4,
  nearSentence: 3.8,
};

/** BM25 as it is mostly set; a score of 8 counts as one. */
const K1 = 1.2;
const B = 0.75;
const FULL = 8;
/** With fewer passages than this a word tells as much as among so many: chance is all that is less. */
const FEWEST = 25;
/** A word of a heading counts as so many in the text. */
const IN_HEADING = 3;
/** How much a word can tell at most; what no passage has tells most. */
const MOST_TELLING = 3.2;
/** Of more passages than this those are looked at in full that share most with the question. */
const MOST_IN_FULL = 300;
/** And as many of those that are nearest in meaning. */
const MOST_NEAREST = 100;
/** What is given of what was found. */
const MOST_FOUND = 8;

interface Entry {
  passage: Passage;
  text: string;
  counts: Map<string, number>;
  length: number;
  heading: Terms;
  whole: Terms;
  wordings: Wording[];
  /** How far it speaks of each need that it speaks of. */
  needs: Map<number, number>;
  words: string[];
  /** What it means, where that is known. */
  meaning: Int8Array | null;
}

/** What is asked, read. */
export interface Asked {
  /** Folded and mended, slang written out. */
  text: string;
  terms: Terms;
  /** Its words by what is left of them without their endings. */
  spelled: ReadonlyMap<string, string>;
  wording: Wording;
  /** How much each of its words tells, and each of its concepts: the fewer passages have it the more. */
  tells: ReadonlyMap<string, number>;
  means: ReadonlyMap<number, number>;
  /** The needs of everyday that it comes near to. */
  needs: NeedMet[];
  /** What it means, where the sources are compared by that. */
  vector: Float32Array | null;
  /** The question before, and how much of it is still meant. */
  before?: { asked: Asked; share: number };
}

function entryOf(passage: Passage): Entry {
  const heading = wordsOf(passage.headings.at(-1) ?? '');
  const above = wordsOf(passage.headings.slice(0, -1).join(' '));
  const text = textOf(passage);
  const body = wordsOf(text);
  const asked = (passage.wordings ?? []).map(wordsOf);
  const counts = new Map<string, number>();
  const count = (words: readonly string[], by: number) => {
    for (const stem of termsOf(words).stems) counts.set(stem, (counts.get(stem) ?? 0) + by);
  };
  count(heading, IN_HEADING);
  count(above, 1);
  count(body, 1);
  for (const words of asked) count(words, 1);
  const words = [...heading, ...above, ...body, ...asked.flat()];
  const folded = { heading: ` ${heading.join(' ')} `, text: ` ${body.join(' ')} ` };
  return {
    passage,
    text,
    counts,
    length: [...counts.values()].reduce((sum, each) => sum + each, 0),
    heading: termsOf(heading),
    whole: termsOf(words),
    wordings: asked.map(wordingOf),
    needs: new Map(
      NEEDS.map((_, need) => [need, speaksOf(need, folded)] as const).filter(([, far]) => far > 0),
    ),
    words,
    meaning: null,
  };
}

/** Which passages have something, by their places. */
class Postings<K> {
  readonly #places = new Map<K, number[]>();
  add(key: K, place: number): void {
    const places = this.#places.get(key);
    if (places) places.push(place);
    else this.#places.set(key, [place]);
  }
  of(key: K): readonly number[] {
    return this.#places.get(key) ?? [];
  }
}

/** The passages of one client, ready to be searched. */
export class SourceIndex {
  readonly #entries: Entry[];
  readonly #holding = new Postings<string>();
  readonly #meaning = new Postings<number>();
  /** How far any passage speaks of each need. */
  readonly #speaking: number[] = NEEDS.map(() => 0);
  readonly #meanLength: number;
  /** Every word of the sources, as spelling is mended by. */
  readonly #words = new Set<string>();

  /** Where each passage has its meaning, questions are compared by it. */
  #encoder: Encoder | null = null;

  /** `before`: an index of mostly the same passages, whose work is taken over where they have not changed. */
  constructor(
    readonly passages: readonly Passage[],
    before?: SourceIndex,
  ) {
    const known = new Map((before ? before.#entries : []).map((entry) => [keyOf(entry.passage), entry]));
    this.#entries = passages.map((passage) => {
      const entry = known.get(keyOf(passage));
      return entry ? { ...entry, passage } : entryOf(passage);
    });
    for (const [place, { counts, whole, words, needs }] of this.#entries.entries()) {
      for (const word of words) this.#words.add(word);
      for (const stem of counts.keys()) this.#holding.add(stem, place);
      for (const concept of whole.concepts) this.#meaning.add(concept, place);
      for (const [need, far] of needs) this.#speaking[need] = Math.max(this.#speaking[need]!, far);
    }
    this.#meanLength =
      this.#entries.reduce((sum, { length }) => sum + length, 0) / Math.max(1, this.#entries.length);
  }

  /** The places of passages whose meaning is not known yet. */
  unencoded(): number[] {
    return [...this.#entries.keys()].filter((place) => this.#entries[place]!.meaning === null);
  }

  /**
   * Tells it what passages mean, by their places. From when it knows it of all, they are compared by that as
   * well, and `encoder` says what a question means. What does not belong to its passage is left aside.
   */
  learn(encoder: Encoder, meanings: Iterable<readonly [place: number, meaning: Int8Array]>): void {
    for (const [place, meaning] of meanings) {
      const entry = this.#entries[place];
      if (entry && areOf(entry.passage, meaning)) entry.meaning = meaning;
    }
    this.#encoder = this.unencoded().length === 0 ? encoder : null;
  }

  /** Whether questions are compared with the passages by what they mean. */
  get knowsMeaning(): boolean {
    return this.#encoder !== null;
  }

  /** Reads a question as the sources would put it. */
  read(question: string): Asked {
    const words = mended(question, this.#words);
    const terms = termsOf(words);
    const telling = (stem: string) => Math.min(MOST_TELLING, this.#idf(this.#holding.of(stem).length));
    return {
      text: words.join(' '),
      terms,
      spelled: new Map(words.map((word) => [stemOf(word), word])),
      wording: wordingOf(words),
      tells: new Map([...terms.distinct].map((stem) => [stem, telling(stem)])),
      means: new Map([...terms.concepts].map((each) => [each, this.#idf(this.#meaning.of(each).length)])),
      needs: needsOf(words),
      vector: this.#encoder?.encode([words.join(' ')])[0] ?? null,
    };
  }

  /** Whether any passage has the word. */
  has(stem: string): boolean {
    return this.#holding.of(stem).length > 0;
  }

  /** How far any passage speaks of a need. */
  speaksOf(need: number): number {
    return this.#speaking[need] ?? 0;
  }

  /** The passages that fit best, the one that fits best first. */
  find(asked: Asked): Finding {
    const scored = this.#candidates(asked)
      .map((entry) => {
        const features = this.#featuresOf(asked, entry);
        const { before } = asked;
        const also = before ? before.share * this.#weigh(this.#featuresOf(before.asked, entry)) : 0;
        return { entry, features, score: this.#weigh(features) + also };
      })
      .sort((one, other) => other.score - one.score);
    const best = scored[0]?.score ?? 0;
    return {
      found: scored.slice(0, MOST_FOUND).map(({ entry, features, score }) => {
        const matched = asked.terms.stems.filter((stem) => meets(stem, entry.whole) > 0);
        const words = [...new Set(matched)].map((stem) => asked.spelled.get(stem)!);
        return { passage: entry.passage, score, features, matched, words };
      }),
      ahead: scored.length === 0 ? 0 : 1 / scored.reduce((sum, { score }) => sum + Math.exp(score - best), 0),
    };
  }

  /** All, where they are few; else those that share most with the question and the one before it. */
  #candidates(asked: Asked): readonly Entry[] {
    if (this.#entries.length <= MOST_IN_FULL) return this.#entries;
    const shared = new Map<number, number>();
    const add = (places: readonly number[], worth: number) => {
      for (const place of places) shared.set(place, (shared.get(place) ?? 0) + worth);
    };
    for (const each of [asked, ...(asked.before ? [asked.before.asked] : [])]) {
      for (const [stem, tells] of each.tells) add(this.#holding.of(stem), 2 * tells);
      for (const [concept, tells] of each.means) add(this.#meaning.of(concept), tells);
    }
    const first = [...shared]
      .sort((one, other) => other[1] - one[1] || one[0] - other[0])
      .slice(0, MOST_IN_FULL)
      .map(([place]) => place);
    const places = new Set([...first, ...this.#nearest(asked)]);
    return [...places].map((place) => this.#entries[place]!);
  }

  /** The places of the passages that are nearest in meaning. */
  #nearest({ vector }: Asked): number[] {
    if (!vector) return [];
    const near = Float32Array.from(this.#entries, ({ meaning }) =>
      meaning ? nearWhole(vector, meaning) : 0,
    );
    const least = near.slice().sort().at(-MOST_NEAREST) ?? 0;
    return [...near.keys()]
      .filter((place) => near[place]! >= least)
      .sort((one, other) => near[other]! - near[one]!)
      .slice(0, MOST_NEAREST);
  }

  #weigh(features: Features): number {
    const weights = this.#encoder ? BY_MEANING : BY_WORDS;
    return FEATURES.reduce((sum, name) => sum + weights[name] * features[name], 0);
  }

  #idf(holding: number): number {
    const length = Math.max(this.#entries.length, FEWEST);
    return Math.log(1 + (length - holding + 0.5) / (holding + 0.5));
  }

  #featuresOf({ text, terms, wording, tells, means, needs, vector }: Asked, entry: Entry): Features {
    const norm = K1 * (1 - B + (B * entry.length) / this.#meanLength);
    let words = 0;
    for (const stem of terms.distinct) {
      const count = entry.counts.get(stem) ?? 0;
      if (count > 0) words += (this.#idf(this.#holding.of(stem).length) * count * (K1 + 1)) / (count + norm);
    }
    const covered = (of: Terms) => shareMet(tells, (stem) => meets(stem, of));
    const shared = (of: Terms) => shareMet(means, (concept) => Number(of.concepts.has(concept)));
    const near = vector && entry.meaning ? nearnessOf(vector, entry.passage, entry.meaning) : null;
    return {
      words: words / FULL,
      coverage: covered(entry.whole),
      heading: covered(entry.heading),
      concepts: shared(entry.whole),
      headingConcepts: shared(entry.heading),
      type: typeFit(text, entry.text) ?? 0,
      need: Math.max(0, ...needs.map(({ need, likeness }) => likeness * (entry.needs.get(need) ?? 0))),
      wording: Math.max(0, ...entry.wordings.map((each) => likenessOf(wording, each))),
      nearHeading: near?.heading ?? 0,
      nearWhole: near?.whole ?? 0,
      nearSentence: near?.sentence ?? 0,
    };
  }
}

/** What of a passage an entry is made of. */
const keyOf = ({ headings, sentences, wordings = [] }: Passage): string =>
  JSON.stringify([headings, sentences, wordings]);

/** A question that goes on from the one before: `share` of what that one said is still meant. */
export const goingOn = (asked: Asked, before: Asked, share: number): Asked =>
  share === 0 ? asked : { ...asked, before: { asked: before, share } };
