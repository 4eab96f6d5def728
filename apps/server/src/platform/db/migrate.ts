import { readFile, readdir } from 'node:fs/promises';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import pg from 'pg';
import { makeMonths } from './months';

const FOLDER = fileURLToPath(new URL('./migrations', import.meta.url));

/** A number that no other user of advisory locks in this database takes. */
const LOCK = 4_112_026;

/**
 * Brings the database up to date: runs every migration not run yet, each in its own transaction, in order.
 * Forward only; a migration that has run is never changed. Returns the names of those that ran now.
 */
export async function migrate(ownerUrl: string): Promise<string[]> {
  const db = new pg.Client({ connectionString: ownerUrl });
  await db.connect();
  const ran: string[] = [];
  try {
    await db.query('select pg_advisory_lock($1)', [LOCK]);
    await db.query(
      `
        create table if not exists migration (name text primary key,
          ran_at timestamptz not null default now())`,
    );
    const done = new Set(
      (await db.query<{ name: string }>('select name from migration')).rows.map((row) => row.name),
    );
    for (const name of (await readdir(FOLDER)).filter((file) => file.endsWith('.sql')).sort()) {
      if (done.has(name)) continue;
      await db.query('begin');
      try {
        await db.query(await readFile(join(FOLDER, name), 'utf8'));
        await db.query('insert into migration (name) values ($1)', [name]);
        await db.query('commit');
      } catch (error) {
        await db.query('rollback');
        throw new Error(`Migration ${name} failed: ${(error as Error).message}`, { cause: error });
      }
      ran.push(name);
    }
    await makeMonths(db, Date.now());
  } finally {
    await db.end();
  }
  return ran;
}
