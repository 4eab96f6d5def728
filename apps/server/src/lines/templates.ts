import type { Template } from '@dart-loop/core';
import { toJson } from '../platform/db/json';
import type { Connection, Db } from '../platform/db/pool';
import type { Adapter, OpenLine } from '../channels/adapter';
import { cuesChanged } from '../loops/cueRevision';

/** A line's templates as its channel has them; null where it has none, or cannot be asked. */
export async function askTemplates(adapter: Adapter, line: OpenLine): Promise<Template[] | null> {
  const asked = await adapter.templates?.(line);
  return asked && 'templates' in asked ? asked.templates : null;
}

/** Keeps what the channel said of a line's templates; true when they have changed. */
export async function keepTemplates(
  db: Connection | Db,
  line: OpenLine,
  templates: Template[] | null,
): Promise<boolean> {
  if (templates === null) return false;
  const { rowCount } = await db.query(
    'update line set templates = $3::jsonb where client_id = $1 and id = $2 and templates <> $3::jsonb',
    [line.clientId, line.id, toJson(templates)],
  );
  if (!rowCount) return false;
  await cuesChanged(db, line.clientId);
  return true;
}

/**
 * Asks for a line's templates and keeps them; true when they have changed. A channel that cannot be asked
 * changes nothing.
 */
export const refreshTemplates = async (
  db: Connection | Db,
  adapter: Adapter,
  line: OpenLine,
): Promise<boolean> => keepTemplates(db, line, await askTemplates(adapter, line));
