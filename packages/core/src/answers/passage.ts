/** One thing that a source says: a heading and what stands below it, with the place it was taken from. */
export interface Passage {
  /** What it is kept as; only where it is kept. */
  id?: string;
  /** Of the source: a file's name, a page's address. */
  source: string;
  /** The headings that it stands below, outermost first. */
  headings: string[];
  /** In reading order: sentences, items of a list, rows of a table. None is empty. */
  sentences: string[];
  /** Questions that it was said to answer, as people put them. */
  wordings?: string[];
}

/** A place in a source as people name it: "tickets.md#Children". */
export const placeOf = ({ source, headings }: Passage): string => `${source}#${headings.at(-1) ?? ''}`;

/** A passage's own text, in one line for each of its lines. */
export const textOf = ({ sentences }: Pick<Passage, 'sentences'>): string => sentences.join(' ');

/** A part of a document, whatever format it came in. */
export type Block =
  | { kind: 'heading'; level: number; text: string }
  | { kind: 'paragraph'; text: string }
  | { kind: 'list'; items: string[] }
  | { kind: 'table'; head: string[]; rows: string[][] };
