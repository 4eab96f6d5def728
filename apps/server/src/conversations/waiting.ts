import type { Db } from '../platform/db/pool';
import type { Waiting } from '../platform/metrics';
import { SENDER_LOCK } from '../sending/lineLocks';

/** Whether something has waited since before `since` (ms): to be decided, or on a line nobody sends for. */
export async function oldestWaiting(db: Db, since: number): Promise<{ undecided: boolean; unsent: boolean }> {
  // The oldest rows tell: they are taken first.
  const { rows } = await db.query<{ undecided: boolean; unsent: boolean }>({
    name: 'stands-still',
    text: `
      select exists (select from (select ready_at from pending order by id limit 200) p
        where ready_at <= $1) as undecided,
      exists (select from line l where l.secrets is not null
        and exists (select from message m where m.line_id = l.id and m.status = 'queued'
          and m.made_at <= $1)
        and not exists (select from pg_locks k where k.locktype = 'advisory' and k.classid = ${SENDER_LOCK}
          and k.objid = l.id and k.granted)) as unsent`,
    values: [new Date(since)],
  });
  return rows[0]!;
}

/** What waits at `now` (ms), for the figures. */
export async function waitingNow(db: Db, now: number): Promise<Waiting> {
  const { rows } = await db.query<Waiting>({
    name: 'waiting',
    text: `
      select p.*, m.*, (select count(*) from delivery where status = 'waiting')::int as deliveries,
        (select count(*) from delivery where status = 'shelf')::int as "failedDeliveries",
        (select count(*) from task where state in ('waiting', 'running', 'stopping', 'undoing'))::int as tasks,
        (select count(*) from aside)::int as aside,
        (select count(*) from line where failing_since is not null)::int as "failingLines"
      from (select count(*)::int as undecided,
          greatest(0, coalesce(extract(epoch from $1 - min(ready_at)), 0))::float as "undecidedAge"
        from pending where ready_at <= $1) p,
        (select count(*)::int as unsent,
          greatest(0, coalesce(extract(epoch from $1 - min(made_at)), 0))::float as "unsentAge"
        from message where status = 'queued') m`,
    values: [new Date(now)],
  });
  return rows[0]!;
}
