import { dequal } from 'dequal/lite';

/**
 * Whether two values are the same as JSON says them: the order of keys says nothing, and a key without a
 * value is as good as none.
 */
export const sameJson = (one: unknown, other: unknown): boolean =>
  one === other || dequal(said(one), said(other));

/** A value without the keys that JSON would leave out. */
function said(value: unknown): unknown {
  // An array of our own: those of another realm, such as a worker's, have another constructor.
  if (Array.isArray(value)) return Array.from(value, said);
  if (value === null || typeof value !== 'object' || value instanceof Date) return value;
  const entries = Object.entries(value).filter(([, each]) => each !== undefined);
  return Object.fromEntries(entries.map(([key, each]) => [key, said(each)]));
}
