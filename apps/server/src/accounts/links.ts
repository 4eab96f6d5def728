import type { Grant, Reach, Role } from '@dart-loop/contract';
import type { Connection } from '../platform/db/pool';
import { newToken } from '../platform/ids';
import { tokenHash } from '../platform/secrets';

/** How long a link counts. */
const LINK_LASTS_MS = { invitation: 7 * 86_400_000, password: 3_600_000 } as const;

/** Whom a link is for: somebody who is to come in, or somebody who is to choose a new password. */
export type For =
  | { kind: 'invitation'; email: string; role: Role; grants: readonly Grant[]; clients: Reach }
  | { kind: 'password'; accountId: number };

export interface Link {
  agencyId: number;
  agency: string;
  for: For;
  /** Of whoever follows it. */
  email: string;
  name: string;
}

/** What is not said of whoever a link is for. */
const NOBODY = { email: null, role: null, grants: [], clients: null, accountId: null };

/**
 * Makes a link; those of the same person that are still open count no more. Its token is kept as a hash, so
 * that it can be given once only.
 */
export async function makeLink(
  db: Pick<Connection, 'query'>,
  agencyId: number,
  whom: For,
  madeBy: number | null,
  now: number,
): Promise<{ token: string; expiresAt: Date }> {
  const token = newToken();
  const expiresAt = new Date(now + LINK_LASTS_MS[whom.kind]);
  const { email, role, grants, clients, accountId } = { ...NOBODY, ...whom };
  await db.query(
    `
      delete from account_link
      where agency_id = $1 and kind = $2 and (email = $3 or account_id = $4 or expires_at < $5)`,
    [agencyId, whom.kind, email, accountId, new Date(now)],
  );
  await db.query(
    `
      insert into account_link
        (token_hash, agency_id, kind, email, role, grants, client_ids, account_id, made_by, made_at,
          expires_at)
      values ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10, $11)`,
    [
      tokenHash(token),
      agencyId,
      whom.kind,
      email,
      role,
      grants,
      clients === 'all' ? null : clients,
      accountId,
      madeBy,
      new Date(now),
      expiresAt,
    ],
  );
  return { token, expiresAt };
}

/** What a link is for; null where it does not count (any more). */
export async function findLink(
  db: Pick<Connection, 'query'>,
  token: string,
  now: number,
): Promise<Link | null> {
  const { rows } = await db.query<{
    agency_id: number;
    agency: string;
    kind: For['kind'];
    email: string;
    name: string | null;
    role: Role | null;
    grants: Grant[];
    client_ids: number[] | null;
    account_id: number | null;
  }>(
    `
      select l.agency_id, g.name as agency, l.kind, coalesce(l.email, a.email) as email, a.name, l.role,
        l.grants, l.client_ids, l.account_id
      from account_link l join agency g on g.id = l.agency_id left join account a on a.id = l.account_id
      where l.token_hash = $1 and l.expires_at > $2 and (a.id is null or a.left_at is null)`,
    [tokenHash(token), new Date(now)],
  );
  const row = rows[0];
  if (!row) return null;
  return {
    agencyId: row.agency_id,
    agency: row.agency,
    for:
      row.kind === 'invitation'
        ? {
            kind: row.kind,
            email: row.email,
            role: row.role!,
            grants: row.grants,
            clients: row.client_ids ?? 'all',
          }
        : { kind: row.kind, accountId: row.account_id! },
    email: row.email,
    name: row.name ?? '',
  };
}

/** A link counts once: whether it was this call that used it up. */
export async function useUp(db: Pick<Connection, 'query'>, token: string): Promise<boolean> {
  const { rowCount } = await db.query('delete from account_link where token_hash = $1', [tokenHash(token)]);
  return rowCount === 1;
}
