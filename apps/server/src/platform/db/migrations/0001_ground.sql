-- The agency, its people and its clients.
create table agency (
  id int generated always as identity primary key,
  name text not null
);

create table client (
  id int generated always as identity primary key,
  agency_id int not null references agency (id),
  slug text not null unique,
  name text not null,
  brief jsonb not null default '{}',
  country text not null default 'GB',
  time_zone text not null default 'Europe/London',
  -- Raised by every publish, pause and change of lines, so that workers know when their cached cues are stale.
  cue_revision int not null default 0
);

create table account (
  id int generated always as identity primary key,
  agency_id int not null references agency (id),
  email text not null unique,
  name text not null,
  role text not null check (role in ('owner', 'builder', 'operator', 'client')),
  password_hash text not null,
  -- All clients of the agency, or only those in account_client.
  all_clients boolean not null default false
);
create table account_client (
  account_id int not null references account (id) on delete cascade,
  client_id int not null references client (id),
  primary key (account_id, client_id)
);
create table session (
  token_hash bytea primary key,
  account_id int not null references account (id) on delete cascade,
  created_at timestamptz not null,
  expires_at timestamptz not null
);

-- Everything below belongs to exactly one client. A line's id is unique on its own, so that hot tables can name it alone.
create table line (
  client_id int not null references client (id),
  id int generated always as identity,
  key text not null,
  name text not null,
  channel text not null,
  -- What may be shown: the bot's name, the number.
  account jsonb not null default '{}',
  -- AES-256-GCM; null once the line is disconnected.
  secrets bytea,
  secret_hints jsonb not null default '{}',
  hook_token text not null unique,
  connected_at timestamptz,
  last_heard_at timestamptz,
  last_sent_at timestamptz,
  failing_since timestamptz,
  failure jsonb,
  primary key (client_id, id),
  unique (client_id, key),
  unique (id)
);

create table field (
  client_id int not null references client (id),
  key text not null,
  type text not null,
  name text not null,
  primary key (client_id, key)
);

create table person (
  client_id int not null references client (id),
  id uuid not null,
  first_name text,
  last_name text,
  fields jsonb not null default '{}',
  tags text[] not null default '{}',
  created_at timestamptz not null,
  last_seen_at timestamptz not null,
  primary key (client_id, id)
);
create index person_recent on person (client_id, last_seen_at desc, id desc);

-- One identity per person and line; its id is also its conversation's.
create table identity (
  client_id int not null,
  id uuid not null,
  person_id uuid not null,
  line_id int not null,
  address text not null,
  handle text,
  created_at timestamptz not null,
  primary key (client_id, id),
  foreign key (client_id, person_id) references person (client_id, id)
);
create index identity_person on identity (client_id, person_id);

create table conversation (
  client_id int not null references client (id),
  id uuid not null,
  line_id int not null,
  address text not null,
  person_id uuid,
  run_id uuid,
  shelf text not null default 'settled' check (shelf in ('waiting on us', 'running', 'settled')),
  waiting_since timestamptz,
  -- The place of the last entry in the conversation's log.
  seq int not null default 0,
  last_words text not null default '',
  last_at timestamptz not null,
  primary key (client_id, id),
  unique (line_id, address)
);
create index conversation_recent on conversation (client_id, last_at desc, id desc);
create index conversation_waiting on conversation (client_id, waiting_since) where shelf = 'waiting on us';

create table loop (
  client_id int not null references client (id),
  id uuid not null,
  name text not null,
  position int not null,
  draft jsonb not null,
  draft_revision int not null default 1,
  draft_saved_at timestamptz not null,
  draft_saved_by int references account (id),
  live_version int,
  primary key (client_id, id)
);
create table loop_version (
  client_id int not null,
  loop_id uuid not null,
  version int not null,
  loop jsonb not null,
  changes text[] not null default '{}',
  published_at timestamptz not null,
  published_by int references account (id),
  primary key (client_id, loop_id, version),
  foreign key (client_id, loop_id) references loop (client_id, id)
);

create table run (
  client_id int not null references client (id),
  id uuid not null,
  conversation_id uuid not null,
  loop_id uuid not null,
  version int not null,
  status text not null,
  state jsonb not null,
  started_at timestamptz not null,
  ended_at timestamptz,
  primary key (client_id, id)
);
create index run_loop on run (client_id, loop_id, started_at);

-- Ids of events, decisions and messages are UUIDs of version 7: they begin with their time, so that a range of ids
-- is a month, and the tables can be partitioned by month without another column in every key.
create table event (
  client_id int not null,
  id uuid not null,
  line_id int not null,
  conversation_id uuid not null,
  provider_id text not null,
  happened_at timestamptz not null,
  body jsonb not null,
  primary key (client_id, id)
) partition by range (id);
create table event_rest partition of event default;

-- Each event of a platform is stored once, however often it is delivered.
create table event_key (
  line_id int not null,
  provider_id text not null,
  received_at timestamptz not null,
  primary key (line_id, provider_id)
);

create table decision (
  client_id int not null,
  id uuid not null,
  conversation_id uuid not null,
  event_id uuid,
  seq int not null,
  happened_at timestamptz not null,
  candidates jsonb,
  notes jsonb not null,
  primary key (client_id, id)
) partition by range (id);
create table decision_rest partition of decision default;
create index decision_conversation on decision (client_id, conversation_id, seq);

create table message (
  client_id int not null,
  id uuid not null,
  line_id int not null,
  conversation_id uuid not null,
  seq int not null,
  -- Who gets it, as on the conversation: the sender reads this table alone.
  address text not null,
  made_at timestamptz not null,
  loop_id uuid,
  version int,
  step_id text,
  body jsonb not null,
  status text not null default 'queued' check (status in ('queued', 'sent', 'failed')),
  attempts int not null default 0,
  failure jsonb,
  provider_id text,
  sent_at timestamptz,
  primary key (client_id, id)
) partition by range (id);
create table message_rest partition of message default;
create index message_conversation on message (client_id, conversation_id, seq);
create index message_queue on message (line_id, conversation_id, seq) where status = 'queued';

-- What waits to be decided, in order. The row goes in the same transaction as its effects come.
create table pending (
  id bigint generated always as identity primary key,
  client_id int not null,
  line_id int not null,
  conversation_id uuid not null,
  event_id uuid,
  -- The platform's own order within the line, where it has one.
  place bigint,
  ready_at timestamptz not null,
  happened_at timestamptz not null,
  body jsonb not null
);
create index pending_conversation on pending (conversation_id);
create index pending_held on pending (line_id, place) where place is not null;

create table timer (
  client_id int not null,
  run_id uuid not null,
  turn int not null,
  line_id int not null,
  conversation_id uuid not null,
  due_at timestamptz not null,
  primary key (client_id, run_id, turn)
);
create index timer_due on timer (due_at);

-- Who or what set a value, and what it was before. Only ever added to.
create table field_change (
  client_id int not null,
  id bigint generated always as identity,
  person_id uuid not null,
  field text not null,
  before jsonb,
  after jsonb,
  at timestamptz not null,
  by jsonb not null,
  primary key (client_id, id)
);
create index field_change_person on field_change (client_id, person_id, id desc);
create table tag_change (
  client_id int not null,
  id bigint generated always as identity,
  person_id uuid not null,
  tag text not null,
  is_on boolean not null,
  at timestamptz not null,
  by jsonb not null,
  primary key (client_id, id)
);
create index tag_change_person on tag_change (client_id, person_id, id desc);

-- Signed, but not understood: kept, counted and shown on the line.
create table aside (
  client_id int not null,
  id bigint generated always as identity,
  line_id int not null,
  received_at timestamptz not null,
  reason text not null,
  body text not null,
  primary key (client_id, id)
);

-- Every change by a person of the agency.
create table audit (
  client_id int not null,
  id bigint generated always as identity,
  account_id int,
  at timestamptz not null,
  what text not null,
  detail jsonb not null default '{}',
  primary key (client_id, id)
);

alter table pending set (autovacuum_vacuum_scale_factor = 0.0, autovacuum_vacuum_threshold = 5000, autovacuum_analyze_scale_factor = 0.0, autovacuum_analyze_threshold = 5000);

-- One month of the partitioned tables, by the time inside the ids.
-- Rows of a month that came before its partition stay where they are, in the rest.
create function make_month(first_day date) returns void language plpgsql security definer set search_path = public as $$
declare
  part text;
  bound_from uuid := lpad(to_hex((extract(epoch from first_day::timestamp at time zone 'UTC') * 1000)::bigint), 12, '0') || repeat('0', 20);
  bound_to uuid := lpad(to_hex((extract(epoch from (first_day + interval '1 month')::timestamp at time zone 'UTC') * 1000)::bigint), 12, '0') || repeat('0', 20);
begin
  foreach part in array array['event', 'decision', 'message'] loop
    if to_regclass(part || to_char(first_day, '_YYYY_MM')) is null then
      begin
        execute format('create table %I partition of %I for values from (%L) to (%L)', part || to_char(first_day, '_YYYY_MM'), part, bound_from, bound_to);
      exception when check_violation or duplicate_table then null;
      end;
    end if;
  end loop;
end $$;

-- The role of the HTTP routes sees the rows of the clients named for the transaction, and nothing without a name.
create function client_is_open(client int) returns boolean language sql stable as
  $$ select client = any (string_to_array(nullif(current_setting('dartloop.clients', true), ''), ',')::int[]) $$;

do $$
declare
  tenant text;
begin
  foreach tenant in array array['line', 'field', 'person', 'identity', 'conversation', 'loop', 'loop_version', 'run', 'event', 'decision', 'message', 'pending', 'timer', 'field_change', 'tag_change', 'aside', 'audit'] loop
    execute format('alter table %I enable row level security', tenant);
    execute format('create policy of_open_clients on %I to dartloop_app using (client_is_open(client_id)) with check (client_is_open(client_id))', tenant);
    -- The lane carries the events of all clients by its nature; it takes no words from any request but its own events.
    execute format('create policy of_the_lane on %I to dartloop_lane using (true) with check (true)', tenant);
  end loop;
end $$;
alter table client enable row level security;
create policy of_open_clients on client to dartloop_app using (client_is_open(id)) with check (client_is_open(id));
create policy of_the_lane on client to dartloop_lane using (true);

revoke all on function make_month from public;
grant execute on function make_month to dartloop_lane;
grant usage on schema public to dartloop_app, dartloop_lane;
grant select on agency, account, account_client to dartloop_app;
grant select, insert, delete on session to dartloop_app;
grant select, update on client to dartloop_app;
grant select, insert, update, delete on line to dartloop_app;
grant select, insert, update on field, loop to dartloop_app;
grant select, insert on loop_version, audit to dartloop_app;
grant select on person, identity, conversation, run, event, decision, message, pending, field_change, tag_change, aside to dartloop_app;
grant select, update, delete on timer to dartloop_app;
grant update (status, failure, attempts) on message to dartloop_app;

grant select on client, line, loop, loop_version, field to dartloop_lane;
grant update (last_heard_at, last_sent_at, failing_since, failure) on line to dartloop_lane;
grant select, insert, update on person, identity, conversation, run, message to dartloop_lane;
grant select, insert on event, event_key, decision, field_change, tag_change, aside to dartloop_lane;
grant select, insert, update, delete on pending, timer to dartloop_lane;

-- The clients of an agency, for signing in: before that no client is open yet.
create function client_of_agency(agency int) returns table (id int) language sql stable security definer set search_path = public as
  $$ select client.id from client where agency_id = agency order by client.id $$;
revoke all on function client_of_agency from public;
grant execute on function client_of_agency to dartloop_app;
