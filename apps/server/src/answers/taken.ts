import type { Clock } from '../platform/clock';
import type { Db } from '../platform/db/pool';

/** Whoever has been away for so long, another takes the place of. */
const AWAY_MS = 60_000;

/** Work on a client that one process does at a time: since when it is being done stands in a column. */
export type TakenIn = 'sheet_taken_at' | 'encoding_taken_at';

/** Does the work, unless another process has begun to; whether it was done here. */
export async function whileTaken(
  db: Db,
  column: TakenIn,
  clientId: number,
  clock: Clock,
  work: () => Promise<void>,
): Promise<boolean> {
  const now = clock.now();
  const { rowCount } = await db.query(
    `update client set ${column} = $2 where id = $1 and (${column} is null or ${column} < $3)`,
    [clientId, new Date(now), new Date(now - AWAY_MS)],
  );
  if (rowCount !== 1) return false;
  await work();
  await db.query(`update client set ${column} = null where id = $1`, [clientId]);
  return true;
}

/** Says that the work is still being done. */
export async function stillTaken(db: Db, column: TakenIn, clientId: number, clock: Clock): Promise<void> {
  await db.query(`update client set ${column} = $2 where id = $1`, [clientId, new Date(clock.now())]);
}
