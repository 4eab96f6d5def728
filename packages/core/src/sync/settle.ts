import { z } from 'zod';
import type { Value } from '../model/person';

/** Whose value stays where two systems know different ones: ours, theirs, or the one that was changed last. */
export const Winner = z.enum(['ours', 'theirs', 'newest']);
export type Winner = z.infer<typeof Winner>;

/**
 * What becomes of a value that another system tells us. `same`: it says what we know. `take`: theirs stays. `keep`: ours stays, and the other side does not know it
 * yet. What we know nothing of is always taken; at the same moment ours stays. Moments in ms.
 */
export function settled(
  winner: Winner,
  ours: { value: Value; at: number } | null,
  theirs: { value: Value; at: number },
): 'same' | 'take' | 'keep' {
  if (ours === null) return 'take';
  if (isSame(ours.value, theirs.value)) return 'same';
  if (winner === 'newest') return theirs.at > ours.at ? 'take' : 'keep';
  return winner === 'theirs' ? 'take' : 'keep';
}

function isSame(one: Value, other: Value): boolean {
  const order = (value: Value) => (value.type === 'several of' ? [...value.value].sort() : value.value);
  return one.type === other.type && JSON.stringify(order(one)) === JSON.stringify(order(other));
}
