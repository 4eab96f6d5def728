import type { Connection } from '../platform/db/pool';

/**
 * Gives a client the fields that another has, as they stand there; those that it has by the same key stay as
 * they are. `keys`: only these. The transaction has to see both clients.
 */
export const copyFields = (
  db: Connection,
  from: number,
  to: number,
  keys: readonly string[] | null = null,
): Promise<unknown> =>
  db.query(
    `
      insert into field (client_id, key, type, name, description, options, personal)
      select $2, key, type, name, description, options, personal from field
      where client_id = $1 and ($3::text[] is null or key = any ($3))
      on conflict do nothing`,
    [from, to, keys],
  );
