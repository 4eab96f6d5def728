import type { Clock } from '../clock';
import type { Db } from '../db/pool';

/** Timers that have fallen due become pending events of their conversation, in the order they were due. */
const FALL_DUE = `
  with due as (
    select client_id, run_id, turn from timer where due_at <= $1 order by due_at limit 500 for update skip locked
  ), taken as (
    delete from timer using due where timer.client_id = due.client_id and timer.run_id = due.run_id and timer.turn = due.turn
    returning timer.client_id, timer.line_id, timer.conversation_id, timer.run_id, timer.turn, timer.due_at
  )
  insert into pending (client_id, line_id, conversation_id, event_id, place, ready_at, happened_at, body)
  select client_id, line_id, conversation_id, null, null, $1, due_at,
    jsonb_build_object('incoming', jsonb_build_object('kind', 'timer', 'runId', run_id, 'turn', turn), 'words', '', 'profile', jsonb_build_object('firstName', null, 'lastName', null, 'handle', null))
  from taken order by due_at`;

/** Moves the timers that are due into their conversations' lanes. Returns how many. */
export async function fallDue(db: Db, clock: Clock): Promise<number> {
  return (await db.query({ name: 'fall-due', text: FALL_DUE, values: [new Date(clock.now())] })).rowCount ?? 0;
}
