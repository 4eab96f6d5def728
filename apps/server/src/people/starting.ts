import type { Value } from '@dart-loop/core';
import { toJson } from '../platform/db/json';
import type { Connection } from '../platform/db/pool';

/** A loop that can be started for somebody; no lines: all of them. */
export interface LiveLoop {
  id: string;
  name: string;
  lines: string[];
}

export async function liveLoops(db: Connection, clientId: number): Promise<LiveLoop[]> {
  const { rows } = await db.query<LiveLoop>(
    `
     select l.id, v.loop ->> 'name' as name,
       array(select jsonb_array_elements_text(coalesce(v.loop -> 'lines', '[]'))) as lines
     from loop l join loop_version v on v.client_id = l.client_id and v.loop_id = l.id
       and v.version = l.live_version
     where l.client_id = $1 and l.state = 'live' and l.archived_at is null order by l.position`,
    [clientId],
  );
  return rows;
}

/**
 * Starts a loop for these people, each in the conversation that they used last on one of its lines; says for
 * how many there is one. `by`: in words.
 */
export const startLoopFor = (
  db: Connection,
  clientId: number,
  loop: LiveLoop,
  ids: readonly string[],
  now: number,
  by: string,
): Promise<number> =>
  tellConversations(
    db,
    clientId,
    ids.map((person_id) => ({ person_id, incoming: { kind: 'start', loop: loop.name, by } })),
    now,
    loop.lines,
  );

/**
 * Tags, lists and fields that a live loop waits for are told to it, in the conversation that the person used
 * last.
 */
export async function raiseCues(
  db: Connection,
  clientId: number,
  changed: readonly {
    after: { id: string };
    tagsOn: string[];
    tagsOff: string[];
    listsOn: string[];
    fields: { field: string; before: Value | null; after: Value | null }[];
  }[],
  now: number,
): Promise<void> {
  const raised = changed.flatMap(({ after, tagsOn, tagsOff, listsOn, fields }) =>
    [
      ...tagsOn.map((tag) => ({ kind: 'tag', tag, on: true, depth: 0 })),
      ...tagsOff.map((tag) => ({ kind: 'tag', tag, on: false, depth: 0 })),
      ...listsOn.map((list) => ({ kind: 'list', list, depth: 0 })),
      ...fields.map(({ field, before, after: value }) => ({
        kind: 'field',
        field,
        before,
        after: value,
        depth: 0,
      })),
    ].map((incoming) => ({ person_id: after.id, incoming })),
  );
  if (raised.length === 0 || !(await anyWaits(db, clientId))) return;
  await tellConversations(db, clientId, raised, now);
}

async function anyWaits(db: Connection, clientId: number): Promise<boolean> {
  const { rows } = await db.query<{ waits: boolean }>(
    `
       select exists (select from loop l join loop_version v on v.client_id = l.client_id and v.loop_id = l.id
         and v.version = l.live_version, jsonb_array_elements(v.loop -> 'cues') cue
       where l.client_id = $1 and l.state = 'live' and l.archived_at is null
         and cue ->> 'kind' in ('tag', 'list joined', 'field changed')) as waits`,
    [clientId],
  );
  return rows[0]!.waits;
}

/**
 * Puts something into the lane of the conversation that each of these people used last. Those without one (on
 * one of these lines, where lines are given) are passed over.
 */
export async function tellConversations(
  db: Connection,
  clientId: number,
  told: readonly { person_id: string; incoming: object }[],
  now: number,
  lines: readonly string[] = [],
): Promise<number> {
  const { rowCount } = await db.query(
    `
     insert into pending (client_id, line_id, conversation_id, ready_at, happened_at, body)
     select $1, c.line_id, c.id, $3, $3, jsonb_build_object('incoming', t.incoming)
     from json_to_recordset($2::json) as t (person_id uuid, incoming jsonb)
    
     cross join lateral (select c.id, c.line_id from conversation c
       join line l on l.client_id = c.client_id and l.id = c.line_id
       where c.client_id = $1 and c.person_id = t.person_id and l.secrets is not null
         and (cardinality($4::text[]) = 0 or l.key = any ($4)) order by c.last_at desc, c.id limit 1) c`,
    [clientId, toJson(told), new Date(now), lines],
  );
  return rowCount ?? 0;
}
