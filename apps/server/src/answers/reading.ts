import { passagesOf } from '@dart-loop/core/answers/cutting';
import { documentBlocks, textOf } from '@dart-loop/core/answers/documents/documents';
import { readHtml } from '@dart-loop/core/answers/documents/html';
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

/** A page of the web, as it was read. */
export type ReadWebPage =
  | (ReadDocument & { ok: true } & {
      title: string;
      language: string | null;
      links: string[];
      canonical: string | null;
    })
  | { ok: false; reason: string; links: string[] };

/** The endings by which the kinds of pages are told, as servers name them. */
const ENDING_OF_TYPE: Readonly<Record<string, string>> = {
  'text/html': 'html',
  'application/xhtml+xml': 'html',
  'text/plain': 'txt',
  'text/markdown': 'md',
  'text/csv': 'csv',
  'application/pdf': 'pdf',
  'application/vnd.openxmlformats-officedocument.wordprocessingml.document': 'docx',
};

/** The passages of a page, and where its links lead. `type`: its media type. */
export async function readWebPage(address: string, type: string, bytes: Uint8Array): Promise<ReadWebPage> {
  const ending = ENDING_OF_TYPE[type];
  if (!ending) return { ok: false, reason: `it is no text (${type || 'its kind is not said'})`, links: [] };
  if (ending !== 'html') {
    const read = await readDocument(`page.${ending}`, bytes);
    if (!read.ok) return { ok: false, reason: read.reason, links: [] };
    const passages = read.passages.map((passage) => ({ ...passage, source: address }));
    return { ...read, passages, title: lastPart(address), language: null, links: [], canonical: null };
  }
  const page = readHtml(textOf(bytes));
  const links = page.noFollow ? [] : page.links;
  if (page.noIndex) return { ok: false, reason: 'it asks not to be read by programs', links };
  const title = page.title || address;
  const passages = passagesOf(address, title, page.blocks).slice(0, MOST_PASSAGES);
  const { language, canonical } = page;
  return { ok: true, passages, words: wordsIn(passages), title, language, links, canonical };
}

/** What an address ends with, as people read it; the whole where that says nothing. */
function lastPart(address: string): string {
  const part = new URL(address).pathname.split('/').pop() || address;
  try {
    return decodeURIComponent(part);
  } catch {
    return part;
  }
}
