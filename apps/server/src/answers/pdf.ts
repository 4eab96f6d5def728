import type { PrintedLine } from '@dart-loop/core/answers/documents/printed';
import { Unreadable } from '@dart-loop/core/answers/documents/unreadable';

/** Pages of one document. */
const MOST_PAGES = 500;
/** Places of letters that differ by less than this part of their height are on one line. */
const SAME_LINE = 0.5;

interface Piece {
  str: string;
  /** A matrix: the fourth is the height of the letters, the last two their place from left and from below. */
  transform: number[];
  width: number;
}

/** The lines of a PDF with their places, as they are printed. Throws {@link Unreadable}. */
export async function pdfLines(bytes: Uint8Array): Promise<PrintedLine[]> {
  // Two megabytes of program that are loaded when the first is read.
  const { getDocumentProxy } = await import('unpdf');
  // It keeps and empties what it is given.
  const document = await getDocumentProxy(bytes.slice()).catch(refused);
  if (document.numPages > MOST_PAGES)
    throw new Unreadable(`It has ${document.numPages} pages; at most ${MOST_PAGES} are read.`);
  const lines: PrintedLine[] = [];
  for (let page = 1; page <= document.numPages; page++) {
    const { items } = await document
      .getPage(page)
      .then((each) => each.getTextContent())
      .catch(refused);
    lines.push(...linesOf(items as Piece[], page));
  }
  if (lines.length === 0)
    throw new Unreadable('There is no text in it, only pictures of text. Save it with its text.');
  return lines;
}

/** What the library says of a file, as a sentence. */
function refused(error: Error): never {
  throw new Unreadable(
    error.name === 'PasswordException'
      ? 'It is locked with a password. Save it without one.'
      : 'It is no PDF, or a damaged one.',
  );
}

/** Pieces of text put together to lines, in the order in which they stand in the file. */
function linesOf(pieces: readonly Piece[], page: number): PrintedLine[] {
  const lines: (PrintedLine & { end: number })[] = [];
  for (const { str, transform, width } of pieces) {
    if (!str.trim()) continue;
    const size = Math.abs(transform[3] ?? 0) || 10;
    const left = transform[4] ?? 0;
    const top = -(transform[5] ?? 0);
    const line = lines.at(-1);
    if (line && Math.abs(line.top - top) < SAME_LINE * size && left >= line.end - size) {
      line.text += left - line.end > 0.15 * size && !line.text.endsWith(' ') ? ` ${str}` : str;
      line.end = left + width;
    } else lines.push({ text: str, size, top, page, end: left + width });
  }
  return lines;
}
