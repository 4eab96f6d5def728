import { encodingOf } from '../../people/encoding';
import type { Block } from '../passage';
import { csvBlocks } from './csv';
import { docxBlocks } from './docx';
import { readHtml } from './html';
import type { DocumentKind } from './kinds';
import { markdownBlocks } from './markdown';

/** Bytes as text, in the encoding that they are in. */
export const textOf = (bytes: Uint8Array): string => new TextDecoder(encodingOf(bytes, true)).decode(bytes);

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
