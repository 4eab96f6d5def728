import type { Block } from '../passage';

/** A line as it is printed on a page, such as of a PDF. */
export interface PrintedLine {
  text: string;
  /** Height of its letters, in any unit. */
  size: number;
  /** Its place from the top of the document, in the same unit; pages stand below each other. */
  top: number;
  page: number;
}

/** A heading is so much larger than what most is printed in, and has at most so many letters. */
const LARGER = 1.15;
const MOST_LETTERS = 120;
/** Lines stand further apart than so many heights of a letter where a paragraph ends. */
const APART = 1.9;
const ITEM = /^\s*(?:[•‣▪◦·–—*-]|\d{1,2}[.)])\s+/;

/** The size in which most letters are printed. */
function usualSize(lines: readonly PrintedLine[]): number {
  const letters = new Map<number, number>();
  for (const { size, text } of lines) {
    const rounded = Math.round(size * 2) / 2;
    letters.set(rounded, (letters.get(rounded) ?? 0) + text.length);
  }
  return [...letters].sort((one, other) => other[1] - one[1])[0]?.[0] ?? 0;
}

/** What stands on most pages at the same words is the paper's, not the text's: a head, a foot, a number. */
function printedOnEachPage(lines: readonly PrintedLine[]): ReadonlySet<string> {
  const pages = new Map<string, Set<number>>();
  for (const { text, page } of lines) {
    const key = text.replace(/\d+/g, '#').trim();
    pages.set(key, (pages.get(key) ?? new Set()).add(page));
  }
  const all = new Set(lines.map(({ page }) => page)).size;
  return new Set([...pages].filter(([, on]) => all >= 3 && on.size > all / 2).map(([key]) => key));
}

/**
 * The parts of a printed document, by how it looks: larger lines are headings, a gap ends a paragraph, a line
 * with a mark in front is an item. What stands on most pages is left out.
 */
export function printedBlocks(lines: readonly PrintedLine[]): Block[] {
  const usual = usualSize(lines);
  const repeated = printedOnEachPage(lines);
  const sizes = [...new Set(lines.map(({ size }) => Math.round(size * 2) / 2))]
    .filter((size) => size > usual * LARGER)
    .sort((one, other) => other - one);
  const blocks: Block[] = [];
  let before: PrintedLine | null = null;
  for (const line of lines) {
    const text = line.text.replace(/\s+/g, ' ').trim();
    if (!text || repeated.has(line.text.replace(/\d+/g, '#').trim())) continue;
    const last = blocks.at(-1);
    const isNear = before !== null && line.page === before.page && line.top - before.top < APART * line.size;
    const level = sizes.indexOf(Math.round(line.size * 2) / 2) + 1;
    if (level > 0 && text.length <= MOST_LETTERS) {
      if (isNear && last?.kind === 'heading' && last.level === level) last.text += ` ${text}`;
      else blocks.push({ kind: 'heading', level, text });
    } else if (ITEM.test(text)) {
      const item = text.replace(ITEM, '');
      if (last?.kind === 'list') last.items.push(item);
      else blocks.push({ kind: 'list', items: [item] });
    } else if (isNear && last?.kind === 'paragraph') last.text = joined(last.text, text);
    else if (isNear && last?.kind === 'list') last.items.push(joined(last.items.pop()!, text));
    // A paragraph goes on over the end of a page where its sentence does.
    else if (last?.kind === 'paragraph' && before?.page !== line.page && !/[.!?:]$/.test(last.text))
      last.text = joined(last.text, text);
    else blocks.push({ kind: 'paragraph', text });
    before = line;
  }
  return blocks;
}

/** A word that is parted at the end of a line is one again. */
const joined = (one: string, other: string): string =>
  /\p{Ll}-$/u.test(one) && /^\p{Ll}/u.test(other) ? one.slice(0, -1) + other : `${one} ${other}`;
