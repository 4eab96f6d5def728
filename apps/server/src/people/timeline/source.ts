import type { By, TimelineEntry } from '@dart-loop/contract';
import type { Connection } from '../../platform/db/pool';

/** Entries of each kind that are looked at; the newest first. */
export const MOST = 150;

export interface Asked {
  db: Connection;
  /** The client, and the ids of the person and of those who have become them. */
  key: [clientId: number, who: string[]];
  /** What the client calls its fields. */
  names: ReadonlyMap<string, string>;
}

/** One kind of thing that happens to a person. */
export type Source = (asked: Asked) => Promise<TimelineEntry[]>;

/** Entries as they are gathered. */
export function entriesOf() {
  const entries: TimelineEntry[] = [];
  return {
    entries,
    add(
      at: Date,
      kind: TimelineEntry['kind'],
      words: string,
      by: By | null,
      link: string | null = null,
    ): void {
      entries.push({ at: at.toISOString(), kind, words, by, link });
    },
  };
}
