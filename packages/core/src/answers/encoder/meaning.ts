import { textOf, type Passage } from '../passage';
import { VECTOR_LENGTH } from './encoder';

/** Turns texts into vectors of length 1, each of {@link VECTOR_LENGTH} numbers. */
export interface Encoder {
  encode(texts: readonly string[]): Float32Array[];
}

/** How near a question is in meaning to what a passage says, each from -1 to 1. */
export interface Nearness {
  heading: number;
  whole: number;
  /** To the sentence that is nearest, read below its heading. */
  sentence: number;
  /** To the way of asking that is nearest, of those that the passage was said to answer; 0 without any. */
  wording: number;
}

/** Of longer passages no more is looked at sentence by sentence, nor of more ways of asking. */
const MOST_SENTENCES = 24;
const MOST_WORDINGS = 12;
/** No number of a vector is larger than an eighth: kept as a byte, it is as exact as is needed. */
const SCALE = 127 * 8;

/** What of a passage is encoded: its heading, all of it, each sentence below its heading, ways of asking. */
export function encodedTexts(passage: Passage): string[] {
  const heading = passage.headings.at(-1) ?? '';
  const below = (text: string) => (heading === '' ? text : `${heading}: ${text}`);
  return [
    heading,
    below(textOf(passage)),
    ...passage.sentences.slice(0, MOST_SENTENCES).map(below),
    ...(passage.wordings ?? []).slice(0, MOST_WORDINGS),
  ];
}

/** Where the rows of a passage's ways of asking begin, and where all of them end. */
function rowsOf({ sentences, wordings = [] }: Passage): { wordings: number; end: number } {
  const asked = 2 + Math.min(sentences.length, MOST_SENTENCES);
  return { wordings: asked, end: asked + Math.min(wordings.length, MOST_WORDINGS) };
}

/** Passages as vectors: for each the rows of {@link encodedTexts}, a byte for each number. */
export function meaningsOf(encoder: Encoder, passages: readonly Passage[]): Int8Array[] {
  const texts = passages.map(encodedTexts);
  // A passage of one sentence says it twice.
  const distinct = [...new Set(texts.flat())];
  const vectors = encoder.encode(distinct);
  const places = new Map(distinct.map((text, place) => [text, place]));
  return texts.map((ofOne) => {
    const rows = new Int8Array(ofOne.length * VECTOR_LENGTH);
    for (const [row, text] of ofOne.entries()) {
      const vector = vectors[places.get(text)!]!;
      for (let each = 0; each < VECTOR_LENGTH; each++)
        rows[row * VECTOR_LENGTH + each] = Math.max(-127, Math.min(127, Math.round(vector[each]! * SCALE)));
    }
    return rows;
  });
}

/** Whether rows are those of a passage, by their number. */
export const areOf = (passage: Passage, rows: Int8Array): boolean =>
  rows.length === rowsOf(passage).end * VECTOR_LENGTH;

function product(question: Float32Array, rows: Int8Array, row: number): number {
  let sum = 0;
  const from = row * VECTOR_LENGTH;
  for (let each = 0; each < VECTOR_LENGTH; each++) sum += question[each]! * rows[from + each]!;
  return sum / SCALE;
}

/** How near a question is to a passage as a whole; all that is looked at of many. */
export const nearWhole = (question: Float32Array, rows: Int8Array): number => product(question, rows, 1);

export function nearnessOf(question: Float32Array, passage: Passage, rows: Int8Array): Nearness {
  const near = (row: number) => product(question, rows, row);
  const nearest = (from: number, to: number) => {
    let best = 0;
    for (let row = from; row < to; row++) best = Math.max(best, near(row));
    return best;
  };
  const { wordings, end } = rowsOf(passage);
  return {
    heading: near(0),
    whole: near(1),
    sentence: nearest(2, wordings),
    wording: nearest(wordings, end),
  };
}
