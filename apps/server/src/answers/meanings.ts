import type { Connection } from '../platform/db/pool';
import type { KnownMeaning } from './held';

/** So many are read at once: some megabytes. */
export const READ_AT_ONCE = 2_000;

/** What is kept of meanings, by digest; what is not kept is left out. */
export async function meaningsKept(
  db: Connection,
  clientId: number,
  digests: readonly string[],
): Promise<KnownMeaning[]> {
  const { rows } = await db.query<{ digest: Buffer; meaning: Buffer }>(
    'select digest, meaning from passage_meaning where client_id = $1 and digest = any($2)',
    [clientId, digests.map(bytesOf)],
  );
  return rows.map(({ digest, meaning }) => ({
    digest: digest.toString('base64'),
    meaning: new Int8Array(meaning),
  }));
}

/** Writes down what passages mean. */
export async function keepMeanings(
  db: Connection,
  clientId: number,
  known: readonly KnownMeaning[],
): Promise<void> {
  await db.query(
    `
      insert into passage_meaning (client_id, digest, meaning)
      select $1, * from unnest($2::bytea[], $3::bytea[]) on conflict do nothing`,
    [
      clientId,
      known.map(({ digest }) => bytesOf(digest)),
      known.map(({ meaning }) => Buffer.from(meaning.buffer, meaning.byteOffset, meaning.byteLength)),
    ],
  );
}

/** Lets go of what no passage of the client says any more. */
export async function dropMeanings(
  db: Connection,
  clientId: number,
  butOf: readonly string[],
): Promise<void> {
  await db.query('delete from passage_meaning where client_id = $1 and not digest = any($2)', [
    clientId,
    butOf.map(bytesOf),
  ]);
}

const bytesOf = (digest: string): Buffer => Buffer.from(digest, 'base64');
