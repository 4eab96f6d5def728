import { createHash } from 'node:crypto';
import { toJson } from '../platform/db/json';
import type { Connection } from '../platform/db/pool';
import { Problem } from '../platform/problem';

/** What something is now, as a short text that is another as soon as any of it changes. */
export const revisionOf = (what: unknown): string =>
  createHash('sha256').update(toJson(what)).digest('base64url').slice(0, 22);

/**
 * Refuses (409) to keep what somebody filled in while another changed the same. `seen`: the revision that it
 * was filled in from; undefined: it is kept over whatever is there. `changes`: what the audit trail calls
 * such a change, and of what, by which it is known who made it.
 */
export async function stopIfChanged(
  db: Connection,
  clientId: number,
  seen: string | undefined,
  now: string,
  changes: { what: string; detail: Record<string, unknown> },
): Promise<void> {
  if (seen === undefined || seen === now) return;
  const { rows } = await db.query<{ name: string }>(
    `
      select a.name from audit t join account a on a.id = t.account_id
      where t.client_id = $1 and t.what = $2 and t.detail @> $3 order by t.id desc limit 1`,
    [clientId, changes.what, toJson(changes.detail)],
  );
  throw new Problem(
    409,
    'Changed meanwhile',
    `${rows[0]?.name ?? 'Somebody'} has changed it since it was opened here. What is written here is not kept yet.`,
    { changed: true },
  );
}
