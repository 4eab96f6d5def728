import type { Clock } from '../platform/clock';
import { toJson } from '../platform/db/json';
import type { Connection, Db } from '../platform/db/pool';
import { newId } from '../platform/ids';
import { UNDER_WAY } from '../platform/jobs/tasks';

/** The kind of task that reads a site. */
export const READ_SITE = 'read site';

/** Begins to read the pages of a source anew, unless that is under way. */
export async function beginReading(
  db: Connection | Db,
  clientId: number,
  source: { id: string; name: string },
  accountId: number | null,
  now: number,
): Promise<void> {
  await db.query(
    `
      insert into task (client_id, id, kind, title, spec, made_at, made_by)
      select $1, $2, $3, $4, $5, $6, $7
      where not exists (select from task where client_id = $1 and kind = $3 and spec ->> 'sourceId' = $8
        and state = any ($9))`,
    [
      ...[clientId, newId(now), READ_SITE, source.name, toJson({ sourceId: source.id }), new Date(now)],
      ...[accountId, source.id, UNDER_WAY],
    ],
  );
}

/** Stops what is under way; what was read is kept. */
export const stopReading = (db: Connection, clientId: number, sourceId: string) =>
  db.query(
    `
      update task set state = 'stopping' where client_id = $1 and kind = $2 and spec ->> 'sourceId' = $3
        and state in ('waiting', 'running')`,
    [clientId, READ_SITE, sourceId],
  );

const EVERY_MS = { day: 24 * 3_600_000, week: 7 * 24 * 3_600_000 };

/** Begins to read what is to be read again by now; whether anything is. */
export async function readDue(db: Db, clock: Clock): Promise<boolean> {
  const now = clock.now();
  const { rows } = await db.query<{ client_id: number; id: string; name: string }>(
    `
      select s.client_id, s.id, s.name from source s join client c on c.id = s.client_id
      where c.archived_at is null and s.read_at is not null
        and ((s.every = 'day' and s.read_at < $1) or (s.every = 'week' and s.read_at < $2))
        and not exists (select from task t where t.client_id = s.client_id and t.kind = $3
          and t.spec ->> 'sourceId' = s.id::text and (t.state = any ($4) or t.made_at > $1))`,
    [new Date(now - EVERY_MS.day), new Date(now - EVERY_MS.week), READ_SITE, UNDER_WAY],
  );
  for (const { client_id, id, name } of rows) await beginReading(db, client_id, { id, name }, null, now);
  return rows.length > 0;
}
