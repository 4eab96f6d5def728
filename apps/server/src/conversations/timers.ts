import type { Clock } from '../platform/clock';
import type { Db } from '../platform/db/pool';

/** Timers that have fallen due become pending events of their conversation, in the order they were due. */
const FALL_DUE = `
  with due as (
    select client_id, conversation_id, key from timer where due_at <= $1 order by due_at limit 500
    for update skip locked
  ), taken as (
    delete from timer using due
    where timer.client_id = due.client_id and timer.conversation_id = due.conversation_id
      and timer.key = due.key
    returning timer.client_id, timer.line_id, timer.conversation_id, timer.due_at, timer.incoming
  )
  insert into pending (client_id, line_id, conversation_id, event_id, place, ready_at, happened_at, body)
  select client_id, line_id, conversation_id, null, null, $1, due_at, jsonb_build_object('incoming', incoming)
  from taken order by due_at`;

/** Moves the timers that are due into their conversations' lanes. Returns how many. */
export async function fallDue(db: Db, clock: Clock): Promise<number> {
  return (
    (await db.query({ name: 'fall-due', text: FALL_DUE, values: [new Date(clock.now())] })).rowCount ?? 0
  );
}
