import type { Block, Passage } from './passage';

/** Words with a full stop behind them that ends no sentence. */
const SHORT =
  /(?:^|[\s(])(?:mr|mrs|ms|dr|st|no|nr|approx|incl|excl|tel|etc|e\.g|i\.e|vs|min|max|hr|hrs|p|pp)\.$/i;

/** The sentences of a text, each with its mark at the end. Numbers, times and short forms are not cut. */
export function sentencesOf(text: string): string[] {
  const sentences: string[] = [];
  let sentence = '';
  for (const piece of text
    .replace(/\s+/g, ' ')
    .trim()
    .split(/(?<=[.!?…]["”’)]*) (?=["“‘(]?[\p{Lu}\p{N}])/u)) {
    sentence = sentence ? `${sentence} ${piece}` : piece;
    if (SHORT.test(sentence)) continue;
    sentences.push(sentence);
    sentence = '';
  }
  if (sentence) sentences.push(sentence);
  return sentences.filter(Boolean);
}

/** A row with its head, so that it says by itself what it means: "Child: £3 · Adult: £6". */
function rowWords(head: readonly string[], row: readonly string[]): string {
  const [first = '', ...rest] = row;
  const cells = rest.map((cell, at) => {
    const name = head[at + 1] ?? '';
    return cell && name ? `${name} ${cell}` : cell;
  });
  return [first, cells.filter(Boolean).join(', ')].filter(Boolean).join(': ');
}

/**
 * Cuts a document into passages: what stands below one heading, lists and tables included. A document without
 * headings is one passage for each paragraph. `title`: what it is called where it has no heading of its own.
 */
export function passagesOf(source: string, title: string, blocks: readonly Block[]): Passage[] {
  const passages: Passage[] = [];
  const path: { level: number; text: string }[] = [];
  let open: Passage | null = null;
  const isPlain = !blocks.some(({ kind }) => kind === 'heading');
  const add = (sentences: string[]) => {
    if (sentences.length === 0) return;
    if (!open || isPlain) {
      open = { source, headings: path.length > 0 ? path.map(({ text }) => text) : [title], sentences: [] };
      passages.push(open);
    }
    open.sentences.push(...sentences);
  };
  for (const block of blocks)
    if (block.kind === 'heading') {
      while (path.length > 0 && path.at(-1)!.level >= block.level) path.pop();
      path.push({ level: block.level, text: block.text });
      open = null;
    } else if (block.kind === 'paragraph') add(sentencesOf(block.text));
    else if (block.kind === 'list') add(block.items.map((item) => item.trim()).filter(Boolean));
    else add(block.rows.map((row) => rowWords(block.head, row)).filter(Boolean));
  return passages;
}
