import { passagesOf } from '@dart-loop/core/answers/cutting';
import { documentBlocks } from '@dart-loop/core/answers/documents/documents';
import { documentKind, documentTitle, READABLE } from '@dart-loop/core/answers/documents/kinds';
import { printedBlocks } from '@dart-loop/core/answers/documents/printed';
import { Unreadable } from '@dart-loop/core/answers/documents/unreadable';
import type { Block, Passage } from '@dart-loop/core/answers/passage';
import { pdfLines } from './pdf';

/** Passages of one document; a longer one is no help to anybody. */
const MOST_PASSAGES = 5_000;

export type ReadDocument = { ok: true; passages: Passage[]; words: number } | { ok: false; reason: string };

/** The passages of a document, by what its name says that it is. */
export async function readDocument(name: string, bytes: Uint8Array): Promise<ReadDocument> {
  const kind = documentKind(name);
  if (kind === null) return { ok: false, reason: `Its name says what it is: ${READABLE} are read.` };
  let blocks: Block[];
  try {
    blocks = kind === 'pdf' ? printedBlocks(await pdfLines(bytes)) : documentBlocks(kind, bytes);
  } catch (error) {
    if (error instanceof Unreadable) return { ok: false, reason: error.message };
    throw error;
  }
  const passages = passagesOf(name, documentTitle(name), blocks);
  if (passages.length === 0) return { ok: false, reason: 'There is no text in it.' };
  if (passages.length > MOST_PASSAGES)
    return { ok: false, reason: `It has more than ${MOST_PASSAGES} headings and paragraphs. Part it.` };
  return { ok: true, passages, words: wordsIn(passages) };
}

export const wordsIn = (passages: readonly Passage[]): number =>
  passages.reduce((sum, { sentences }) => sum + sentences.join(' ').split(/\s+/).filter(Boolean).length, 0);
