import type { Sentence } from './sentence';

/** On which side of now something is meant. */
export type Side = 'this' | 'next' | 'last' | 'coming' | 'after next' | null;
/** "Next", "this", "last" before a word, and where the word is. */
export function sideBefore(said: Sentence, at: number): { side: Side; next: number } {
  const start = said.skip(at, 'the', 'of', 'at');
  for (const side of ['coming', 'next', 'this', 'last'] as const)
    if (said.has(start, side)) {
      const behind = said.skip(start + 1, side);
      return { side: side === 'this' && said.has(start + 1, 'coming') ? 'coming' : side, next: behind };
    }
  return { side: null, next: start };
}
/** The same behind a word: "lunes que viene", "mardi dernier", "the week after next". */
export function sideBehind(said: Sentence, at: number): { side: Side; next: number } {
  if (said.has(at, 'after') && said.has(at + 1, 'next')) return { side: 'after next', next: at + 2 };
  if (said.has(at, 'next') || said.has(at, 'coming')) return { side: 'next', next: at + 1 };
  if (said.has(at, 'last')) return { side: 'last', next: at + 1 };
  return { side: null, next: at };
}
