import { fold } from '../language/fold';

/**
 * The destination of this name: the one that has it now, else the one that had it before. Names are compared
 * folded, as those of loops are.
 */
export function destinationNamed<D extends { name: string; before: readonly string[] }>(
  destinations: readonly D[],
  name: string,
): D | null {
  const said = fold(name);
  return (
    destinations.find((each) => fold(each.name) === said) ??
    destinations.find((each) => each.before.some((old) => fold(old) === said)) ??
    null
  );
}
