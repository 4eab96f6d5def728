import type { Said } from './said';
import { moreRef } from '../engine/run/choiceRef';
import { choiceLetter } from '../language/choice';
import { phrases } from '../language/phrases';
import { tidy } from './labels';

export interface Page {
  /** The choices on this page, with their place among all. */
  shown: { ref: string; label: string; index: number }[];
  /** What leads to the next page, or from the last one to the first; null when all stand on one. */
  more: { ref: string; label: string; left: number } | null;
}

/**
 * The page of choices that begins at `said.from`. Up to `most` stand on one page, more come `page` at a time.
 */
export function pageOf(said: Said, { most, page }: { most: number; page: number }): Page {
  const all = said.choices.map(({ ref, label }, index) => ({ ref, label: tidy(label), index }));
  if (all.length <= most) return { shown: all, more: null };
  const from = said.from !== undefined && said.from < all.length ? said.from : 0;
  const shown = all.slice(from, from + page);
  const left = all.length - from - shown.length;
  const words = phrases(said.language ?? 'en');
  return {
    shown,
    more: {
      ref: moreRef(all[0]!.ref, left > 0 ? from + page : 0),
      label: left > 0 ? words.more : words.first,
      left,
    },
  };
}

/** Whole labels with the letters they can be typed by, for where some had to be cut. */
export const lettered = (choices: readonly { label: string; index: number }[]): string =>
  choices.map(({ label, index }) => `${choiceLetter(index)} ${label}`).join('\n');
