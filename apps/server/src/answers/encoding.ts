import type { Clock } from '../platform/clock';
import { withClients, type Db } from '../platform/db/pool';
import type { Resting } from '../platform/jobs/resting';
import type { Answers } from './answers';
import type { KnownMeaning } from './held';
import { dropMeanings, keepMeanings } from './meanings';
import { stillTaken, whileTaken } from './taken';

/** So many are written at once. */
const WRITTEN_AT_ONCE = 50;

/**
 * Works out what the passages of clients mean whose sources have changed since, one client after the other,
 * passage by passage, so that questions are answered meanwhile: by their words alone, until all is
 * known.
 */
export async function encodeStale(
  db: Db,
  answers: Answers,
  clock: Clock,
  resting: Resting,
  isStopped: () => boolean,
): Promise<void> {
  // The encoder knows English; what is said in other languages is compared by its words alone.
  await db.query(
    `
      update client set encoded_revision = sources_revision
      where encoded_revision <> sources_revision and not ('en' = any(languages))`,
  );
  const { rows } = await db.query<{ id: number }>(
    `
      select id from client where encoded_revision <> sources_revision and archived_at is null
      order by encoding_taken_at nulls first, id`,
  );
  for (const { id } of rows) {
    if (isStopped()) return;
    await resting.try('meanings', id, () =>
      whileTaken(db, 'encoding_taken_at', id, clock, () => encodeClient(db, id, answers, clock, isStopped)),
    );
  }
}

async function encodeClient(
  db: Db,
  clientId: number,
  answers: Answers,
  clock: Clock,
  isStopped: () => boolean,
): Promise<void> {
  const revision = await answers.hold(clientId);
  let known: KnownMeaning[] = [];
  const write = async () => {
    if (known.length > 0)
      await withClients(db, [clientId], (connection) => keepMeanings(connection, clientId, known));
    known = [];
    await stillTaken(db, 'encoding_taken_at', clientId, clock);
  };
  while (!isStopped()) {
    const encoded = await answers.encodeNext(clientId, revision);
    // They have changed since, or others took their place: the next round goes on.
    if (encoded === null) return write();
    known.push(...encoded.known);
    if (known.length >= WRITTEN_AT_ONCE || encoded.digests) await write();
    if (!encoded.digests) continue;
    const { digests } = encoded;
    await withClients(db, [clientId], async (connection) => {
      await dropMeanings(connection, clientId, digests);
      await connection.query('update client set encoded_revision = $2 where id = $1', [clientId, revision]);
    });
    return;
  }
  await write();
}
