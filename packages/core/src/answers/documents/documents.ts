import { encodingOf } from '../../people/encoding';
import type { Block } from '../passage';
import { csvBlocks } from './csv';
import { docxBlocks } from './docx';
import { readHtml } from './html';
import { markdownBlocks } from './markdown';

/** How the documents that can be read are told from each other, by the ending of their names. */
const KIND_OF_ENDING = {
  md: 'text',
  markdown: 'text',
  txt: 'text',
  csv: 'table',
  htm: 'page',
  html: 'page',
  docx: 'docx',
  pdf: 'pdf',
} as const;
export type DocumentKind = (typeof KIND_OF_ENDING)[keyof typeof KIND_OF_ENDING];

/** The endings of what can be read, as they are said to people. */
export const READABLE = 'PDF, DOCX, HTML, Markdown, plain text and CSV';
export const ENDINGS: readonly string[] = Object.keys(KIND_OF_ENDING).map((ending) => `.${ending}`);

const endingOf = (name: string): string => /\.([a-z]+)$/i.exec(name.trim())?.[1]?.toLowerCase() ?? '';

/** Which kind of document a file is by its name; null where none that can be read. */
export const documentKind = (name: string): DocumentKind | null =>
  KIND_OF_ENDING[endingOf(name) as keyof typeof KIND_OF_ENDING] ?? null;

/** A file's name without its ending, as a document is called that has no heading. */
export const documentTitle = (name: string): string =>
  documentKind(name) ? name.trim().slice(0, -endingOf(name).length - 1) : name.trim();

const textOf = (bytes: Uint8Array): string => new TextDecoder(encodingOf(bytes, true)).decode(bytes);

/**
 * The parts of a document of any kind but PDF, which needs more than this core has. Throws `Unreadable` with
 * a sentence where it is damaged or too long.
 */
export function documentBlocks(kind: Exclude<DocumentKind, 'pdf'>, bytes: Uint8Array): Block[] {
  switch (kind) {
    case 'text':
      return markdownBlocks(textOf(bytes));
    case 'table':
      return csvBlocks(textOf(bytes));
    case 'page':
      return readHtml(textOf(bytes)).blocks;
    case 'docx':
      return docxBlocks(bytes);
  }
}
