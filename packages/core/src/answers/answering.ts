import { carriedOver, questionsIn } from './asking';
import { signsOf, sureness, SURE, WORTH_OFFERING } from './confidence';
import { goingOn, type Asked, type Found, type SourceIndex } from './finding';
import { saidOf } from './saying';

/** Passages that are offered where none is sure. */
const MOST_OFFERED = 3;
/** Characters of one answer where nothing else is asked for. */
export const USUAL_LENGTH = 600;

/** What becomes of one question. */
export interface Answered {
  question: string;
  /** Said outright; a few passages offered to choose from; or left, as the sources do not say it. */
  zone: 'answer' | 'offer' | 'not known';
  /** The source's own words; only where it is answered. */
  text: string | null;
  /** The passages that fit best, the best first: the one that is said, or those that are offered. */
  found: Found[];
  /** How likely it is that the first of them answers it, from 0 to 1. */
  sure: number;
}

/**
 * Answers a message from the sources, in their own words: each question in it by itself. `before`: what the
 * same person asked last, for questions that go on from it; `most`: characters of one answer.
 */
export function answersTo(
  index: SourceIndex,
  message: string,
  { before = null, most = USUAL_LENGTH }: { before?: string | null; most?: number } = {},
): Answered[] {
  let last: Asked | null = before ? index.read(before) : null;
  return questionsIn(message).map((question) => {
    const asked = index.read(question);
    const answered = answerOne(index, question, asked, last, most);
    last = asked;
    return answered;
  });
}

function answerOne(
  index: SourceIndex,
  question: string,
  asked: Asked,
  before: Asked | null,
  most: number,
): Answered {
  const meant = before ? goingOn(asked, before, carriedOver(question)) : asked;
  const found = index.find(meant);
  const sure = meant.terms.stems.length === 0 ? 0 : sureness(signsOf(index, meant, found));
  const [best] = found;
  const text = best && sure >= SURE ? saidOf(best.passage, meant, most) : null;
  if (best && text !== null) return { question, zone: 'answer', text, found: [best], sure };
  if (sure < WORTH_OFFERING) return { question, zone: 'not known', text: null, found: [], sure };
  const offered = found.slice(0, MOST_OFFERED).filter(({ matched }) => matched.length > 0);
  return { question, zone: offered.length > 0 ? 'offer' : 'not known', text: null, found: offered, sure };
}
