import type { Pool } from 'pg';

/** The tables of the database, in the order of their names, in which some row says these words anywhere. */
export async function remains(db: Pick<Pool, 'query'>, words: string): Promise<string[]> {
  const { rows: tables } = await db.query<{ name: string }>(
    `
      select c.relname as name from pg_class c where c.relkind in ('r', 'p') and not c.relispartition
        and c.relnamespace = 'public'::regnamespace order by 1`,
  );
  const found: string[] = [];
  for (const { name } of tables) {
    const { rows } = await db.query<{ there: boolean }>(
      `select exists (select from ${name} t where t::text ilike '%' || $1 || '%') as there`,
      [words],
    );
    if (rows[0]!.there) found.push(name);
  }
  return found;
}
