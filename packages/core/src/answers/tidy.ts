import { fold } from '../language/fold';
import { textOf, type Passage } from './passage';

/** What stands on at least so many pages of a site, and on so many of all of them, belongs to none. */
const FEWEST_PAGES = 3;
const OF_ALL = 0.5;

/**
 * The passages of one site without what stands on most of its pages: menus, notes on cookies. Where such a
 * sentence holds a number (a telephone, hours, a price) it stays once, on the first page that has it.
 */
export function withoutRepeats(passages: readonly Passage[]): Passage[] {
  const pages = new Map<string, Set<string>>();
  for (const { source, sentences } of passages)
    for (const sentence of sentences) {
      const key = fold(sentence);
      pages.set(key, (pages.get(key) ?? new Set()).add(source));
    }
  const all = new Set(passages.map(({ source }) => source)).size;
  const isRepeated = (key: string) => {
    const { size } = pages.get(key)!;
    return size >= FEWEST_PAGES && size > all * OF_ALL;
  };
  const kept = new Set<string>();
  return passages.flatMap((passage) => {
    const sentences = passage.sentences.filter((sentence) => {
      const key = fold(sentence);
      if (!isRepeated(key)) return true;
      if (!/\d/.test(sentence) || kept.has(key)) return false;
      kept.add(key);
      return true;
    });
    return sentences.length > 0 ? [{ ...passage, sentences }] : [];
  });
}

/** Passages that say the same below the same heading are one: the first, with what all of them answer. */
export function withoutDoubles(passages: readonly Passage[]): Passage[] {
  const first = new Map<string, Passage>();
  for (const passage of passages) {
    const key = fold(`${passage.headings.at(-1) ?? ''} ${textOf(passage)}`);
    const known = first.get(key);
    if (!known) first.set(key, passage);
    else if (passage.wordings?.length)
      first.set(key, { ...known, wordings: [...(known.wordings ?? []), ...passage.wordings] });
  }
  return [...first.values()];
}
