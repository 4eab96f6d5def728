import { createHash } from 'node:crypto';
import { readFile, readdir } from 'node:fs/promises';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import pg from 'pg';
import { makeMonths } from './months';

const MIGRATIONS = fileURLToPath(new URL('./migrations', import.meta.url));
const FUNCTIONS = fileURLToPath(new URL('./functions', import.meta.url));

/** A number that no other user of advisory locks in this database takes. */
const LOCK = 4_112_026;

/**
 * Brings the database up to date: runs every migration not run yet, each in its own transaction, in order,
 * and then puts the functions of SQL in as they are in their files. Migrations go forward only; one that has
 * run is never changed. Returns the names of those that ran now.
 */
export async function migrate(ownerUrl: string): Promise<string[]> {
  const db = new pg.Client({ connectionString: ownerUrl });
  await db.connect();
  try {
    await db.query('select pg_advisory_lock($1)', [LOCK]);
    const ran = await runMigrations(db);
    await putFunctions(db);
    await makeMonths(db, Date.now());
    return ran;
  } finally {
    await db.end();
  }
}

async function runMigrations(db: pg.Client): Promise<string[]> {
  await db.query(
    'create table if not exists migration (name text primary key, ran_at timestamptz not null default now())',
  );
  const { rows } = await db.query<{ name: string }>('select name from migration');
  const done = new Set(rows.map(({ name }) => name));
  const ran: string[] = [];
  for (const { name, sql } of await sqlIn(MIGRATIONS)) {
    if (done.has(name)) continue;
    await inOne(db, `Migration ${name}`, async () => {
      await db.query(sql);
      await db.query('insert into migration (name) values ($1)', [name]);
    });
    ran.push(name);
  }
  return ran;
}

/** Each function has one file, which is what runs; it is put in when it is not as it was put in last. */
async function putFunctions(db: pg.Client): Promise<void> {
  await db.query('create table if not exists function_file (name text primary key, digest text not null)');
  const { rows } = await db.query<{ name: string; digest: string }>('select name, digest from function_file');
  const known = new Map(rows.map(({ name, digest }) => [name, digest]));
  const changed = (await sqlIn(FUNCTIONS))
    .map((file) => ({ ...file, digest: createHash('sha256').update(file.sql).digest('hex') }))
    .filter(({ name, digest }) => known.get(name) !== digest);
  if (changed.length === 0) return;
  await inOne(db, 'The functions', async () => {
    // What one function calls may come after it.
    await db.query('set local check_function_bodies = off');
    for (const { name, sql, digest } of changed) {
      await db.query(sql);
      await db.query(
        `
        insert into function_file (name, digest) values ($1, $2)
        on conflict (name) do update set digest = excluded.digest`,
        [name, digest],
      );
    }
  });
}

/** The files of SQL in a folder, by name. */
async function sqlIn(folder: string): Promise<{ name: string; sql: string }[]> {
  const names = (await readdir(folder)).filter((file) => file.endsWith('.sql')).sort();
  return Promise.all(names.map(async (name) => ({ name, sql: await readFile(join(folder, name), 'utf8') })));
}

/** Does something in one transaction; says what it was where that fails. */
async function inOne(db: pg.Client, what: string, work: () => Promise<void>): Promise<void> {
  await db.query('begin');
  try {
    await work();
    await db.query('commit');
  } catch (error) {
    await db.query('rollback');
    throw new Error(`${what} failed: ${(error as Error).message}`, { cause: error });
  }
}
