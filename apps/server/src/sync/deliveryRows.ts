import type { Parcel } from '@dart-loop/core/sync/kinds/kind';
import { arrived, type StandsThere } from '@dart-loop/core/sync/settle';
import { toJson } from '../platform/db/json';
import { inTransaction, type Db } from '../platform/db/pool';
import { growingPause } from '../platform/jobs/pace';
import { wordsOf, type CallMade, type Outcome } from './exchange';
import { type StoredDestination } from './stored';

/** Rows of tries that nobody knows the end of. */
const MOST_UNDER_WAY = 4;
/** From so many fails in a row on, only one is tried at a time, after growing pauses. */
export const BREAKS_AT = 5;
const LONGEST_BREAK_MS = 300_000;
/** For so long it is tried again while the other side is not well; then it goes on the shelf. */
const GIVES_UP_MS = 3 * 24 * 3_600_000;

export interface DeliveryRow {
  client_id: number;
  id: string;
  destination_id: string;
  /** Null: a file of everybody. */
  person_id: string | null;
  attempts: number;
  cells: Parcel['row']['cells'] | null;
  causes: string[];
  made_at: Date;
  their_id: string | null;
  stands: StandsThere | null;
}

/** `hears`: it tells us of its changes as well. */
export type Due = StoredDestination & { hears: boolean };

/** The row stays with the delivery: unless something is changed meanwhile, every try sends the same. */
export function noteUnderWay(
  pool: Db,
  { id }: Due,
  row: DeliveryRow,
  { row: { cells } }: Parcel,
): Promise<void> {
  const values = [row.client_id, id, row.person_id, toJson(cells)];
  return inTransaction(pool, async (db) => {
    await db.query(
      `
       insert into stands_there (client_id, destination_id, person_id, under_way)
       select client_id, $2, id, jsonb_build_array($4::jsonb) from person where client_id = $1 and id = $3
       on conflict (client_id, destination_id, person_id) do update set under_way =
         case when jsonb_array_length(stands_there.under_way) < ${MOST_UNDER_WAY} then
           stands_there.under_way else stands_there.under_way - 0 end || excluded.under_way`,
      values,
    );
    await db.query("update delivery set cells = $2 where client_id = $1 and id = $3 and status = 'waiting'", [
      row.client_id,
      values[3],
      row.id,
    ]);
  });
}

/**
 * Keeps what stands over there now. A crash between this and the mark sends the same once more, which is no
 * news to anybody.
 */
export async function noteEnded(
  pool: Db,
  { id }: Due,
  row: DeliveryRow,
  { row: { cells } }: Parcel,
  isThere: boolean,
  since: number,
  now: number,
): Promise<void> {
  await inTransaction(pool, async (db) => {
    const key = [row.client_id, id, row.person_id];
    const { rows } = await db.query<{ columns: StandsThere; under_way: Parcel['row']['cells'][] }>(
      `
        select columns, under_way from stands_there where client_id = $1 and destination_id = $2
          and person_id = $3 for update`,
      key,
    );
    if (!rows[0]) return;
    const { columns, under_way } = rows[0];
    const stands = isThere ? arrived(columns, cells, since, now, under_way.slice(0, -1)) : columns;
    await db.query(
      `
        update stands_there set columns = $4, under_way = '[]'
        where client_id = $1 and destination_id = $2 and person_id = $3`,
      [...key, toJson(stands)],
    );
  });
}

/** Marks a try of a delivery with its outcome; `chance` from 0 to 1 spreads the next. Gives the status. */
export async function markDelivery(
  db: Db,
  { id: destinationId, fails, hears }: Due,
  row: DeliveryRow,
  /** Null for a file, which is made anew with every try. */
  parcel: Parcel | null,
  outcome: Outcome,
  calls: CallMade[],
  ms: number,
  { now, chance }: { now: number; chance: number },
): Promise<{ status: string; attempts: number }> {
  const attempts = row.attempts + (outcome.kind === 'left out' ? 0 : 1);
  const givenUp = outcome.kind === 'again' && now - row.made_at.getTime() > GIVES_UP_MS;
  const waits = (outcome.kind === 'again' && !givenUp) || outcome.kind === 'locked';
  const status =
    outcome.kind === 'done' ? 'done' : outcome.kind === 'left out' ? 'left out' : waits ? 'waiting' : 'shelf';
  const words =
    outcome.kind === 'done'
      ? parcel
        ? wordsOf(outcome, parcel)
        : outcome.words
      : givenUp
        ? `given up after ${attempts} tries: ${outcome.reason}`
        : outcome.reason;
  const afterMs =
    outcome.kind === 'again' ? Math.max(outcome.afterMs ?? 0, growingPause(attempts, chance)) : 0;
  const rest = restOf(outcome, fails + 1, chance);
  await db.query({
    name: 'mark-delivery',
    text: `
           with marked as (
             update delivery set status = $3, attempts = $4, due_at = $5, taken_until = null, cells = case
               when $18 and $3 = 'waiting' then coalesce(cells, $6) else $6 end, outcome = $7, ended_at =
               case when $3 = 'waiting' then null else $8::timestamptz end
             where client_id = $1 and id = $2 and status = 'waiting'
             returning client_id, id, destination_id, person_id
           ), tried as (
             insert into attempt (client_id, delivery_id, n, at, ms, ok, reason, calls)
             select client_id, id, $4, $8, $9, $10, $7, $11 from marked where $4 > $12
             on conflict do nothing
           ), named as (
             insert into counterpart (client_id, destination_id, person_id, their_id)
             select client_id, destination_id, person_id, $13 from marked where $13::text is not null
             on conflict (client_id, destination_id, person_id) do update set their_id = excluded.their_id
           )
           update destination set
             fails = case when $10 then 0 when $14 then greatest(fails + 1, $15) else fails end,
             resume_at = case when $10 then null
               when $16::timestamptz is not null then greatest(resume_at, $16) else resume_at end,
             failing_since = case when $10 then null when $14 then coalesce(failing_since, $8)
               else failing_since end,
             failure = case when $10 then null when $14 then $7 else failure end,
             last_ok_at = case when $10 then $8 else last_ok_at end
           where client_id = $1 and id = $17
             and (($10
             and (fails > 0 or last_ok_at is null or last_ok_at < $8::timestamptz - interval '10 seconds'))
             or $14)`,
    values: [
      row.client_id,
      row.id,
      status,
      attempts,
      new Date(now + afterMs),
      outcome.kind === 'left out' || !parcel ? null : toJson(parcel.row.cells),
      words,
      new Date(now),
      ms,
      outcome.kind === 'done',
      toJson(calls),
      row.attempts,
      outcome.kind === 'done' ? outcome.theirId : null,
      outcome.kind === 'again' || outcome.kind === 'locked',
      outcome.kind === 'locked' ? BREAKS_AT : 0,
      rest > 0 ? new Date(now + rest) : null,
      destinationId,
      hears,
    ],
  });
  return { status, attempts };
}

/**
 * How long the whole destination rests after the last of so many fails in a row, in ms; one that does not let
 * us in is not knocked at again and again.
 */
function restOf(outcome: Outcome, fails: number, chance: number): number {
  if (outcome.kind === 'locked') return LONGEST_BREAK_MS;
  if (outcome.kind !== 'again') return 0;
  const own =
    fails >= BREAKS_AT ? Math.min(growingPause(fails - BREAKS_AT + 3, chance), LONGEST_BREAK_MS) : 0;
  return Math.max(own, outcome.afterMs ?? 0);
}
