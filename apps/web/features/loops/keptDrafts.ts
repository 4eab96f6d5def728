import type { Loop } from '@dart-loop/core';

/**
 * What was written and is not saved yet, on this device: one entry for each window, so that two do not
 * overwrite each other.
 */
interface Kept {
  /** What it began from, so that it can be merged with what has come since. */
  base: Loop;
  loop: Loop;
}

const PREFIX = 'dart-loop.draft.';
/** Tells this window from others of the same person; the same after a reload. */
export const thisScreen = () => {
  const known = sessionStorage.getItem('dart-loop.screen');
  if (known) return known;
  const made = Math.random().toString(36).slice(2, 10);
  sessionStorage.setItem('dart-loop.screen', made);
  return made;
};

export function keepDraft(loopId: string, kept: Kept): void {
  try {
    localStorage.setItem(`${PREFIX}${loopId}.${thisScreen()}`, JSON.stringify(kept));
  } catch {
    // A full store must not stop the writing; it is saved within the second.
  }
}

/** Forgets one entry by its key, or this window's entry of a loop. */
export function dropKept(key: string | null, loopId?: string): void {
  localStorage.removeItem(key ?? `${PREFIX}${loopId}.${thisScreen()}`);
}

/** What windows have kept of a loop. */
export function keptDrafts(loopId: string): (Kept & { key: string })[] {
  return Object.keys(localStorage)
    .filter((key) => key.startsWith(`${PREFIX}${loopId}.`))
    .flatMap((key) => {
      try {
        const kept = JSON.parse(localStorage.getItem(key) ?? 'null') as Kept | null;
        return kept?.base && kept.loop ? [{ ...kept, key }] : [];
      } catch {
        return [];
      }
    });
}
