import pg from 'pg';

/** Where this installation is reached: addresses of files that texts name are made from it. */
export async function noteAddress(laneDatabase: string, address: string): Promise<void> {
  const db = new pg.Client({ connectionString: laneDatabase });
  await db.connect();
  try {
    await db.query('update agency set address = $1 where address is distinct from $1', [address]);
  } finally {
    await db.end();
  }
}
