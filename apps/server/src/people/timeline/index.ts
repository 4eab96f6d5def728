import type { TimelineEntry } from '@dart-loop/contract';
import type { Connection } from '../../platform/db/pool';
import { bookings } from './bookings';
import { consents, fieldChanges, listChanges, tagChanges } from './changes';
import { merges } from './merges';
import type { Source } from './source';
import { conversations, errands, runs } from './talks';

const SOURCES: Source[] = [
  fieldChanges,
  tagChanges,
  listChanges,
  consents,
  conversations,
  runs,
  errands,
  bookings,
  merges,
];
const MOST_IN_ALL = 400;

/**
 * Everything that has happened to a person, the newest first. `who`: their id and those of the people who
 * have become them.
 */
export async function timelineOf(
  db: Connection,
  clientId: number,
  who: string[],
  names: ReadonlyMap<string, string>,
): Promise<TimelineEntry[]> {
  const entries: TimelineEntry[] = [];
  for (const source of SOURCES) entries.push(...(await source({ db, key: [clientId, who], names })));
  return entries.sort((a, b) => b.at.localeCompare(a.at)).slice(0, MOST_IN_ALL);
}
