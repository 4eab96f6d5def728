import pg from 'pg';

// Counts and ids of rows fit a JavaScript number by far; dates stay dates.
pg.types.setTypeParser(pg.types.builtins.INT8, Number);

export type Db = pg.Pool;
export type Connection = pg.PoolClient;

/** Opens a pool. `jit` is off: the statements of the message path are short and repeated.
 * `settings` are more of PostgreSQL's, as `-c name=value`. */
export function openPool(url: string, most: number, name: string, settings = ''): pg.Pool {
  const pool = new pg.Pool({
    connectionString: url,
    max: most,
    application_name: name,
    options: `-c jit=off ${settings}`,
    keepAlive: true,
  });
  // A connection that dies while idle is replaced at the next use; the error is not ours to crash on.
  pool.on('error', () => undefined);
  // One that dies while in use fails its query, which its user hears of.
  pool.on('connect', (connection) => void connection.on('error', () => undefined));
  return pool;
}

/** Runs `work` in one transaction: all of it is written, or, where it throws, nothing. */
export async function inTransaction<T>(pool: Db, work: (db: Connection) => Promise<T>): Promise<T> {
  const db = await pool.connect();
  let broken: Error | undefined;
  try {
    await db.query('begin');
    const result = await work(db);
    await db.query('commit');
    return result;
  } catch (error) {
    await db.query('rollback').catch((second: Error) => (broken = second));
    throw error;
  } finally {
    db.release(broken);
  }
}

/** What PostgreSQL says to the one of two transactions that it ended so that the other could go on. */
const LOST_TO_ANOTHER = ['40P01', '40001'];
const MOST_TRIES = 5;

/** The same, begun anew where it waited in a ring with others and was the one to give way. `work` must do nothing that a rollback does not take back. */
export async function inTransactionAgain<T>(pool: Db, work: (db: Connection) => Promise<T>): Promise<T> {
  for (let tries = 1; ; tries++)
    try {
      return await inTransaction(pool, work);
    } catch (error) {
      if (tries === MOST_TRIES || !LOST_TO_ANOTHER.includes((error as { code?: string }).code ?? '')) throw error;
    }
}

/** As `inTransaction`, seeing the rows of these clients only (row-level security reads the setting); without clients, none. */
export const withClients = <T>(pool: Db, clientIds: readonly number[], work: (db: Connection) => Promise<T>): Promise<T> =>
  inTransaction(pool, async (db) => {
    await db.query("select set_config('dartloop.clients', $1, true)", [clientIds.join(',')]);
    return work(db);
  });
