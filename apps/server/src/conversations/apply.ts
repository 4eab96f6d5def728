import { toJson } from '../platform/db/json';
import { WRITE_TERMS } from '../people/facts';
import { writeBookings } from '../bookings/calendars';
import type { Connection } from '../platform/db/pool';
import { noteSentOut } from '../sync/noting';
import type { Changes } from './changes';

const read = (parameter: number, columns: string) =>
  `json_to_recordset($${parameter}::json) as t (${columns})`;

const APPLY = `
  with people as (
    insert into person (client_id, id, first_name, last_name, language, fields, changed, history, tags, lists,
      created_at, last_seen_at)
    select client_id, id, first_name, last_name, language, fields, changed, history, tags_on, lists_on, at, at
    from ${read(1, 'client_id int, id uuid, first_name text, last_name text, language text, fields jsonb, changed jsonb, history jsonb, tags_on text[], lists_on text[], at timestamptz')}
    on conflict (client_id, id) do update set
      first_name = coalesce(excluded.first_name, person.first_name),
      last_name = coalesce(excluded.last_name, person.last_name),
      language = coalesce(excluded.language, person.language),
      fields = person.fields || excluded.fields,
      changed = person.changed || excluded.changed,
      history = person.history || excluded.history,
      lists = case when excluded.lists = '{}' then person.lists else array(select distinct list
        from unnest(person.lists || excluded.lists) as list order by list) end,
      tags = case when excluded.tags = '{}' then person.tags else array(select distinct tag
        from unnest(person.tags || excluded.tags) as tag order by tag) end,
      last_seen_at = greatest(person.last_seen_at, excluded.last_seen_at)
    returning 1
  ), runs as (
    insert into run (client_id, id, conversation_id, loop_id, version, status, state, started_at, ended_at)
    select client_id, id, conversation_id, loop_id, version, status, state, at, case
      when status = 'under way' then null else at end
    from ${read(2, 'client_id int, id uuid, conversation_id uuid, loop_id uuid, version int, status text, state jsonb, at timestamptz')}
    on conflict (client_id, id) do update
    set version = excluded.version, status = excluded.status, state = excluded.state,
      ended_at = excluded.ended_at
  ), decisions as (
    insert into decision (client_id, id, conversation_id, event_id, seq, happened_at, candidates, notes)
    select * from
      ${read(3, 'client_id int, id uuid, conversation_id uuid, event_id uuid, seq int, at timestamptz, candidates jsonb, notes jsonb')}
  ), messages as (
    insert into message (client_id, id, line_id, conversation_id, seq, address, made_at, loop_id, version,
      step_id, by_hand, body, status, via, go_until, failure, unasked, list, zone, about_consent)
    select * from
      ${read(4, 'client_id int, id uuid, line_id int, conversation_id uuid, seq int, address text, at timestamptz, loop_id uuid, version int, step_id text, by_hand text, body jsonb, status text, via jsonb, go_until timestamptz, failure jsonb, unasked boolean, list text, zone text, about_consent boolean')}
  ), timers as (
    insert into timer (client_id, conversation_id, key, line_id, due_at, incoming)
    select * from
      ${read(5, 'client_id int, conversation_id uuid, key text, line_id int, due_at timestamptz, incoming jsonb')}
    on conflict (client_id, conversation_id, key) do update
    set due_at = excluded.due_at, incoming = excluded.incoming
  ), timers_gone as (
    delete from timer using ${read(6, 'client_id int, conversation_id uuid, key text')}
    where timer.client_id = t.client_id and timer.conversation_id = t.conversation_id and timer.key = t.key
  ), field_changes as (
    insert into field_change (client_id, person_id, field, before, after, at, by)
    select * from
      ${read(7, 'client_id int, person_id uuid, field text, before jsonb, after jsonb, at timestamptz, by jsonb')}
  ), tag_changes as (
    insert into tag_change (client_id, person_id, tag, is_on, at, by)
    select * from
      ${read(8, 'client_id int, person_id uuid, tag text, is_on boolean, at timestamptz, by jsonb')}
  ), done as (
    delete from pending where id = any($9::bigint[]) returning 1
  ), moved as (
    update conversation c
    set person_id = t.person_id, run_id = t.run_id, run_ids = t.run_ids, standing = t.standing,
      shelf = t.shelf, waiting_since = t.waiting_since, seq = t.seq, last_words = t.last_words,
      last_at = t.last_at
    from ${read(10, 'client_id int, id uuid, person_id uuid, run_id uuid, run_ids uuid[], standing jsonb, shelf text, waiting_since timestamptz, seq int, last_words text, last_at timestamptz')}
    where c.client_id = t.client_id and c.id = t.id
    returning 1
  )
  select (select count(*) from done)::int as done, (select count(*) from moved)::int as moved`;

const IDENTITIES = `
  insert into identity (client_id, id, person_id, line_id, address, handle, created_at)
  select * from
    ${read(1, 'client_id int, id uuid, person_id uuid, line_id int, address text, handle text, at timestamptz')}
  on conflict do nothing`;
/** What merging cannot take away. */
const TAKE_AWAY = `
  update person set
    tags = array(select tag from unnest(person.tags) as tag where tag <> all(t.tags_off) order by tag),
    lists = array(select list from unnest(person.lists) as list where list <> all(t.lists_off) order by list),
    fields = person.fields - t.fields_off
  from ${read(1, 'client_id int, id uuid, tags_off text[], lists_off text[], fields_off text[]')}
  where person.client_id = t.client_id and person.id = t.id`;
const LIST_CHANGES = `
  insert into list_change (client_id, person_id, list, is_on, at, by)
  select * from
    ${read(1, 'client_id int, person_id uuid, list text, is_on boolean, at timestamptz, by jsonb')}`;
const CONSENTS = `
  insert into consent (client_id, person_id, line_id, conversation_id, event_id, what, words, at, by, scope,
    list, wording, language, cue_id, confirmed)
  select * from
    ${read(1, 'client_id int, person_id uuid, line_id int, conversation_id uuid, event_id uuid, what text, words text, at timestamptz, by jsonb, scope text, list text, wording int, language text, cue_id text, confirmed boolean')}`;
const ERRANDS = `
  insert into errand (client_id, id, conversation_id, line_id, kind, run_id, turn, body, by, next_at, made_at)
  select client_id, id, conversation_id, line_id, kind, run_id, turn, body, by, at, at
  from ${read(1, 'client_id int, id uuid, conversation_id uuid, line_id int, kind text, run_id uuid, turn int, body jsonb, by jsonb, at timestamptz')}`;

const ASKED = `
  insert into asked (client_id, id, conversation_id, loop_id, at, question, came, passages)
  select * from
    ${read(1, 'client_id int, id uuid, conversation_id uuid, loop_id uuid, at timestamptz, question text, came text, passages uuid[]')}`;

const ELSEWHERE = `
  insert into pending (client_id, line_id, conversation_id, event_id, place, ready_at, happened_at, body)
  select t.client_id, c.line_id, t.conversation_id, null, null, t.at, t.at, t.body
  from ${read(1, 'client_id int, conversation_id uuid, at timestamptz, body jsonb')}
  join conversation c on c.client_id = t.client_id and c.id = t.conversation_id`;

const RELEASED = `
  update message m set status = 'queued', failure = null, via = null, go_until = t.go_until
  from ${read(1, 'client_id int, conversation_id uuid, go_until timestamptz')}
  where m.conversation_id = t.conversation_id and m.client_id = t.client_id and m.status = 'held'`;

const DROPPED = `
  update message m set status = 'failed', failure = t.failure
  from ${read(1, 'client_id int, conversation_id uuid, loop_id uuid, up_to int, failure jsonb')}
  where m.conversation_id = t.conversation_id and m.client_id = t.client_id and m.loop_id = t.loop_id
    and m.seq <= t.up_to and m.status = 'held'`;

const PUBLIC_REPLIES = `
  update post p set answered = p.answered + t.count
  from (select client_id, line_id, id, count(*)::int as count
    from ${read(1, 'client_id int, line_id int, id text')} group by 1, 2, 3) t
  where p.client_id = t.client_id and p.line_id = t.line_id and p.id = t.id`;

/**
 * Writes a batch in one statement (and one more for each of the rarer things that are in it). Throws when a
 * conversation or pending row was not there any more: the caller's transaction is then rolled back and
 * nothing has happened.
 */
export async function applyChanges(db: Connection, changes: Changes): Promise<void> {
  const timers = [...changes.timers.values()];
  const { rows } = await db.query<{ done: number; moved: number }>({
    name: 'apply',
    text: APPLY,
    values: [
      toJson(changes.people),
      toJson(changes.runs),
      toJson(changes.decisions),
      toJson(changes.messages),
      toJson(timers.filter((timer) => timer.set)),
      toJson(timers.filter((timer) => !timer.set)),
      toJson(changes.fieldChanges),
      toJson(changes.tagChanges),
      changes.done,
      toJson(changes.conversations),
    ],
  });
  if (rows[0]?.done !== changes.done.length || rows[0].moved !== changes.conversations.length)
    throw new Error('a batch was not applied whole: its conversations or pending events have changed');
  const rarely = async (name: string, text: string, some: unknown[]) => {
    if (some.length > 0) await db.query({ name, text, values: [toJson(some)] });
  };
  await rarely('apply-identities', IDENTITIES, changes.identities);
  await rarely(
    'apply-taking-away',
    TAKE_AWAY,
    changes.people.filter(
      (each) => each.tags_off.length + each.lists_off.length + each.fields_off.length > 0,
    ),
  );
  await rarely('apply-public-replies', PUBLIC_REPLIES, changes.publicReplies);
  await rarely('apply-dropped', DROPPED, changes.dropped);
  await rarely('apply-released', RELEASED, changes.released);
  await rarely('apply-elsewhere', ELSEWHERE, changes.elsewhere);
  await rarely('write-terms', WRITE_TERMS, changes.terms);
  await rarely('apply-lists', LIST_CHANGES, changes.listChanges);
  await rarely('apply-consents', CONSENTS, changes.consents);
  await rarely('apply-errands', ERRANDS, changes.errands);
  await rarely('apply-asked', ASKED, changes.asked);
  if (changes.bookings.length > 0) await writeBookings(db, changes.bookings);
  if (changes.deliveries.length > 0) await noteSentOut(db, changes.deliveries);
}
