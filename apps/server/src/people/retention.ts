import { inTransactionAgain, type Db } from '../platform/db/pool';
import type { Resting } from '../platform/jobs/resting';
import { erase } from './actions';

const AT_ONCE = 50;
/** Events that other systems read by cursor. */
const HAPPENINGS_AT_ONCE = 5_000;
const HAPPENINGS_DAYS = 30;

interface Kept {
  id: number;
  messages: number | null;
  people: number | null;
}

/**
 * Lets go of what the clients wish to keep no longer: messages and events of so many days ago, people without
 * a sign for so long, and what other systems have had time to read. A little at a time; says whether there
 * may be more.
 */
export async function keepRetention(db: Db, now: number, key: Buffer, resting: Resting): Promise<boolean> {
  const { rows: clients } = await db.query<Kept>(
    `
      select id, (retention ->> 'messages')::int as messages, (retention ->> 'people')::int as people
      from client where retention <> '{"messages": null, "people": null}'`,
  );
  const old = await db.query(
    `
      delete from happening where (client_id, tx, n) in (select client_id, tx, n from happening
        where at < $1 order by at limit $2)`,
    [new Date(now - HAPPENINGS_DAYS * 86_400_000), HAPPENINGS_AT_ONCE],
  );
  await db.query('update inlet set example = null, example_at = null where example_at < $1', [
    new Date(now - 86_400_000),
  ]);
  let more = old.rowCount === HAPPENINGS_AT_ONCE;
  for (const client of clients)
    more = (await resting.try('retention', client.id, () => keepOf(db, client, now, key))) || more;
  return more;
}

/** The same for one client. */
async function keepOf(db: Db, { id, messages, people }: Kept, now: number, key: Buffer): Promise<boolean> {
  const before = (days: number) => new Date(now - days * 86_400_000);
  let more = false;
  if (messages !== null) {
    const { rows } = await db.query<{ gone: number }>('select forget_messages($1, $2) as gone', [
      id,
      before(messages),
    ]);
    more = rows[0]!.gone > 0;
  }
  if (people === null) return more;
  const { rows } = await db.query<{ id: string }>(
    `select id from person where client_id = $1 and last_seen_at < $2 order by last_seen_at limit ${AT_ONCE}`,
    [id, before(people)],
  );
  for (const person of rows)
    await inTransactionAgain(db, (connection) =>
      erase(connection, id, person.id, { now, by: null, reason: `no sign for ${people} days`, key }),
    );
  return more || rows.length === AT_ONCE;
}
