import pg from 'pg';
import { hashPassword } from '../../apps/server/src/platform/secrets';
import { ask } from '../database';
import { readWorld, type World } from './world';

/** Whether the database already holds a world. */
export const isLoaded = async (ownerUrl: string): Promise<boolean> =>
  (await ask(ownerUrl, 'select from agency limit 1')).length > 0;

/**
 * Makes the agency, its accounts and its clients; lines and loops come in through the API, as a user would
 * bring them.
 */
export async function makeAgency(ownerUrl: string): Promise<World> {
  const world = readWorld();
  const db = new pg.Client({ connectionString: ownerUrl });
  await db.connect();
  try {
    await db.query('begin');
    const agency = (
      await db.query<{ id: number }>('insert into agency (name) values ($1) returning id', [world.agency])
    ).rows[0]!.id;
    const ids = new Map<string, number>();
    for (const client of world.clients) {
      const made = await db.query<{ id: number }>(
        `
          insert into client (agency_id, slug, name, brief, country, time_zone, languages, opening_hours)
          values ($1, $2, $3, $4, $5, $6, $7, $8) returning id`,
        [
          agency,
          client.slug,
          client.name,
          client.brief,
          client.country,
          client.timeZone,
          client.languages,
          client.openingHours,
        ],
      );
      ids.set(client.slug, made.rows[0]!.id);
    }
    for (const account of world.accounts) {
      const made = await db.query<{ id: number }>(
        `
          insert into account (agency_id, email, name, role, password_hash, all_clients, grants)
          values ($1, $2, $3, $4, $5, $6, $7) returning id`,
        [
          agency,
          account.email,
          account.name,
          account.role,
          await hashPassword(world.password),
          !account.clients,
          account.role === 'operator' ? ['people', 'bookings'] : [],
        ],
      );
      for (const slug of account.clients ?? [])
        await db.query('insert into account_client (account_id, client_id) values ($1, $2)', [
          made.rows[0]!.id,
          ids.get(slug),
        ]);
    }
    await db.query('commit');
  } finally {
    await db.end();
  }
  return world;
}
