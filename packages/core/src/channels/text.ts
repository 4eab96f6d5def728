const segmenter = new Intl.Segmenter(undefined, { granularity: 'grapheme' });
const ASCII = /^[\x20-\x7e\n]*$/;

/** Characters as people see them: an emoji with its modifiers is one, a letter with its marks too. */
export function graphemes(text: string): string[] {
  return ASCII.test(text) ? text.split('') : [...segmenter.segment(text)].map((each) => each.segment);
}

const MARKS = ['\n\n', '\n', '. ', '? ', ' '];

/**
 * Cuts a text into pieces that `fits` accepts: at a paragraph, line, sentence or word where one is near, and
 * never within a word that would fit into a piece of its own, such as an address of a page. `fits` must hold
 * for every shorter text.
 */
export function splitText(text: string, fits: (piece: string) => boolean): string[] {
  const pieces: string[] = [];
  let rest = text.trim();
  while (rest && !fits(rest)) {
    const piece = firstPiece(rest, fits);
    pieces.push(piece.trim());
    rest = rest.slice(piece.length).trim();
  }
  if (rest) pieces.push(rest);
  return pieces.filter((piece) => piece !== '');
}

function firstPiece(text: string, fits: (piece: string) => boolean): string {
  const characters = graphemes(text);
  let low = 0;
  let high = characters.length - 1;
  while (low < high) {
    const middle = (low + high + 1) >> 1;
    if (fits(characters.slice(0, middle).join(''))) low = middle;
    else high = middle - 1;
  }
  // A single character of so many parts that it does not fit by itself is torn.
  const most = low > 0 ? characters.slice(0, low).join('') : tear(text, fits);
  const next = text[most.length];
  if (next !== undefined && /\s/.test(next)) return most;
  const near = MARKS.map((mark) => most.lastIndexOf(mark)).find((at) => at > most.length / 2);
  if (near !== undefined) return most.slice(0, near + 1);
  const gap = Math.max(most.lastIndexOf(' '), most.lastIndexOf('\n'));
  const word = /^\S+/.exec(text.slice(gap + 1))?.[0] ?? '';
  return gap > 0 && fits(word) ? most.slice(0, gap + 1) : most;
}

function tear(text: string, fits: (piece: string) => boolean): string {
  let most = '';
  for (const point of text) {
    if (!fits(most + point)) break;
    most += point;
  }
  return most || text.slice(0, 1);
}

/**
 * As {@link splitText}, where the last piece has less room, because something hangs below it. At least one
 * piece.
 */
export function splitForLast(
  text: string,
  fits: (piece: string) => boolean,
  lastFits: (piece: string) => boolean,
): string[] {
  const pieces = splitText(text, fits);
  const last = pieces.pop() ?? '';
  return [...pieces, ...(last === '' ? [EMPTY] : lastFits(last) ? [last] : splitText(last, lastFits))];
}

/** Stands where a channel asks for a text and there is none. */
export const EMPTY = '…';

export const within =
  (most: number) =>
  (text: string): boolean =>
    text.length <= most;
