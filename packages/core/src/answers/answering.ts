import { carriedOver, questionsIn } from './asking';
import { asksHours, hoursSaid, type BriefFacts } from './brief';
import { signsOf, sureness, SURE, WORTH_OFFERING } from './confidence';
import { goingOn, type Asked, type Found, type SourceIndex } from './finding';
import { textOf, type Passage } from './passage';
import { stemsIn } from './terms';
import { twinsOf } from './twins';
import { saidOf, USUAL_LENGTH, withinLength, type Fits } from './saying';

/** Passages that are offered where none is sure. */
const MOST_OFFERED = 3;

/** What becomes of one question. */
export interface Answered {
  question: string;
  /** Said outright; a few passages offered to choose from; or left, as the sources do not say it. */
  zone: 'answer' | 'offer' | 'not known';
  /** The source's own words; only where it is answered. */
  text: string | null;
  /** The passages that fit best, the best first: the one that is said, or those that are offered. */
  found: Found[];
  /** Those that fit next best and are neither said nor offered. */
  next: Found[];
  /** How likely it is that the first of them answers it, from 0 to 1. */
  sure: number;
  /** Two passages that say otherwise than each other, where nothing is said for that. */
  disagree: [Passage, Passage] | null;
}

/** The passages that come near to what is not answered outright; none where two of them disagree. */
export const passagesNear = ({ zone, found, next, disagree }: Answered): Passage[] =>
  zone === 'answer' || disagree ? [] : [...found, ...next].map(({ passage }) => passage);

/** What is known beside the sources. */
export interface Asking {
  /** What the same person asked last, for questions that go on from it. */
  before?: string | null;
  /** How long one answer may be. */
  fits?: Fits;
  /** Whose opening hours are worked out for the days that are asked for, at `now` (ms). */
  client?: BriefFacts | null;
  now?: number;
}

/** Answers a message from the sources, in their own words: each question in it by itself. */
export function answersTo(
  index: SourceIndex,
  message: string,
  { before = null, fits = withinLength(USUAL_LENGTH), client = null, now = 0 }: Asking = {},
): Answered[] {
  let last: Asked | null = before ? index.read(before) : null;
  return questionsIn(message).map((question) => {
    const asked = index.read(question);
    const share = last ? carriedOver(question) : 0;
    const goesOn = share > 0 && asksHours(last!.text);
    const hours = client && hoursSaid(question, asked.text, client, now, goesOn);
    const meant = last ? goingOn(asked, last, share) : asked;
    last = asked;
    return hours ? saidHours(question, hours) : answerOne(index, question, meant, fits);
  });
}

/** The hours were worked out from the brief: there is nothing surer. */
function saidHours(question: string, passage: Passage): Answered {
  const features = {
    ...{ words: 0, coverage: 1, heading: 1, concepts: 1, headingConcepts: 1, type: 1, need: 1, wording: 0 },
    ...{ nearHeading: 1, nearWhole: 1, nearSentence: 1 },
  };
  const found: Found = { passage, score: 0, features, matched: [], words: [] };
  return {
    ...{ question, zone: 'answer', text: textOf(passage), found: [found], next: [], sure: 1, disagree: null },
  };
}

/**
 * A passage that fits so much worse than the best is not meant. Where meaning counts, whatever is said fits
 * a little.
 */
const AS_LIKELY = { byWords: 0.75, byMeaning: 0.85 };

/**
 * Whether another heading names what is asked for as well as the best one's does ("Parking on the quay",
 * "Parking at Harwick"), and nothing in the question tells which.
 */
function isOneOfSeveral(meant: Asked, [best, ...others]: Found[], beside: readonly Found[]): boolean {
  const asLikely = AS_LIKELY[meant.vector ? 'byMeaning' : 'byWords'] * best!.score;
  const named = (found: Found): string => {
    const heading = stemsIn(found.passage.headings.at(-1) ?? '');
    return [...meant.terms.distinct].filter((stem) => heading.has(stem)).join(' ');
  };
  const ours = named(best!);
  if (ours === '' || best!.features.wording > 0) return false;
  return others.some((other) => !beside.includes(other) && other.score >= asLikely && named(other) === ours);
}

function answerOne(index: SourceIndex, question: string, meant: Asked, fits: Fits): Answered {
  const { found, ahead } = index.find(meant);
  const twins = twinsOf(meant, found);
  // What says the same, or is to be settled first, stands in nobody's way.
  const beside = [...twins.agreeing, ...(twins.disagreeing ? [twins.disagreeing] : [])];
  const others = beside.reduce((sum, { score }) => sum - Math.exp(score - found[0]!.score), 1 / ahead);
  const sure =
    meant.terms.stems.length === 0
      ? 0
      : sureness(signsOf(index, meant, { found, ahead: 1 / Math.max(1, others) }), index.knowsMeaning);
  const [best] = found;
  const left = (zone: 'offer' | 'not known', offered: number): Answered => ({
    ...{ question, zone, text: null, sure, disagree: null },
    found: found.slice(0, offered),
    next: found.slice(offered, offered + MOST_OFFERED),
  });
  if (best && sure >= SURE && !isOneOfSeveral(meant, found, beside)) {
    if (twins.disagreeing)
      return { ...left('not known', 0), disagree: [best.passage, twins.disagreeing.passage] };
    const text = saidOf(best.passage, meant, fits);
    if (text !== null)
      return {
        ...{ question, zone: 'answer', text, sure, disagree: null },
        found: [best],
        next: found.slice(1, 1 + MOST_OFFERED),
      };
  }
  const offered = found.slice(0, MOST_OFFERED).filter(({ matched }) => matched.length > 0).length;
  return sure < WORTH_OFFERING || offered === 0 ? left('not known', 0) : left('offer', offered);
}
