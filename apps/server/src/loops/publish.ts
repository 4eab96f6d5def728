import { differences, fieldsOf, type Loop } from '@dart-loop/core';
import type { Examined } from '@dart-loop/core/loops/check/examine';
import type { Clock } from '../platform/clock';
import { toJson } from '../platform/db/json';
import { makeFields } from '../people/change';
import { cuesChanged } from './cueRevision';
import { isDatabaseAway, type Connection, type Db } from '../platform/db/pool';
import { audit } from '../platform/db/audit';
import { Problem } from '../platform/problem';
import { TooHeavy, type Threads } from '../platform/threads/threads';
import { surroundingsOf } from './surroundings';

/** Why a loop cannot be published, in sentences. */
const notPublishable = (sentences: string, details: Record<string, unknown> = {}): Problem =>
  new Problem(422, 'Not published', sentences, details);

/**
 * Throws where something stands in the way: what the checks stop at, and takes that play otherwise than they
 * were kept.
 */
export function mayBePublished({ findings, takes }: Pick<Examined, 'findings' | 'takes'>): void {
  const problems = findings.filter(({ severity }) => severity === 'stops');
  if (problems.length > 0)
    throw notPublishable(
      `${problems.length === 1 ? 'One thing stands' : `${problems.length} things stand`} in the way: ${problems.map((problem) => problem.reason).join(' ')}`,
      { problems },
    );
  const changed = takes.filter((take) => take.changed > 0);
  if (changed.length > 0)
    throw notPublishable(
      `${changed.length === 1 ? `The take “${changed[0]!.name}” plays` : `${changed.length} takes play`} otherwise than kept. Accept what has changed, or mend the draft.`,
      { takes: changed.map(({ takeId, name, changed: turns }) => ({ takeId, name, turns })) },
    );
}

/**
 * Freezes a draft, which was examined, as the next version, makes its fields, and lets every worker know.
 * Gives the version's number.
 */
export async function publishLoop(
  db: Connection,
  clientId: number,
  accountId: number | null,
  { id: loopId, draft, live }: { id: string; draft: Loop; live: Loop | null },
  examined: Pick<Examined, 'findings' | 'takes'>,
  now: number,
): Promise<number> {
  mayBePublished(examined);
  const changes = live ? differences(live, draft) : ['first version'];
  if (changes.length === 0) throw notPublishable('The draft is the same as the live version.');
  const version = (
    await db.query<{ next: number }>(
      'select coalesce(max(version), 0) + 1 as next from loop_version where client_id = $1 and loop_id = $2',
      [clientId, loopId],
    )
  ).rows[0]!.next;
  // Takes and accepted findings belong to the draft; what runs does not carry them.
  const { takes: _takes, accepted: _accepted, ...bare } = draft;
  await db.query(
    `
      insert into loop_version (client_id, loop_id, version, loop, changes, published_at, published_by)
      values ($1, $2, $3, $4, $5, $6, $7)`,
    [clientId, loopId, version, toJson(bare), changes, new Date(now), accountId],
  );
  await db.query('update loop set live_version = $3 where client_id = $1 and id = $2', [
    clientId,
    loopId,
    version,
  ]);
  await makeFields(db, clientId, fieldsOf(draft));
  await cuesChanged(db, clientId);
  await audit(db, clientId, accountId, now, 'published a loop', { loopId, version, changes });
  return version;
}

/** Nothing is scheduled any more; `failed` says why it could not be published, where that is so. */
export const endSchedule = (db: Connection, clientId: number, loopId: string, failed: string | null = null) =>
  db.query(
    `
      update loop set scheduled = null, scheduled_at = null, scheduled_by = null, schedule_failed = $3
      where client_id = $1 and id = $2`,
    [clientId, loopId, failed],
  );

/**
 * Publishes what was scheduled and is due; what cannot be published says why and stays a draft. Gives the
 * clients concerned.
 */
export async function publishScheduled(db: Db, clock: Clock, threads: Threads): Promise<number[]> {
  const connection = await db.connect();
  const clients: number[] = [];
  try {
    for (;;) {
      await connection.query('begin');
      const due = (
        await connection.query<{
          client_id: number;
          id: string;
          scheduled: Loop;
          scheduled_by: number | null;
          live: Loop | null;
        }>(
          `
           select l.client_id, l.id, l.scheduled, l.scheduled_by, v.loop as live from loop l
           left join loop_version v on v.client_id = l.client_id and v.loop_id = l.id
             and v.version = l.live_version
           where l.scheduled_at <= $1 order by l.scheduled_at limit 1 for no key update of l skip locked`,
          [new Date(clock.now())],
        )
      ).rows[0];
      if (!due) {
        await connection.query('rollback');
        return clients;
      }
      clients.push(due.client_id);
      await connection.query('savepoint publishing');
      const settle = (failed: string | null) => endSchedule(connection, due.client_id, due.id, failed);
      try {
        const known = await surroundingsOf(connection, due.client_id, due.id);
        const examined = await threads.run('examineLoop', { draft: due.scheduled, known });
        await publishLoop(
          connection,
          due.client_id,
          due.scheduled_by,
          { ...due, draft: due.scheduled },
          examined,
          clock.now(),
        );
        await settle(null);
      } catch (error) {
        if (isDatabaseAway(error)) throw error;
        // What was half done goes; that it failed stands on the loop, and the next one is not held up.
        await connection.query('rollback to savepoint publishing');
        await settle(
          error instanceof Problem || error instanceof TooHeavy
            ? error.message
            : 'The program met a fault of its own; publish it by hand.',
        );
      }
      await connection.query('commit');
    }
  } catch (error) {
    await connection.query('rollback').catch(() => undefined);
    throw error;
  } finally {
    connection.release();
  }
}
