import { HELD_AT_MOST } from '@dart-loop/core';
import type { Clock } from '../platform/clock';
import { toJson } from '../platform/db/json';
import type { Db } from '../platform/db/pool';

/** Drops, with its reason, what was held back and never might go. Gives the clients that it belonged to. */
export async function dropHeld(db: Db, clock: Clock): Promise<number[]> {
  const { rows } = await db.query<{ client_id: number }>(
    `
      update message set status = 'failed', failure = $2 where status = 'held' and made_at < $1
      returning client_id`,
    [new Date(clock.now() - HELD_AT_MOST), toJson(DROPPED)],
  );
  return [...new Set(rows.map((row) => row.client_id))];
}

const DROPPED = {
  code: 'held too long',
  reason: 'It was held back until the person would write, and they did not within seven days.',
  remedy: 'Let the loop ask sooner, or on a line that may write at any time.',
};
