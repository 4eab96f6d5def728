import type { Connection } from '../platform/db/pool';
import { toJson } from '../platform/db/json';

/**
 * Conversations that somebody has who leaves the team wait for anybody, each by its lane. Whoever has the
 * same name stays with theirs. Returns how many there are, of the clients that are open.
 */
export async function handOnFrom(
  db: Connection,
  { agencyId, name, now }: { agencyId: number; name: string; now: number },
): Promise<number> {
  const { rowCount } = await db.query(
    `
      insert into pending
        (client_id, line_id, conversation_id, event_id, place, ready_at, happened_at, body)
      select c.client_id, c.line_id, c.id, null, null, $2, $2, $3
      from conversation c
      where c.shelf = 'waiting on us' and c.standing -> 'held' ->> 'by' = $1
        and not exists (
          select from account a where a.agency_id = $4 and a.name = $1 and a.left_at is null)`,
    [name, new Date(now), toJson({ incoming: { kind: 'left the team', by: name } }), agencyId],
  );
  return rowCount ?? 0;
}
