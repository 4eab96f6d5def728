import { fold } from '../language/fold';
import { likenessOf, needsOf, wordingOf, type Wording } from './needing';
import { mended, termsOf } from './terms';

/** A question that somebody asked. */
export interface AskedQuestion {
  id: string;
  question: string;
  /** When, in ms since 1970. */
  at: number;
}

/** Questions that ask for the same thing. */
export interface AlikeQuestions {
  /** As it was asked last. */
  question: string;
  /** All ways of asking it, each once, the newest first. */
  wordings: string[];
  ids: string[];
  count: number;
  lastAt: number;
}

/** From here on two questions ask for the same. */
const ALIKE = 0.4;
/** Of a group so many are compared with. */
const MOST_COMPARED = 5;
/** Two that come so near to the same everyday need ask for the same, however they put it. */
const SAME_NEED = 0.6;

/** Questions are compared as they are spelled. */
const NO_SPELLING: ReadonlySet<string> = new Set();

interface Read {
  wording: Wording;
  concepts: ReadonlySet<number>;
  need: number | null;
}

/** Questions that are read already: those that are open are grouped again and again. */
const reads = new Map<string, Read>();
const MOST_REMEMBERED = 5_000;

function readOf(question: string): Read {
  const known = reads.get(question);
  if (known) return known;
  if (reads.size >= MOST_REMEMBERED) reads.clear();
  const read = readAnew(question);
  reads.set(question, read);
  return read;
}

function readAnew(question: string): Read {
  const words = mended(question, NO_SPELLING);
  const [near] = needsOf(words);
  return {
    wording: wordingOf(words),
    concepts: termsOf(words).concepts,
    need: near && near.likeness >= SAME_NEED ? near.need : null,
  };
}

/** How alike two questions are, from 0 to 1: by their words, and by what these mean, where both do. */
function alike(one: Read, other: Read): number {
  if (one.need !== null && one.need === other.need) return 1;
  const words = likenessOf(one.wording, other.wording);
  if (one.concepts.size === 0 || other.concepts.size === 0) return words;
  const both = [...one.concepts].filter((concept) => other.concepts.has(concept)).length;
  return (words + both / (one.concepts.size + other.concepts.size - both)) / 2;
}

/**
 * Groups questions by what they ask for; most asked first, of those the newest. Each joins the group that
 * has the question it is most like. Takes about as long as there are questions times groups.
 */
export function groupAlike(questions: readonly AskedQuestion[]): AlikeQuestions[] {
  const groups: { reads: Read[]; all: AskedQuestion[] }[] = [];
  for (const asked of [...questions].sort((one, other) => other.at - one.at)) {
    const read = readOf(asked.question);
    let best: { group: (typeof groups)[number]; near: number } | null = null;
    for (const group of groups) {
      const near = Math.max(...group.reads.map((each) => alike(read, each)));
      if (near >= ALIKE && near > (best?.near ?? 0)) best = { group, near };
    }
    if (!best) groups.push({ reads: [read], all: [asked] });
    else {
      best.group.all.push(asked);
      if (best.group.reads.length < MOST_COMPARED) best.group.reads.push(read);
    }
  }
  return groups
    .map(({ all }) => ({
      question: all[0]!.question,
      wordings: distinct(all.map(({ question }) => question)),
      ids: all.map(({ id }) => id),
      count: all.length,
      lastAt: all[0]!.at,
    }))
    .sort((one, other) => other.count - one.count || other.lastAt - one.lastAt);
}

/** Each once, whatever its letters' size and its signs. */
function distinct(questions: readonly string[]): string[] {
  const seen = new Map<string, string>();
  for (const question of questions) {
    const key = fold(question);
    if (!seen.has(key)) seen.set(key, question);
  }
  return [...seen.values()];
}
