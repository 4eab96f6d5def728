import type { Account } from '../http/route';
import type { Connection } from '../platform/db/pool';
import { Problem } from '../platform/problem';
import { slugFor } from './slug';

/** How often another slug is tried where one is taken. */
const TRIES = 200;

/** Refuses whoever would not see the client that they add. */
export function mayAddClients({ allClients }: Account): void {
  if (allClients) return;
  throw new Problem(
    403,
    'Not allowed',
    'Only an owner of all clients can add one: you could not see it otherwise.',
  );
}

/** A further client of the agency; no transaction has it open yet. */
export async function addClient(
  db: Connection,
  agencyId: number,
  client: { name: string; country: string; timeZone: string; languages: string[] },
): Promise<{ id: number; slug: string }> {
  for (let tries = 1; tries <= TRIES; tries++) {
    const slug = slugFor(client.name, tries);
    const { rows } = await db.query<{ id: number | null }>(
      'select add_client($1, $2, $3, $4, $5, $6) as id',
      [agencyId, slug, client.name, client.country, client.timeZone, client.languages],
    );
    if (rows[0]?.id) return { id: rows[0].id, slug };
  }
  throw new Problem(409, 'There is one already', 'name: there are too many clients of that name.');
}
