import { fold, type Condition, type ListFacts } from '@dart-loop/core';
import type { Connection, Db } from '../platform/db/pool';

/**
 * What names stand for where people are asked about: saved segments, loops and lists, by their folded names.
 */
export interface PeopleWords {
  segments: Record<string, Condition>;
  loopIds: Record<string, string>;
  lists: Record<string, ListFacts>;
}

/** The names of several clients, read at once. */
export async function peopleWordsOf(
  db: Connection | Db,
  clientIds: number[],
): Promise<(clientId: number) => PeopleWords> {
  const segments = await db.query<{ client_id: number; folded: string; rule: Condition }>(
    'select client_id, folded, rule from segment where client_id = any($1)',
    [clientIds],
  );
  const loops = await db.query<{ client_id: number; id: string; name: string }>(
    `
      select client_id, id, name from loop where client_id = any($1)
      order by archived_at nulls last, position desc`,
    [clientIds],
  );
  const lists = await db.query<ListFacts & { client_id: number }>(
    `
     select l.client_id, l.name, l.double, coalesce(w.words, '') as wording, coalesce(w.version, 0) as version
     from list l
    
     left join lateral (select words, version from list_wording w where w.client_id = l.client_id and w.list = l.name
       order by version desc limit 1) w on true
     where l.client_id = any($1)`,
    [clientIds],
  );
  return (clientId) => {
    const own = <T extends { client_id: number }>(rows: T[]) =>
      rows.filter((row) => row.client_id === clientId);
    return {
      segments: Object.fromEntries(own(segments.rows).map((row) => [row.folded, row.rule])),
      loopIds: Object.fromEntries(own(loops.rows).map((row) => [fold(row.name), row.id])),
      lists: Object.fromEntries(
        own(lists.rows).map(({ name, double, wording, version }) => [
          fold(name),
          { name, double, wording, version },
        ]),
      ),
    };
  };
}
