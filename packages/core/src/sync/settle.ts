import { z } from 'zod';
import type { Value } from '../people/person';
import type { Cell } from './mapping';
import { sameJson } from '../sameJson';

/**
 * Whose value stays where two systems know different ones: ours, theirs, or the one that was changed last.
 */
export const Winner = z.enum(['ours', 'theirs', 'newest']);
export type Winner = z.infer<typeof Winner>;

/**
 * What becomes of a value that another system tells us. `same`: it says what we know. `take`: theirs stays.
 * `keep`: ours stays, and the other side does not know it yet. What we know nothing of is always taken; at
 * the same moment ours stays. Moments in ms.
 */
export function settled(
  winner: Winner,
  ours: { value: Value; at: number } | null,
  theirs: { value: Value; at: number },
): 'same' | 'take' | 'keep' {
  if (ours === null) return 'take';
  if (ours.value.type === theirs.value.type && isSame(ours.value.value, theirs.value.value)) return 'same';
  if (winner === 'newest') return theirs.at > ours.at ? 'take' : 'keep';
  return winner === 'theirs' ? 'take' : 'keep';
}

/** Whether two values say the same; the order of what is chosen among several says nothing. */
export function isSame(one: unknown, other: unknown): boolean {
  const ordered = (value: unknown) => (Array.isArray(value) ? [...(value as unknown[])].sort() : value);
  return sameJson(ordered(one), ordered(other));
}

/** What we know of a column of the other side. Moments in ms. */
export interface Standing {
  /** What stands there; left out where we cannot tell, as two changes have crossed. */
  cell?: Cell;
  /** When they told us so, where we did not put it there. */
  heard?: number;
  /** What we have put there lately, and have not heard back yet. */
  sent?: { cell: Cell; at: number }[];
  /** What came back before its delivery was known to have arrived. */
  early?: Cell;
}
export type StandsThere = Readonly<Record<string, Standing>>;

/** What we have put there is expected back for so long, and so many values of a column at the most. */
const ECHO_MS = 300_000;
const MOST_SENT = 5;
const lately = ({ sent = [] }: Standing, now: number) => sent.filter(({ at }) => now - at < ECHO_MS);

/**
 * What the other side says of a column: whether it is news, and what we know of the column then. It is none
 * where it says what we know to stand there, and where it is what we have put there, or are about to: our own
 * delivery coming back, late or early. `underWay`: what of the column is on its way there.
 */
export function hearing(
  cell: Cell,
  standing: Standing = {},
  underWay: readonly Cell[],
  now: number,
): { news: boolean; standing: Standing } {
  const sent = lately(standing, now);
  const at = sent.findIndex((each) => isSame(each.cell, cell));
  if (at >= 0)
    return { news: false, standing: { ...standing, sent: sent.filter((_, index) => index !== at) } };
  if (underWay.some((each) => isSame(each, cell)))
    return { news: false, standing: { ...standing, early: cell } };
  // While another value is on its way, it may have arrived before this.
  if (underWay.length === 0 && standing.cell !== undefined && isSame(standing.cell, cell))
    return { news: false, standing };
  // What has not come back yet may have been put there before or after this.
  return { news: true, standing: { ...(sent.length === 0 && { cell }), heard: now, sent } };
}

/**
 * What we know once a delivery has arrived that was made of what we knew at `since`. Where they told us of
 * another value meanwhile nobody can say which of the two came last: then it is not known what stands there,
 * and the next delivery goes out whatever it says. `before`: rows of earlier tries, of which nobody knows
 * whether they arrived.
 */
export function arrived(
  stands: StandsThere,
  cells: Readonly<Record<string, Cell>>,
  since: number,
  now: number,
  before: readonly Readonly<Record<string, Cell>>[] = [],
): StandsThere {
  const put = Object.entries(cells).map(([column, cell]): [string, Standing] => {
    const known = stands[column] ?? {};
    const sent = lately(known, now);
    for (const each of [...before.map((row) => row[column]), cell])
      if (
        each !== undefined &&
        !(known.early !== undefined && isSame(known.early, each)) &&
        !sent.some((there) => isSame(there.cell, each))
      )
        sent.push({ cell: each, at: now });
    const crossed =
      known.heard !== undefined &&
      known.heard >= since &&
      !(known.cell !== undefined && isSame(known.cell, cell));
    return [column, { ...(!crossed && { cell }), sent: sent.slice(-MOST_SENT) }];
  });
  return { ...stands, ...Object.fromEntries(put) };
}

/** Whether a row says something of which we do not know that it stands there already. */
export const saysMore = (cells: Readonly<Record<string, Cell>>, stands: StandsThere): boolean =>
  Object.entries(cells).some(([column, cell]) => {
    const there = stands[column]?.cell;
    return there === undefined || !isSame(there, cell);
  });

/** A value of theirs that ours was put in place of: how often in a row, and since when (ms). */
export interface Overruled {
  cell: Cell;
  times: number;
  since: number;
}
const MOST_OVERRULED = 2;
const OVERRULED_MS = 3_600_000;

/**
 * Counts one more time that ours is to be put in place of theirs; null where they have come back with the
 * same value too often within an hour: they do not take ours as it is, and insisting would go on for ever.
 */
export function overrule(before: Overruled | undefined, cell: Cell, now: number): Overruled | null {
  if (!before || !isSame(before.cell, cell) || now - before.since > OVERRULED_MS)
    return { cell, times: 1, since: now };
  return before.times >= MOST_OVERRULED ? null : { ...before, times: before.times + 1 };
}
