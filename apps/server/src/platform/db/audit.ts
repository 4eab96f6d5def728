import { toJson } from './json';
import type { Connection } from './pool';

/**
 * Adds a line to the client's audit trail, in the same transaction as the change itself. `accountId` null:
 * the program itself.
 */
export async function audit(
  db: Connection,
  clientId: number,
  accountId: number | null,
  now: number,
  what: string,
  detail: Record<string, unknown>,
): Promise<void> {
  await db.query('insert into audit (client_id, account_id, at, what, detail) values ($1, $2, $3, $4, $5)', [
    clientId,
    accountId,
    new Date(now),
    what,
    toJson(detail),
  ]);
}
