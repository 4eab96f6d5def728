import type { FieldDefinition, Value } from '../people/person';
import { readCell, type CellReading, type CellWorld } from '../people/cellReading';

/** A value as JSON of another system holds it; null takes the value away. */
export type Given = string | number | boolean | null | string[];

/**
 * Reads what another system gives for a field, or says why it does not fit. JSON's own numbers, truths and
 * lists are taken as they are; texts as the cells of a file. Null for what takes the value away: null, or
 * nothing but space.
 */
export function readGiven(
  { type, options }: Pick<FieldDefinition, 'type' | 'options'>,
  given: Given,
  world: CellWorld,
): CellReading | null {
  if (given === null || (typeof given === 'string' && given.trim() === '')) return null;
  if (typeof given === 'number' && type === 'number') return { ok: true, value: { type, value: given } };
  if (typeof given === 'boolean' && type === 'yes/no') return { ok: true, value: { type, value: given } };
  if (!Array.isArray(given)) return readCell(type, String(given), world, options);
  if (type !== 'several of')
    return { ok: false, reason: `it is a list, and the field takes one value (${type})` };
  const unknown = options.length > 0 ? given.find((name) => !options.includes(name)) : undefined;
  return unknown === undefined
    ? { ok: true, value: { type, value: given } satisfies Value }
    : { ok: false, reason: `“${unknown}” is none of ${options.join(', ')}` };
}
