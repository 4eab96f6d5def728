import pg from 'pg';

/** Does something with a connection of its own, which is closed whatever comes of it. */
export async function withDatabase<T>(url: string, work: (db: pg.Client) => Promise<T>): Promise<T> {
  const db = new pg.Client({ connectionString: url });
  await db.connect();
  try {
    return await work(db);
  } finally {
    await db.end();
  }
}

/** The rows of one statement. */
export const ask = <R extends pg.QueryResultRow>(url: string, sql: string): Promise<R[]> =>
  withDatabase(url, async (db) => (await db.query<R>(sql)).rows);
