import { nextTime } from '@dart-loop/core';
import type { Triggers } from '@dart-loop/contract';
import type { Clock } from '../platform/clock';
import { toJson } from '../platform/db/json';
import { inTransactionAgain, type Connection, type Db } from '../platform/db/pool';
import { newId } from '../platform/ids';
import type { Resting } from '../platform/jobs/resting';
import { noteFile } from './noting';
import { isWhole, type StoredDestination } from './stored';

/** When everybody a destination is for is sent next, in ms; null where that is never. */
const nextSending = ({ daily }: Triggers, zone: string, now: number): number | null =>
  daily ? nextTime(now, zone, daily.at) : null;

/**
 * Sets the next time of day of a destination, as its triggers and state say now; told whenever either was
 * changed.
 */
export async function planSending(db: Connection, clientId: number, id: string, now: number): Promise<void> {
  const { rows } = await db.query<Pick<StoredDestination, 'triggers' | 'state'> & { time_zone: string }>(
    `
      select d.triggers, d.state, c.time_zone from destination d join client c on c.id = d.client_id
      where d.client_id = $1 and d.id = $2`,
    [clientId, id],
  );
  if (!rows[0]) return;
  const { triggers, state, time_zone } = rows[0];
  const next = state === 'off' ? null : nextSending(triggers, time_zone, now);
  await db.query('update destination set next_at = $3 where client_id = $1 and id = $2', [
    clientId,
    id,
    next && new Date(next),
  ]);
}

/**
 * Notes deliveries of everybody a destination is for, where its time of day has come, as a task with its
 * progress. Says whose.
 */
export async function sendDaily(db: Db, clock: Clock, resting: Resting): Promise<number[]> {
  const clients: number[] = [];
  for (;;) {
    const done = await inTransactionAgain(db, async (connection) => {
      const now = clock.now();
      const { rows } = await connection.query<StoredDestination & { time_zone: string }>(
        `
          select d.*, c.time_zone from destination d join client c on c.id = d.client_id
          where d.next_at <= $1 and d.id <> all ($2::uuid[]) order by d.next_at limit 1 for
          update of d skip locked`,
        [new Date(now), resting.of('daily')],
      );
      const due = rows[0];
      if (!due) return null;
      await connection.query('savepoint noting');
      const noted = await resting.try('daily', due.id, () => noteDaily(connection, due, now));
      if (noted === null) await connection.query('rollback to savepoint noting');
      return due.client_id;
    });
    if (done === null) return clients;
    clients.push(done);
  }
}

async function noteDaily(
  connection: Connection,
  due: StoredDestination & { time_zone: string },
  now: number,
): Promise<true> {
  const next = nextSending(due.triggers, due.time_zone, now);
  await connection.query('update destination set next_at = $3 where client_id = $1 and id = $2', [
    due.client_id,
    due.id,
    next && new Date(next),
  ]);
  // What waits while it is paused would only be sent twice; the next day comes.
  if (due.state !== 'on') return true;
  if (isWhole(due)) {
    await noteFile(connection, due, 'every day', now);
    return true;
  }
  await connection.query(
    "insert into task (client_id, id, kind, title, spec, made_at) values ($1, $2, 'action', $3, $4, $5)",
    [
      due.client_id,
      newId(now),
      `Everybody to ${due.name}, as every day`,
      toJson({
        chosen: { q: '', rule: due.who },
        action: { do: 'send to', destinationId: due.id },
        cause: 'every day',
      }),
      new Date(now),
    ],
  );
  return true;
}
