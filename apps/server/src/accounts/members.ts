import type { Grant, Reach, Role } from '@dart-loop/contract';
import type { Connection } from '../platform/db/pool';
import { Problem } from '../platform/problem';
import { endFactor } from './secondFactor';

type Queries = Pick<Connection, 'query'>;

/** Which clients somebody may see, in their columns. */
async function writeReach(db: Queries, accountId: number, clients: Reach): Promise<void> {
  await db.query('delete from account_client where account_id = $1', [accountId]);
  if (clients !== 'all' && clients.length > 0)
    await db.query('insert into account_client (account_id, client_id) select $1, unnest($2::int[])', [
      accountId,
      [...new Set(clients)],
    ]);
}

/**
 * Somebody comes in by an invitation: as a new account, or as the one they had before they left. Returns its
 * id. Throws (409) where they are in already.
 */
export async function comeIn(
  db: Queries,
  agencyId: number,
  who: {
    email: string;
    name: string;
    role: Role;
    grants: readonly Grant[];
    clients: Reach;
    passwordHash: string;
  },
  now: number,
): Promise<number> {
  const { rows: before } = await db.query<{ id: number; agency_id: number; left_at: Date | null }>(
    'select id, agency_id, left_at from account where email = $1 for update',
    [who.email],
  );
  const known = before[0];
  if (known && (known.left_at === null || known.agency_id !== agencyId))
    throw new Problem(409, 'There is one already', `${who.email} has an account already. Sign in with it.`);
  const values = [who.name, who.role, who.grants, who.passwordHash, who.clients === 'all'];
  const { rows } = known
    ? await db.query<{ id: number }>(
        `
          update account set name = $2, role = $3, grants = $4, password_hash = $5, all_clients = $6,
            left_at = null
          where id = $1 returning id`,
        [known.id, ...values],
      )
    : await db.query<{ id: number }>(
        `
          insert into account
            (name, role, grants, password_hash, all_clients, agency_id, email, created_at)
          values ($1, $2, $3, $4, $5, $6, $7, $8) returning id`,
        [...values, agencyId, who.email, new Date(now)],
      );
  const { id } = rows[0]!;
  await writeReach(db, id, who.clients);
  return id;
}

export interface StoredMember {
  id: number;
  name: string;
  email: string;
  role: Role;
  grants: Grant[];
  clients: Reach;
}

/** Somebody of the agency who has not left, held until the transaction is over; null where there is none. */
export async function memberOf(
  db: Queries,
  agencyId: number,
  accountId: number,
): Promise<StoredMember | null> {
  // Two who take the last owners from each other come one after the other.
  await db.query('select from agency where id = $1 for no key update', [agencyId]);
  const { rows } = await db.query<Omit<StoredMember, 'clients'> & { all: boolean; ids: number[] }>(
    `
      select id, name, email, role, grants, all_clients as "all",
        array(select client_id from account_client where account_id = account.id order by 1) as ids
      from account where agency_id = $1 and id = $2 and left_at is null for update`,
    [agencyId, accountId],
  );
  const row = rows[0];
  return (
    (row && {
      id: row.id,
      name: row.name,
      email: row.email,
      role: row.role,
      grants: row.grants,
      clients: row.all ? 'all' : row.ids,
    }) ??
    null
  );
}

/**
 * Somebody gets another role, other rights, or other clients. Sees to it that an owner of all clients is
 * left.
 */
export async function changeMember(
  db: Queries,
  agencyId: number,
  accountId: number,
  { role, grants, clients }: { role: Role; grants: readonly Grant[]; clients: Reach },
): Promise<void> {
  await db.query('update account set role = $2, grants = $3, all_clients = $4 where id = $1', [
    accountId,
    role,
    grants,
    clients === 'all',
  ]);
  await writeReach(db, accountId, clients);
  await stopIfNoOwner(db, agencyId);
}

/**
 * Somebody leaves: their sessions end, their links and second factor count no more; what they did stays
 * theirs.
 */
export async function leave(db: Queries, agencyId: number, accountId: number, now: number): Promise<void> {
  await db.query('update account set left_at = $2 where id = $1', [accountId, new Date(now)]);
  await db.query('delete from session where account_id = $1', [accountId]);
  await db.query('delete from account_link where account_id = $1', [accountId]);
  await endFactor(db, accountId);
  await stopIfNoOwner(db, agencyId);
}

async function stopIfNoOwner(db: Queries, agencyId: number): Promise<void> {
  const { rowCount } = await db.query(
    `
      select from account where agency_id = $1 and role = 'owner' and all_clients and left_at is null limit 1`,
    [agencyId],
  );
  if (!rowCount)
    throw new Problem(
      409,
      'Nobody would be left',
      'The agency needs an owner of all clients. Make somebody else one first.',
    );
}
