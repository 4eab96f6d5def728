import type { Connection } from '../platform/db/pool';

/**
 * Everything that is kept about one person, table by table, as plain data. `who`: their id and those of the
 * people who have become them.
 */
export async function archiveOf(
  db: Connection,
  clientId: number,
  who: string[],
): Promise<Record<string, unknown[]>> {
  const talks = (
    await db.query<{ id: string }>(
      'select id from conversation where client_id = $1 and person_id = any ($2::uuid[])',
      [clientId, who],
    )
  ).rows.map((row) => row.id);
  const archive: Record<string, unknown[]> = {};
  const ofPerson = {
    person: 'id',
    identity: 'person_id',
    field_change: 'person_id',
    tag_change: 'person_id',
    list_change: 'person_id',
    consent: 'person_id',
    task_change: 'person_id',
    merge: 'kept',
    delivery: 'person_id',
    counterpart: 'person_id',
    stands_there: 'person_id',
    happening: 'person_id',
    booking: 'person_id',
    booking_change: 'person_id',
  };
  for (const [table, column] of Object.entries(ofPerson))
    archive[table] = (
      await db.query<{ row: unknown }>(
        `
          select to_jsonb(t) - 'client_id' as row from ${table} t
          where client_id = $1 and ${column} = any ($2::uuid[])`,
        [clientId, who],
      )
    ).rows.map(({ row }) => row);
  for (const [table, order] of [
    ['conversation', 'id'],
    ['event', 'id'],
    ['decision', 'id'],
    ['message', 'id'],
    ['run', 'started_at'],
    ['errand', 'made_at'],
    ['timer', 'key'],
    ['pending', 'id'],
  ] as const)
    archive[table] = (
      await db.query<{ row: unknown }>(
        `
          select to_jsonb(t) - 'client_id' as row from ${table} t
          where client_id = $1 and ${table === 'conversation' ? 'id' : 'conversation_id'} = any ($2::uuid[])
          order by ${order}`,
        [clientId, talks],
      )
    ).rows.map(({ row }) => row);
  return archive;
}
