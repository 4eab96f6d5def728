-- What waiting, deciding and handing over need beside the ground.
alter table client
  add column languages text[] not null default '{en}',
  -- Spans per weekday, and days off; empty where nothing is known.
  add column opening_hours jsonb not null default '{}',
  -- The revision of cues whose days and silences have their timers.
  add column planned_revision int not null default 0;

alter table person
  add column lists text[] not null default '{}',
  add column language text,
  -- When each field was last changed, in ms; what the person has been through, by loop.
  add column changed jsonb not null default '{}',
  add column history jsonb not null default '{}';

-- The runs under way, the newest last; run_id is the one that speaks with the person, for lists. What else a conversation
-- remembers (who has stepped in, opt-out, what waits for its turn) is one value of the core's.
alter table conversation
  add column run_ids uuid[] not null default '{}',
  add column standing jsonb not null default '{}';
update conversation set run_ids = array[run_id] where run_id is not null;
update conversation set standing = jsonb_build_object('heardFrom', true, 'lastHeardAt', (extract(epoch from last_at) * 1000)::bigint) where seq > 0;
update run set state = state || '{"answers": {}, "gathered": [], "parent": null, "depth": 0}'::jsonb
  || case when jsonb_typeof(state -> 'at') = 'object' then jsonb_build_object('at', (state -> 'at') || jsonb_build_object('for', 'reply', 'since', (extract(epoch from started_at) * 1000)::bigint)) else '{}'::jsonb end;
create index run_under_way on run (client_id, loop_id) where status = 'under way';

-- What was decided before reads as it would now.
update decision set candidates = replace(candidates::text, '"keyword cue"', '"other cue"')::jsonb where candidates is not null;
update decision set notes = (
  select jsonb_agg(case when note ->> 'code' = 'cue heard' then jsonb_build_object('code', 'cue heard', 'loop', note ->> 'loop', 'how',
      format('“%s” was heard %s', note ->> 'keyword', case note ->> 'match' when 'exactly' then 'exactly' when 'first word' then 'as the first word' else 'anywhere as a whole word' end))
    else note end)
  from jsonb_array_elements(notes) as note
) where notes @> '[{"code": "cue heard"}]';

-- A timer is named within its conversation: setting it again moves it.
alter table timer rename to timer_before;
create table timer (
  client_id int not null,
  conversation_id uuid not null,
  key text not null,
  line_id int not null,
  due_at timestamptz not null,
  incoming jsonb not null,
  primary key (client_id, conversation_id, key)
);
insert into timer (client_id, conversation_id, key, line_id, due_at, incoming)
  select distinct on (client_id, conversation_id, run_id) client_id, conversation_id, 'run:' || run_id, line_id, due_at,
    jsonb_build_object('kind', 'timer', 'runId', run_id, 'turn', turn, 'what', 'run')
  from timer_before order by client_id, conversation_id, run_id, turn desc;
drop table timer_before;
create index timer_due on timer (due_at);

-- A message that one of the team wrote by hand.
alter table message add column by_hand text;

create table list_change (
  client_id int not null,
  id bigint generated always as identity,
  person_id uuid not null,
  list text not null,
  is_on boolean not null,
  at timestamptz not null,
  by jsonb not null,
  primary key (client_id, id)
);
create index list_change_person on list_change (client_id, person_id, id desc);

-- The ledger of opt-ins and opt-outs. Only ever added to.
create table consent (
  client_id int not null,
  id bigint generated always as identity,
  person_id uuid not null,
  line_id int not null,
  conversation_id uuid not null,
  event_id uuid,
  what text not null check (what in ('opt-in', 'opt-out')),
  words text not null,
  at timestamptz not null,
  by jsonb,
  primary key (client_id, id)
);
create index consent_person on consent (client_id, person_id, id desc);

-- What goes to other systems and to staff: written with the event that wants it, done by an errand-runner, tried again
-- with growing pauses. The id is what the other side can drop repeats by.
create table errand (
  client_id int not null,
  id uuid not null,
  conversation_id uuid not null,
  line_id int not null,
  kind text not null check (kind in ('send out', 'alert')),
  -- The run and turn that wait for the answer; null for an alert.
  run_id uuid,
  turn int,
  body jsonb not null,
  by jsonb not null,
  status text not null default 'waiting' check (status in ('waiting', 'done', 'failed')),
  attempts int not null default 0,
  next_at timestamptz not null,
  made_at timestamptz not null,
  ended_at timestamptz,
  -- What came back last: status and body, or the reason in words.
  answer jsonb,
  primary key (client_id, id)
);
create index errand_due on errand (next_at) where status = 'waiting';

-- Incoming webhooks that other systems call; the token is kept as its hash alone.
create table inlet (
  client_id int not null references client (id),
  id int generated always as identity,
  hook text not null,
  token_hash bytea not null unique,
  hint text not null,
  created_at timestamptz not null,
  last_heard_at timestamptz,
  primary key (client_id, id),
  unique (client_id, hook)
);

do $$
declare
  tenant text;
begin
  foreach tenant in array array['timer', 'list_change', 'consent', 'errand', 'inlet'] loop
    execute format('alter table %I enable row level security', tenant);
    execute format('create policy of_open_clients on %I to dartloop_app using (client_is_open(client_id)) with check (client_is_open(client_id))', tenant);
    execute format('create policy of_the_lane on %I to dartloop_lane using (true) with check (true)', tenant);
  end loop;
end $$;

grant select, delete on timer to dartloop_app;
grant select on list_change, consent, errand to dartloop_app;
grant select, insert, update, delete on inlet to dartloop_app;
-- What staff do goes through the lane like everything else.
grant insert on pending to dartloop_app;
grant select, insert, update, delete on timer to dartloop_lane;
grant select, insert on list_change, consent to dartloop_lane;
grant select, insert, update on errand to dartloop_lane;
grant update (planned_revision) on client to dartloop_lane;

-- Whose incoming webhook a token is: before that no client is open.
create function client_of_inlet(hash bytea) returns table (client_id int, id int, hook text) language sql stable security definer set search_path = public as
  $$ select client_id, id, hook from inlet where token_hash = hash $$;
revoke all on function client_of_inlet from public;
grant execute on function client_of_inlet to dartloop_app;
