import type { LineThere } from '@dart-loop/core/loops/edit/elsewhere';
import type { CopiedPart, SetUpPart } from '@dart-loop/contract';
import type { Connection } from '../../platform/db/pool';
import type { Left } from './leftToDo';

/** A client that takes part in a copy. */
export interface Side {
  id: number;
  slug: string;
  name: string;
  lines: LineThere[];
}

/** One copy of parts from a client to another, within a transaction that sees both. */
export interface Copying {
  db: Connection;
  from: Side;
  to: Side;
  accountId: number;
  /** Milliseconds since 1970, UTC. */
  now: number;
  /** Notes something that has to be done by hand. */
  leave(left: Left): void;
}

/** Copies one part of a set-up. What is there under its name already is left as it is. */
export interface Part {
  part: SetUpPart;
  copy(copying: Copying): Promise<Omit<CopiedPart, 'part'>>;
}

/** What was added of what there is, by names; the rest was there. */
export const sorted = (
  all: readonly { name: string }[],
  added: readonly { name: string }[],
): { added: string[]; kept: string[] } => {
  const names = new Set(added.map(({ name }) => name));
  return {
    added: all.filter(({ name }) => names.has(name)).map(({ name }) => name),
    kept: all.filter(({ name }) => !names.has(name)).map(({ name }) => name),
  };
};
