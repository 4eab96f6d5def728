import type { ClientFacts } from '@dart-loop/core';
import type { Parcel } from '@dart-loop/core/sync/kinds/kind';
import { rowOf, type SyncedPerson } from '@dart-loop/core/sync/mapping';
import type { StoredDestination } from './stored';

/**
 * What is delivered of a person as they stand at `now`; a row that has gone out before goes out again as it
 * was.
 */
export function parcelOf(
  { mapping }: Pick<StoredDestination, 'mapping'>,
  person: SyncedPerson,
  client: ClientFacts,
  {
    id,
    at,
    now,
    theirId,
    cells = null,
  }: Pick<Parcel, 'id' | 'at' | 'theirId'> & { now: number; cells?: Parcel['row']['cells'] | null },
): Parcel {
  return {
    id,
    at,
    person,
    client,
    theirId,
    row: cells ? { cells, problems: [] } : rowOf(mapping, person, client, now),
  };
}
