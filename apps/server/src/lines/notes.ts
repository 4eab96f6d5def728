import type { PlatformNote } from '@dart-loop/contract';
import type { Adapter, OpenLine } from '../channels/adapter';
import { toJson } from '../platform/db/json';
import type { Connection, Db } from '../platform/db/pool';

/**
 * What the platform says of a line; null where it could not be asked, or has nothing to say ever. Asked
 * before the test, which may point the webhook here anew.
 */
export const askNotes = (adapter: Adapter, line: OpenLine): Promise<PlatformNote[] | null> =>
  adapter.notes?.(line).catch(() => null) ?? Promise.resolve(null);

/** Keeps it; true where it is another than before. What could not be asked leaves what is known. */
export async function keepNotes(
  db: Db | Connection,
  line: { clientId: number; id: number },
  notes: PlatformNote[] | null,
): Promise<boolean> {
  if (!notes) return false;
  const { rowCount } = await db.query(
    `
      update line set platform_notes = $3
      where client_id = $1 and id = $2 and platform_notes is distinct from $3::jsonb`,
    [line.clientId, line.id, toJson(notes)],
  );
  return rowCount === 1;
}
