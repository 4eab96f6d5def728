import type { InletPage } from '@dart-loop/contract';
import type { IncomingMapping, Into, Leaf, WhoBy } from '@dart-loop/core/sync/incoming';

export const NOTHING_READ: IncomingMapping = { who: [], changedAt: null, parts: [] };

/**
 * A line of the mapping: a part of what comes, its value in the example where there is one, and what becomes
 * of it.
 */
export interface PartLine {
  path: string;
  value: Leaf['value'] | undefined;
  part: IncomingMapping['parts'][number] | null;
  who: WhoBy | null;
  isChangedAt: boolean;
}

/** Every part of the example, and what the mapping names beside it. */
export function linesOf(example: InletPage['example'], mapping: IncomingMapping): PartLine[] {
  const leaves = example?.leaves ?? [];
  const named = [
    ...mapping.who.map(({ from }) => from),
    ...(mapping.changedAt ? [mapping.changedAt] : []),
    ...mapping.parts.map(({ from }) => from),
  ];
  const paths = [...new Set([...leaves.map(({ path }) => path), ...named])];
  return paths.map((path) => ({
    path,
    value: leaves.find((leaf) => leaf.path === path)?.value,
    part: mapping.parts.find(({ from }) => from === path) ?? null,
    who: mapping.who.find(({ from }) => from === path)?.by ?? null,
    isChangedAt: mapping.changedAt === path,
  }));
}

const isSameInto = (one: Into, other: Into) =>
  one.as === other.as && (one.as !== 'field' || (other.as === 'field' && one.field === other.field));

/**
 * The mapping with another use of a part; null: it goes nowhere. Whatever went into the same place before
 * does not any more.
 */
export function withInto(mapping: IncomingMapping, path: string, into: Into | null): IncomingMapping {
  const before = mapping.parts.find(({ from }) => from === path);
  const others = mapping.parts.filter(
    ({ from, into: each }) => from !== path && !(into && isSameInto(each, into)),
  );
  return {
    ...mapping,
    parts: into
      ? [...others, { from: path, into, wins: into.as === 'field' ? (before?.wins ?? 'newest') : 'theirs' }]
      : others,
  };
}

/** The mapping with a part that tells who it is, or not any more. */
export function withWho(mapping: IncomingMapping, path: string, by: WhoBy | null): IncomingMapping {
  const others = mapping.who.filter((each) => each.from !== path && each.by !== by);
  const order: readonly WhoBy[] = ['id', 'their id', 'email', 'phone'];
  const who = by ? [...others, { by, from: path }] : others;
  return { ...mapping, who: who.sort((a, b) => order.indexOf(a.by) - order.indexOf(b.by)) };
}

export const withChangedAt = (mapping: IncomingMapping, path: string | null): IncomingMapping => ({
  ...mapping,
  changedAt: path,
});

/** A value of the example, short enough for a line. */
export const valueOf = (value: PartLine['value']): string => {
  if (value === undefined) return 'not in the example';
  const words = value === null ? 'nothing' : Array.isArray(value) ? value.join(', ') : String(value);
  return words.length > 60 ? `${words.slice(0, 59)}…` : words === '' ? 'empty' : words;
};
