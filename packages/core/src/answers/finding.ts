import { textOf, type Passage } from './passage';
import { needsOf, speaksOf, type NeedMet } from './needing';
import { typeFit } from './questionTypes';
import { meets, mended, shareMet, termsOf, wordsOf, type Terms } from './terms';

/** A passage with how well it fits a question. */
export interface Found {
  passage: Passage;
  score: number;
  /** What the score is made of, each between 0 and about 1. */
  features: Features;
  /** The question's words that were met in it, or whose meaning was. */
  matched: string[];
}

const FEATURES = ['words', 'coverage', 'heading', 'concepts', 'headingConcepts', 'type', 'need'] as const;
export type Features = Record<(typeof FEATURES)[number], number>;

/** How much each counts. */
const WEIGHTS: Features = {
  words: 3.1,
  coverage: 4.6,
  heading: 2.4,
  concepts: 1.5,
  headingConcepts: 0.8,
  type: 1.8,
  need: 3.3,
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

interface Entry {
  passage: Passage;
  text: string;
  /** Heading and text, folded, between spaces. */
  folded: { heading: string; text: string };
  counts: Map<string, number>;
  length: number;
  heading: Terms;
  whole: Terms;
}

/** What is asked, read. */
export interface Asked {
  /** Folded and mended, slang written out. */
  text: string;
  terms: Terms;
  /** How much each of its words tells, and each of its concepts: the fewer passages have it the more. */
  tells: ReadonlyMap<string, number>;
  means: ReadonlyMap<number, number>;
  /** The needs of everyday that it comes near to. */
  needs: NeedMet[];
  /** The question before, and how much of it is still meant. */
  before?: { asked: Asked; share: number };
}

/** The passages of one client, ready to be searched. */
export class SourceIndex {
  readonly #entries: Entry[];
  readonly #holding = new Map<string, number>();
  readonly #meaning = new Map<number, number>();
  readonly #meanLength: number;
  /** Every word of the sources, as spelling is mended by. */
  readonly #words = new Set<string>();

  constructor(readonly passages: readonly Passage[]) {
    this.#entries = passages.map((passage) => {
      const heading = wordsOf(passage.headings.at(-1) ?? '');
      const above = wordsOf(passage.headings.slice(0, -1).join(' '));
      const body = wordsOf(textOf(passage));
      for (const word of [...heading, ...above, ...body]) this.#words.add(word);
      const counts = new Map<string, number>();
      const count = (words: string[], by: number) => {
        for (const stem of termsOf(words).stems) counts.set(stem, (counts.get(stem) ?? 0) + by);
      };
      count(heading, IN_HEADING);
      count(above, 1);
      count(body, 1);
      return {
        passage,
        text: textOf(passage),
        folded: { heading: ` ${heading.join(' ')} `, text: ` ${body.join(' ')} ` },
        counts,
        length: [...counts.values()].reduce((sum, each) => sum + each, 0),
        heading: termsOf(heading),
        whole: termsOf([...heading, ...above, ...body]),
      };
    });
    for (const { counts, whole } of this.#entries) {
      for (const stem of counts.keys()) this.#holding.set(stem, (this.#holding.get(stem) ?? 0) + 1);
      for (const concept of whole.concepts) this.#meaning.set(concept, (this.#meaning.get(concept) ?? 0) + 1);
    }
    this.#meanLength =
      this.#entries.reduce((sum, { length }) => sum + length, 0) / Math.max(1, this.#entries.length);
  }

  /** Reads a question as the sources would put it. */
  read(question: string): Asked {
    const words = mended(question, this.#words);
    const terms = termsOf(words);
    const telling = (stem: string) => Math.min(MOST_TELLING, this.#idf(this.#holding.get(stem) ?? 0));
    return {
      text: words.join(' '),
      terms,
      tells: new Map([...terms.distinct].map((stem) => [stem, telling(stem)])),
      means: new Map([...terms.concepts].map((each) => [each, this.#idf(this.#meaning.get(each) ?? 0)])),
      needs: needsOf(words),
    };
  }

  /** Whether any passage has the word. */
  has(stem: string): boolean {
    return this.#holding.has(stem);
  }

  /** How far any passage speaks of a need. */
  speaksOf(need: number): number {
    return Math.max(0, ...this.#entries.map(({ folded }) => speaksOf(need, folded)));
  }

  /** All passages, the one that fits best first. */
  find(asked: Asked): Found[] {
    return this.#entries
      .map((entry): Found => {
        const features = this.#featuresOf(asked, entry);
        const { before } = asked;
        const score =
          weigh(features) + (before ? before.share * weigh(this.#featuresOf(before.asked, entry)) : 0);
        const matched = asked.terms.stems.filter((stem) => meets(stem, entry.whole) > 0);
        return { passage: entry.passage, score, features, matched };
      })
      .sort((one, other) => other.score - one.score);
  }

  #idf(holding: number): number {
    const length = Math.max(this.#entries.length, FEWEST);
    return Math.log(1 + (length - holding + 0.5) / (holding + 0.5));
  }

  #featuresOf({ text, terms, tells, means, needs }: Asked, entry: Entry): Features {
    const norm = K1 * (1 - B + (B * entry.length) / this.#meanLength);
    let words = 0;
    for (const stem of terms.distinct) {
      const count = entry.counts.get(stem) ?? 0;
      if (count > 0) words += (this.#idf(this.#holding.get(stem)!) * count * (K1 + 1)) / (count + norm);
    }
    const covered = (of: Terms) => shareMet(tells, (stem) => meets(stem, of));
    const shared = (of: Terms) => shareMet(means, (concept) => Number(of.concepts.has(concept)));
    return {
      words: words / FULL,
      coverage: covered(entry.whole),
      heading: covered(entry.heading),
      concepts: shared(entry.whole),
      headingConcepts: shared(entry.heading),
      type: typeFit(text, entry.text) ?? 0,
      need: Math.max(0, ...needs.map(({ need, likeness }) => likeness * speaksOf(need, entry.folded))),
    };
  }
}

const weigh = (features: Features): number =>
  FEATURES.reduce((sum, name) => sum + WEIGHTS[name] * features[name], 0);

/** A question that goes on from the one before: `share` of what that one said is still meant. */
export const goingOn = (asked: Asked, before: Asked, share: number): Asked =>
  share === 0 ? asked : { ...asked, before: { asked: before, share } };
