import type { Connection, Db } from '../db/pool';
import type { Adapter, OpenLine } from '../channels/adapter';
import { cuesChanged } from './publish';

/** Asks the channel for a line's templates and keeps them; true when they have changed. A channel that cannot be asked changes nothing. */
export async function refreshTemplates(db: Connection | Db, adapter: Adapter, line: OpenLine): Promise<boolean> {
  const asked = await adapter.templates?.(line);
  if (!asked || 'failure' in asked) return false;
  const { rowCount } = await db.query('update line set templates = $3::jsonb where client_id = $1 and id = $2 and templates <> $3::jsonb', [
    line.clientId,
    line.id,
    JSON.stringify(asked.templates),
  ]);
  if (!rowCount) return false;
  await cuesChanged(db, line.clientId);
  return true;
}
