import { toJson } from './json';
import type { Connection } from './pool';

/** Who changes something of the agency itself, when, and from where. */
export interface By {
  agencyId: number;
  /** Null: whoever has no account yet, or the program itself. */
  accountId: number | null;
  now: number;
  address: string | null;
}

/** Adds a line to the agency's audit trail, in the same transaction as the change itself. */
export async function auditAgency(
  db: Pick<Connection, 'query'>,
  { agencyId, accountId, now, address }: By,
  what: string,
  detail: Record<string, unknown>,
): Promise<void> {
  await db.query(
    `
      insert into agency_audit (agency_id, account_id, at, address, what, detail)
      values ($1, $2, $3, $4, $5, $6)`,
    [agencyId, accountId, new Date(now), address, what, toJson(detail)],
  );
}
