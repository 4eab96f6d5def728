create extension if not exists pg_trgm;
create extension if not exists btree_gin;

-- The open clients are read once for a statement, not once for every row.
create function open_clients() returns int[] language sql stable as
  $$ select coalesce(string_to_array(nullif(current_setting('dartloop.clients', true), ''), ',')::int[], '{}') $$;
do $$
declare
  tenant record;
  seen text;
begin
  for tenant in select tablename from pg_policies where policyname = 'of_open_clients' and schemaname = 'public' loop
    seen := case tenant.tablename when 'client' then 'id' else 'client_id' end || ' = any ((select open_clients())::int[])';
    execute format('alter policy of_open_clients on %I using (%s) with check (%s)', tenant.tablename, seen, seen);
  end loop;
end $$;
drop function client_is_open;

alter table client
  -- From when to when nothing goes out unasked, by channel; what is left out is as it is for everybody.
  add column quiet_hours jsonb not null default '{}',
  -- The most unasked messages to one person over all lines.
  add column frequency jsonb not null default '{"perDay": null, "perWeek": null}',
  -- Whether people with the same number or address become one by themselves or are suggested.
  add column matching text not null default 'suggested' check (matching in ('suggested', 'automatic')),
  -- After how many days without a sign of them what is kept of a person goes; null: never.
  add column retention jsonb not null default '{"messages": null, "people": null}';

alter table field
  add column description text not null default '',
  add column options text[] not null default '{}',
  add column personal boolean not null default false;
grant delete on field to dartloop_app;
grant update on field to dartloop_lane;

-- Fields that the agency puts into its clients.
create table shared_field (
  agency_id int not null references agency (id),
  key text not null,
  type text not null,
  name text not null,
  description text not null default '',
  options text[] not null default '{}',
  personal boolean not null default false,
  primary key (agency_id, key)
);
grant select, insert, update, delete on shared_field to dartloop_app;

-- Consented memberships, with every wording that was ever agreed to.
create table list (
  client_id int not null references client (id),
  name text not null,
  description text not null default '',
  double boolean not null default false,
  primary key (client_id, name)
);
create table list_wording (
  client_id int not null,
  list text not null,
  version int not null,
  words text not null,
  at timestamptz not null,
  by int references account (id),
  primary key (client_id, list, version),
  foreign key (client_id, list) references list (client_id, name)
);

-- The ledger says what an entry is about, by which wording, and how it came about.
alter table consent
  alter column line_id drop not null,
  alter column conversation_id drop not null,
  add column scope text not null default 'line' check (scope in ('line', 'list', 'everything')),
  add column list text,
  add column wording int,
  add column language text,
  add column cue_id text,
  -- What an opt-in from outside rests on, where nobody here has seen it: "till form, June 2026".
  add column stated text,
  -- A single statement, or confirmed by the person.
  add column confirmed boolean not null default false;

alter table person add column source text;

create table segment (
  client_id int not null references client (id),
  id uuid not null,
  name text not null,
  folded text not null,
  rule jsonb not null,
  made_at timestamptz not null,
  made_by int references account (id),
  primary key (client_id, id),
  unique (client_id, folded)
);

-- What segments and searches ask a person for, kept beside the person so that a message that changes none of it costs nothing here.
-- Terms begin with the client, so that the index is parted by it.
create table person_terms (
  client_id int not null,
  person_id uuid not null,
  terms tsvector not null,
  -- Folded texts by field, for what they contain.
  texts jsonb not null default '{}',
  search text not null,
  primary key (client_id, person_id)
);
create index person_terms_terms on person_terms using gin (terms);
-- Past row-level security an index is used only for operators that are known to tell nothing of rows that may not be seen. These two tell nothing
-- but whether they hold. Only a superuser may say so; without it everything is right, and slower.
do $$ begin
  alter function pg_catalog.ts_match_vq(tsvector, tsquery) leakproof;
  alter function pg_catalog.textlike(text, text) leakproof;
exception when insufficient_privilege then
  raise notice 'segments and searches do not use their indexes: the owner of the database is no superuser';
end $$;
create index person_terms_search on person_terms using gin (client_id, search gin_trgm_ops);

-- Numbers and addresses by which two people may turn out to be one: 'e:' an email address, 'p:' a telephone number.
create table contact (
  client_id int not null,
  value text not null,
  person_id uuid not null,
  primary key (client_id, value, person_id)
);
create index contact_person on contact (client_id, person_id);

-- Two people that became one, with all that is needed to part them again.
create table merge (
  client_id int not null,
  id uuid not null,
  kept uuid not null,
  gone uuid not null,
  before jsonb not null,
  at timestamptz not null,
  by jsonb not null,
  parted_at timestamptz,
  primary key (client_id, id)
);
create index conversation_person on conversation (client_id, person_id);
create index merge_kept on merge (client_id, kept) where parted_at is null;
create index merge_gone on merge (client_id, gone) where parted_at is null;
-- Two people that somebody has said are not the same.
create table not_same (
  client_id int not null,
  one uuid not null,
  other uuid not null,
  at timestamptz not null,
  by int references account (id),
  primary key (client_id, one, other)
);

-- Long work on people: imports, actions on many, changes of a field's type, erasing. Its batches are done once each.
create table task (
  client_id int not null references client (id),
  id uuid not null,
  kind text not null,
  state text not null default 'waiting' check (state in ('waiting', 'running', 'stopping', 'stopped', 'done', 'failed', 'undoing', 'undone')),
  title text not null,
  spec jsonb not null,
  total int,
  done int not null default 0,
  -- Where the next batch begins; what it is depends on the kind.
  cursor text,
  counts jsonb not null default '{}',
  -- The first few things that went wrong, each with its row and cell.
  problems jsonb not null default '[]',
  failure text,
  made_at timestamptz not null,
  made_by int references account (id),
  ended_at timestamptz,
  primary key (client_id, id)
);
create index task_recent on task (client_id, made_at desc);
create index task_under_way on task (made_at) where state in ('waiting', 'running', 'stopping', 'undoing');
-- What a task has changed of whom, so that it can be undone.
create table task_change (
  client_id int not null,
  task_id uuid not null,
  n bigint generated always as identity,
  person_id uuid not null,
  made boolean not null,
  before jsonb not null,
  primary key (client_id, task_id, n)
);
create index task_change_person on task_change (client_id, person_id);
-- A file that was brought in, until its task is done.
create table upload (
  client_id int not null references client (id),
  id uuid not null,
  name text not null,
  bytes bigint not null default 0,
  made_at timestamptz not null,
  primary key (client_id, id)
);
create table upload_part (
  client_id int not null,
  upload_id uuid not null,
  n int not null,
  bytes bytea not null,
  primary key (client_id, upload_id, n),
  foreign key (client_id, upload_id) references upload (client_id, id) on delete cascade
);

-- That somebody was erased, when and by whom, and how much of them was; nothing about them.
create table erasure (
  client_id int not null,
  id uuid not null,
  at timestamptz not null,
  by int references account (id),
  reason text not null,
  counts jsonb not null,
  primary key (client_id, id)
);
-- Numbers and addresses that have opted out and were erased since: a keyed hash, so that they stay opted out when they come back.
create table erased_opt_out (
  client_id int not null,
  line_id int not null,
  address_hash bytea not null,
  primary key (client_id, line_id, address_hash)
);

alter table message
  -- The moment at which the ledger was asked and let it go.
  add column going_out_at timestamptz,
  -- The list that it is for, the zone of the person's clock, and whether it answers an opt-out, opt-in or help word.
  add column list text,
  add column zone text,
  add column about_consent boolean not null default false;
grant update (going_out_at) on message to dartloop_lane;

do $$
declare
  tenant text;
begin
  foreach tenant in array array['list', 'list_wording', 'segment', 'person_terms', 'contact', 'merge', 'not_same', 'task', 'task_change', 'upload', 'upload_part', 'erasure', 'erased_opt_out'] loop
    execute format('alter table %I enable row level security', tenant);
    execute format('create policy of_open_clients on %I to dartloop_app using (client_id = any ((select open_clients())::int[])) with check (client_id = any ((select open_clients())::int[]))', tenant);
    execute format('create policy of_the_lane on %I to dartloop_lane using (true) with check (true)', tenant);
  end loop;
end $$;

grant select, insert, update, delete on list, segment, not_same to dartloop_app;
grant select, insert on list_wording to dartloop_app;
grant select, insert, update on merge, task to dartloop_app;
grant select, insert, update, delete on upload, upload_part to dartloop_app;
grant select on task_change, erasure to dartloop_app;
grant select, insert, update, delete on person, person_terms, contact to dartloop_app;
grant insert, update on identity, conversation to dartloop_app;
grant insert on field_change, tag_change, list_change, consent, erasure, erased_opt_out to dartloop_app;
grant select on erased_opt_out to dartloop_app;
grant update (person_id) on identity, conversation to dartloop_app;
grant update (quiet_hours, frequency, matching, retention, cue_revision) on client to dartloop_app;

grant select on list, list_wording, segment, merge, not_same, account, erased_opt_out to dartloop_lane;
grant select, insert, update, delete on person_terms, contact to dartloop_lane;
grant delete on person to dartloop_lane;
grant select, insert, update on task, merge to dartloop_lane;
grant select, insert, delete on task_change to dartloop_lane;
grant insert, delete on not_same to dartloop_lane;
grant select, delete on upload, upload_part to dartloop_lane;
grant insert on list, erasure, erased_opt_out to dartloop_lane;

-- The last word of the ledger on whether a conversation may be written to: null when it may, else what stands against it.
-- A conversation's line and everything count together: whichever was said last. Entries of people who have become this one count as theirs.
create function refusal(of_client int, of_conversation uuid, of_list text, is_unasked boolean) returns text language sql stable as $$
  select case
    when (select what from consent
          where client_id = of_client and ((scope = 'line' and conversation_id = of_conversation) or (scope = 'everything' and person_id = any (who.ids)))
          order by id desc limit 1) = 'opt-out' then 'opted out'
    when of_list is not null and is_unasked and (select what from consent
          where client_id = of_client and scope = 'list' and list = of_list and person_id = any (who.ids) order by id desc limit 1) is distinct from 'opt-in' then 'not on the list'
  end
  from (
    select array_append(array(select gone from merge where client_id = of_client and kept = c.person_id and parted_at is null), c.person_id) as ids
    from conversation c where c.client_id = of_client and c.id = of_conversation
  ) who
$$;
-- Until when a person may get no more unasked messages, over all lines of the client; null when they may now.
create function frequency_until(of_client int, of_conversation uuid, of_message uuid, now_is timestamptz) returns timestamptz language sql stable as $$
  with sent as (
    select coalesce(m.sent_at, m.going_out_at) as at from conversation c
    join conversation o on o.client_id = c.client_id and o.person_id = c.person_id
    join message m on m.client_id = o.client_id and m.conversation_id = o.id
    where c.client_id = of_client and c.id = of_conversation and m.unasked and m.id <> of_message and m.status in ('queued', 'sent')
      and coalesce(m.sent_at, m.going_out_at) > now_is - interval '7 days')
  select greatest(
    case when (k.frequency ->> 'perDay') is not null then
      (select sent.at from sent where sent.at > now_is - interval '1 day' order by sent.at desc offset (k.frequency ->> 'perDay')::int - 1 limit 1) + interval '1 day' end,
    case when (k.frequency ->> 'perWeek') is not null then
      (select sent.at from sent where sent.at > now_is - interval '7 days' order by sent.at desc offset (k.frequency ->> 'perWeek')::int - 1 limit 1) + interval '7 days' end)
  from client k
  where k.id = of_client and k.frequency <> '{"perDay": null, "perWeek": null}'
$$;
create index consent_conversation on consent (client_id, conversation_id, id desc);

-- Everything of one person, from every table. Runs as the owner, since the ledger is otherwise only added to.
create function erase_person(of_client int, of_person uuid) returns jsonb language plpgsql security definer set search_path = public as $$
declare
  who uuid[];
  talks uuid[];
  counts jsonb := '{}';
  part text;
  gone bigint;
begin
  if current_setting('role') = 'dartloop_app' or session_user = 'dartloop_app' then
    if not (of_client = any (open_clients())) then raise exception 'the client is not open'; end if;
  end if;
  who := array(select of_person union select m.gone from merge m where m.client_id = of_client and m.kept = of_person and m.parted_at is null);
  talks := array(select id from identity where client_id = of_client and person_id = any (who)
                 union select id from conversation where client_id = of_client and person_id = any (who));
  delete from aside a using conversation c
    where a.client_id = of_client and c.client_id = of_client and c.id = any (talks) and a.line_id = c.line_id and position(c.address in a.body) > 0;
  get diagnostics gone = row_count;
  counts := counts || jsonb_build_object('kept aside', gone);
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
revoke all on function erase_person from public;
grant execute on function erase_person to dartloop_app, dartloop_lane;

-- Messages, events and decisions of before a moment, some thousands at a time; what waits to be sent stays. Their ids begin with their time.
create function forget_messages(of_client int, before timestamptz) returns int language plpgsql security definer set search_path = public as $$
declare
  bound uuid := lpad(to_hex((extract(epoch from before) * 1000)::bigint), 12, '0') || repeat('0', 20);
  gone bigint;
  total bigint := 0;
begin
  delete from message where client_id = of_client and id in (select id from message where client_id = of_client and id < bound and status in ('sent', 'failed') limit 5000);
  get diagnostics gone = row_count;
  total := total + gone;
  delete from decision where client_id = of_client and id in (select id from decision where client_id = of_client and id < bound limit 5000);
  get diagnostics gone = row_count;
  total := total + gone;
  delete from event where client_id = of_client and id in (
    select id from event e where client_id = of_client and id < bound and not exists (select from pending p where p.event_id = e.id) limit 5000);
  get diagnostics gone = row_count;
  return total + gone;
end $$;
revoke all on function forget_messages from public;
grant execute on function forget_messages to dartloop_lane;
