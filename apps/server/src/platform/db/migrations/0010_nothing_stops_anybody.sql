-- What could not be processed, whatever the reason: shown on its line, in its conversation and on Today, and tried again at a press.
-- `body` is what is tried again: a request of the platform, an event as it was read, a row of `pending`, or a lead form whose answers are missing.
alter table aside
  add column kind text not null default 'not understood' check (kind in ('not understood', 'not stored', 'not decided', 'lead form')),
  add column conversation_id uuid,
  add column tries int not null default 1,
  -- When it is tried again by itself, or because somebody wished it; null: it waits for a person.
  add column again_at timestamptz;
create index aside_line on aside (client_id, line_id, id desc);
create index aside_conversation on aside (client_id, conversation_id) where conversation_id is not null;
create index aside_again on aside (again_at) where again_at is not null;
grant update, delete on aside to dartloop_lane;
grant update (again_at) on aside to dartloop_app;

-- How often somebody has called within the time that is looked at, for all processes together. It need not outlive a crash.
create unlogged table rate_limit (
  key varchar(255) primary key,
  points int not null default 0,
  expire bigint
);
create index rate_limit_expire on rate_limit (expire);
grant select, insert, update, delete on rate_limit to dartloop_app;

-- Open screens of whoever has signed out, or may see something else now, are ended at once, whoever changed it.
create function tell_ended() returns trigger language plpgsql as $$
begin
  if tg_table_name = 'session' then
    perform pg_notify('dart_loop', json_build_object('clients', '[]'::json, 'ended', json_build_object('session', encode(old.token_hash, 'hex')))::text);
  elsif tg_table_name = 'account' then
    perform pg_notify('dart_loop', json_build_object('clients', '[]'::json, 'ended', json_build_object('account', old.id))::text);
  else
    perform pg_notify('dart_loop', json_build_object('clients', '[]'::json, 'ended', json_build_object('account', coalesce(new.account_id, old.account_id)))::text);
  end if;
  return null;
end $$;
create trigger session_ended after delete on session for each row execute function tell_ended();
create trigger account_changed after update of role, all_clients or delete on account for each row execute function tell_ended();
create trigger account_clients_changed after insert or update or delete on account_client for each row execute function tell_ended();
create index session_expires on session (expires_at);

-- The keys that secrets are sealed with, each sealed itself with the key that the server is started with (`master` names that one). A key is here twice
-- while the server's key is being changed: once for those that run with the old one, once for those that start with the new one.
create table data_key (
  id bytea not null,
  master bytea not null,
  sealed bytea not null,
  made_at timestamptz not null default now(),
  primary key (id, master)
);
grant select, insert, delete on data_key to dartloop_lane;
grant update (secrets) on line, destination to dartloop_lane;

-- An entry of the ledger that was written by an import or action that is undone counts no more: a later entry says so and names it. So what was said before it
-- counts again, whatever that was.
alter table consent drop constraint consent_what_check;
alter table consent
  add constraint consent_what_check check (what in ('opt-in', 'opt-out', 'undone')),
  add column undoes bigint;
create index consent_undoes on consent (client_id, undoes) where undoes is not null;
create index consent_by_task on consent (client_id, person_id) where by ->> 'taskId' is not null;
-- The entries that count.
create view consent_now with (security_invoker = true) as
  select c.* from consent c
  where c.undoes is null and not exists (select from consent u where u.client_id = c.client_id and u.undoes = c.id);
grant select on consent_now to dartloop_app, dartloop_lane;

create or replace function refusal(of_client int, of_conversation uuid, of_list text, is_unasked boolean) returns text language sql stable as $$
  select case
    when (select what from consent_now
          where client_id = of_client and ((scope = 'line' and conversation_id = of_conversation) or (scope = 'everything' and person_id = any (who.ids)))
          order by id desc limit 1) = 'opt-out' then 'opted out'
    when of_list is not null and is_unasked and (select what from consent_now
          where client_id = of_client and scope = 'list' and list = of_list and person_id = any (who.ids) order by id desc limit 1) is distinct from 'opt-in' then 'not on the list'
  end
  from (
    select array_append(array(select gone from merge where client_id = of_client and kept = c.person_id and parted_at is null), c.person_id) as ids
    from conversation c where c.client_id = of_client and c.id = of_conversation
  ) who
$$;

-- Conversations that an import has brought and on which nothing was ever said go with it.
create function take_back_conversations(of_client int, ids uuid[]) returns int language plpgsql security definer set search_path = public as $$
declare
  free uuid[];
begin
  free := array(select c.id from conversation c where c.client_id = of_client and c.id = any (ids) and c.seq = 0
    and not exists (select from message m where m.client_id = of_client and m.conversation_id = c.id)
    and not exists (select from pending p where p.conversation_id = c.id));
  delete from timer where client_id = of_client and conversation_id = any (free);
  delete from identity where client_id = of_client and id = any (free);
  delete from conversation where client_id = of_client and id = any (free);
  return cardinality(free);
end $$;
revoke all on function take_back_conversations from public;
grant execute on function take_back_conversations to dartloop_lane;

-- Everything of some people, from every table. Runs as the owner, since the ledger is otherwise only added to.
create function erase_people(of_client int, people uuid[]) returns jsonb language plpgsql security definer set search_path = public as $$
declare
  who uuid[];
  talks uuid[];
  counts jsonb := '{}';
  part text;
  gone bigint;
  total bigint := 0;
begin
  if current_setting('role') = 'dartloop_app' or session_user = 'dartloop_app' then
    if not (of_client = any (open_clients())) then raise exception 'the client is not open'; end if;
  end if;
  who := array(select unnest(people) union select m.gone from merge m where m.client_id = of_client and m.kept = any (people) and m.parted_at is null);
  talks := array(select id from identity where client_id = of_client and person_id = any (who)
                 union select id from conversation where client_id = of_client and person_id = any (who));
  delete from aside where client_id = of_client and conversation_id = any (talks);
  get diagnostics gone = row_count;
  total := gone;
  delete from aside a using conversation c
    where a.client_id = of_client and c.client_id = of_client and c.id = any (talks) and a.line_id = c.line_id and position(c.address in a.body) > 0;
  get diagnostics gone = row_count;
  counts := counts || jsonb_build_object('kept aside', total + gone);
  delete from event_key k using event e
    where e.client_id = of_client and e.conversation_id = any (talks) and k.line_id = e.line_id and k.provider_id = e.provider_id;
  foreach part in array array['pending', 'timer', 'errand', 'event', 'decision', 'message', 'run'] loop
    execute format('delete from %I where client_id = $1 and conversation_id = any ($2)', part) using of_client, talks;
    get diagnostics gone = row_count;
    counts := counts || jsonb_build_object(part, gone);
  end loop;
  foreach part in array array['field_change', 'tag_change', 'list_change', 'consent', 'task_change', 'person_terms', 'contact'] loop
    execute format('delete from %I where client_id = $1 and person_id = any ($2)', part) using of_client, who;
    get diagnostics gone = row_count;
    counts := counts || jsonb_build_object(part, gone);
  end loop;
  delete from consent where client_id = of_client and conversation_id = any (talks);
  -- Conversations of theirs that were kept as tests.
  update loop l set draft = jsonb_set(l.draft, '{takes}', (
      select coalesce(jsonb_agg(take), '[]') from jsonb_array_elements(l.draft -> 'takes') take where not (take #>> '{person,id}' = any (who::text[]))))
    where l.client_id = of_client and jsonb_typeof(l.draft -> 'takes') = 'array'
      and exists (select from jsonb_array_elements(l.draft -> 'takes') take where take #>> '{person,id}' = any (who::text[]));
  -- Those who were chosen by hand for an action stand in it: their places are emptied.
  update task t set spec = jsonb_set(t.spec, '{chosen,ids}', (
      select coalesce(jsonb_agg(case when e.id = any (who::text[]) then '00000000-0000-0000-0000-000000000000' else e.id end), '[]') from jsonb_array_elements_text(t.spec #> '{chosen,ids}') as e (id)))
    where t.client_id = of_client and jsonb_typeof(t.spec #> '{chosen,ids}') = 'array'
      and exists (select from jsonb_array_elements_text(t.spec #> '{chosen,ids}') as e (id) where e.id = any (who::text[]));
  -- What the team did stays in the trail, without whom it was done to.
  update audit a set detail = (
      select jsonb_object_agg(d.key, case when d.value #>> '{}' = any (who::text[]) then '"00000000-0000-0000-0000-000000000000"'::jsonb else d.value end) from jsonb_each(a.detail) d)
    where a.client_id = of_client and exists (select from jsonb_each_text(a.detail) d where d.value = any (who::text[]));
  delete from merge where client_id = of_client and (kept = any (who) or merge.gone = any (who));
  delete from not_same where client_id = of_client and (one = any (who) or other = any (who));
  delete from conversation where client_id = of_client and id = any (talks);
  get diagnostics gone = row_count;
  counts := counts || jsonb_build_object('conversation', gone);
  delete from identity where client_id = of_client and person_id = any (who);
  delete from person where client_id = of_client and id = any (who);
  get diagnostics gone = row_count;
  return counts || jsonb_build_object('person', gone);
end $$;
create or replace function erase_person(of_client int, of_person uuid) returns jsonb language sql as $$ select erase_people(of_client, array[of_person]) $$;
revoke all on function erase_people from public;
grant execute on function erase_people to dartloop_app, dartloop_lane;
