import type { Run } from '@dart-loop/core';
import { PERSON_COLUMNS } from '../people/stored';
import type { PendingEvent, PersonRow } from './claimed';

/** Conversations taken in one transaction. */
const MOST_CONVERSATIONS = 50;
const MOST_EVENTS = 500;

export interface PendingRow extends PendingEvent {
  id: number;
  conversation_id: string;
  ready: boolean;
}
export interface Standing extends PersonRow {
  conversation_id: string;
  cue_revision: number;
  runs: Run[];
}
/**
 * The next conversations with events that may be decided, oldest first. Locks die with the connection, so
 * there is no lease.
 */
export const CLAIM = `
  select client_id, id, line_id, address, person_id, run_ids, standing, shelf, waiting_since, seq, last_words,
    last_at
  from conversation
  where (client_id, id) in (
    select client_id, conversation_id
    from (select client_id, conversation_id from pending where ready_at <= $1 order by id
      limit ${MOST_EVENTS}) as oldest
  )
  limit ${MOST_CONVERSATIONS} for no key update skip locked`;
/** The same of one conversation, which failed in company. */
export const CLAIM_ALONE = `
  select client_id, id, line_id, address, person_id, run_ids, standing, shelf, waiting_since, seq, last_words,
    last_at
  from conversation c
  where id = $2 and exists (select from pending p where p.conversation_id = c.id and p.ready_at <= $1)
  for no key update skip locked`;
/** A statement of its own, so that it sees what was committed before the locks were taken. */
export const EVENTS = `
  select id, conversation_id, event_id, happened_at, ready_at <= $2 as ready, body from pending
  where conversation_id = any($1::uuid[]) order by place nulls last, happened_at, id limit 2000`;
export const STANDINGS = `
  select c.id as conversation_id, l.key as line_key, l.name as line_name, l.channel, k.cue_revision,
    ${PERSON_COLUMNS},
    array(select a from identity i, unnest(array[i.address, i.handle]) a
      where i.client_id = p.client_id and i.person_id = p.id and i.id <> c.id and a is not null) as addresses,
    (select i.handle from identity i where i.client_id = c.client_id and i.id = c.id) as handle,
    coalesce(c.person_id, same.person_id) as known_person_id,
    (select jsonb_agg(jsonb_build_object('conversationId', o.id, 'line',
      jsonb_build_object('key', ol.key, 'name', ol.name, 'channel', ol.channel), 'standing', o.standing))
     from identity i join conversation o on o.client_id = i.client_id and o.id = i.id
     join line ol on ol.client_id = o.client_id and ol.id = o.line_id
     where i.client_id = c.client_id and i.person_id = coalesce(c.person_id, same.person_id) and i.id <> c.id
       and ol.secrets is not null) as beside,
    array(select r.state from run r where r.client_id = c.client_id and r.id = any(c.run_ids)
      order by array_position(c.run_ids, r.id)) as runs
  from conversation c
  join line l on l.client_id = c.client_id and l.id = c.line_id
  join client k on k.id = c.client_id
  -- Whoever has written from the same telephone number on another line is the same person.
  left join lateral (
    (select i.person_id from identity i where c.person_id is null and c.address like '+%'
      and i.client_id = c.client_id and i.address = c.address and i.address like '+%' limit 1)
    union all
    -- Where the client wishes it, so is whoever has told us that number.
    (select n.person_id from contact n where c.person_id is null and k.matching = 'automatic'
      and n.client_id = c.client_id and n.value = 'p:' || c.address limit 1)
    limit 1
  ) same on true
  left join person p on p.client_id = c.client_id and p.id = coalesce(c.person_id, same.person_id)
  where c.client_id = any($1::int[]) and c.id = any($2::uuid[])`;
