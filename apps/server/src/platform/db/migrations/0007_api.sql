-- Keys that the clients' own systems call our API with; a token is kept as its hash alone.
create table api_key (
  client_id int not null references client (id),
  id int generated always as identity,
  name text not null,
  scopes text[] not null,
  token_hash bytea not null unique,
  hint text not null,
  made_at timestamptz not null,
  last_used_at timestamptz,
  primary key (client_id, id),
  unique (client_id, name)
);

-- Whose key a token is: before that no client is open.
create function client_of_key(hash bytea) returns table (client_id int, id int, name text, scopes text[]) language sql stable security definer set search_path = public as
  $$ select client_id, id, name, scopes from api_key where token_hash = hash $$;
revoke all on function client_of_key from public;
grant execute on function client_of_key to dartloop_app;

-- What happens to people, in an order that can be read by cursor: kept for a client from its first key that reads events on. `tx` is the transaction that wrote it;
-- what lies below the oldest one under way is complete, so that nothing can turn up behind a reader.
create table happening (
  client_id int not null,
  tx xid8 not null default pg_current_xact_id(),
  n bigint generated always as identity,
  at timestamptz not null,
  person_id uuid not null,
  type text not null,
  data jsonb not null,
  primary key (client_id, tx, n),
  foreign key (client_id, person_id) references person (client_id, id) on delete cascade
);
create index happening_person on happening (client_id, person_id);
create index happening_age on happening (at);

create function reads_events(of_client int) returns boolean language sql stable security definer set search_path = public as
  $$ select exists (select from api_key where client_id = of_client and 'read events' = any (scopes)) $$;
revoke all on function reads_events from public;

-- The changes of one statement, as far as anybody reads them. The argument says what they are of.
create function keep_happenings() returns trigger language plpgsql security definer set search_path = public as $$
declare
  part text := tg_argv[0];
begin
  if not exists (select from api_key k where 'read events' = any (k.scopes) and k.client_id in (select client_id from changed)) then return null; end if;
  insert into happening (client_id, at, person_id, type, data)
  select c.client_id, c.at, c.person_id, 'person.' || part || '.changed',
    case part
      when 'field' then jsonb_build_object('field', j ->> 'field', 'before', j #> '{before,value}', 'after', j #> '{after,value}')
      when 'consent' then jsonb_build_object('what', j ->> 'what', 'scope', j ->> 'scope', 'list', j ->> 'list',
        'line', (select l.key from line l where l.client_id = c.client_id and l.id = (j ->> 'line_id')::int))
      else jsonb_build_object(part, j ->> part, 'on', j -> 'is_on') end
  from changed c cross join lateral to_jsonb(c) j
  join person p on p.client_id = c.client_id and p.id = c.person_id
  where reads_events(c.client_id);
  return null;
end $$;
revoke all on function keep_happenings from public;
create trigger keep_fields after insert on field_change referencing new table as changed for each statement execute function keep_happenings('field');
create trigger keep_tags after insert on tag_change referencing new table as changed for each statement execute function keep_happenings('tag');
create trigger keep_lists after insert on list_change referencing new table as changed for each statement execute function keep_happenings('list');
create trigger keep_consents after insert on consent referencing new table as changed for each statement execute function keep_happenings('consent');

-- A run that begins or ends; one that goes through in a single turn does both.
create function keep_run() returns trigger language plpgsql security definer set search_path = public as $$
begin
  if reads_events(new.client_id) then
    insert into happening (client_id, at, person_id, type, data)
    select new.client_id, e.at, p.id, e.type, jsonb_build_object('run', new.id, 'loop', l.name, 'version', new.version) || e.more
    from conversation c join person p on p.client_id = c.client_id and p.id = c.person_id
    join loop l on l.client_id = new.client_id and l.id = new.loop_id
    cross join lateral (
      select 1 as place, 'run.began' as type, new.started_at as at, '{}'::jsonb as more where tg_op = 'INSERT'
      union all select 2, 'run.ended', new.ended_at, jsonb_build_object('how', new.status) where new.ended_at is not null
    ) e
    where c.client_id = new.client_id and c.id = new.conversation_id order by e.place;
  end if;
  return null;
end $$;
revoke all on function keep_run from public;
create trigger keep_begun after insert on run for each row execute function keep_run();
create trigger keep_ended after update on run for each row when (old.ended_at is null and new.ended_at is not null) execute function keep_run();

do $$
declare
  tenant text;
begin
  foreach tenant in array array['api_key', 'happening'] loop
    execute format('alter table %I enable row level security', tenant);
    execute format('create policy of_open_clients on %I to dartloop_app using (client_id = any ((select open_clients())::int[])) with check (client_id = any ((select open_clients())::int[]))', tenant);
    execute format('create policy of_the_lane on %I to dartloop_lane using (true) with check (true)', tenant);
  end loop;
end $$;
grant select, insert, update, delete on api_key to dartloop_app;
grant select on happening to dartloop_app;
grant select, delete on happening to dartloop_lane;

-- Loops send out to a destination by its name, and go on doing so by the names that it had before.
alter table destination add column before text[] not null default '{}';

-- Incoming webhooks that people are read from: how, of which destination they are the way back, and the example that the reading is made from.
alter table inlet
  add column reading jsonb,
  add column destination_id uuid,
  add column listens_until timestamptz,
  -- As it came: its parts in their order.
  add column example json,
  add column example_at timestamptz,
  -- Why the last call was not taken, where it was not.
  add column refusal text,
  add foreign key (client_id, destination_id) references destination (client_id, id) on delete set null (destination_id);
create unique index inlet_way_back on inlet (client_id, destination_id) where destination_id is not null;
drop function client_of_inlet;
create function client_of_inlet(hash bytea) returns table (client_id int, id int, hook text, reading jsonb, destination_id uuid, listens_until timestamptz)
  language sql stable security definer set search_path = public as
  $$ select client_id, id, hook, reading, destination_id, listens_until from inlet where token_hash = hash $$;
revoke all on function client_of_inlet from public;
grant execute on function client_of_inlet to dartloop_app;

-- What stands in the columns of a destination that tells us of its changes, as far as we know, and which values of theirs ours was put in place of.
create table stands_there (
  client_id int not null,
  destination_id uuid not null,
  person_id uuid not null,
  columns jsonb not null default '{}',
  overruled jsonb not null default '{}',
  -- Rows that are on their way there, and those of tries that nobody knows the end of; the newest last.
  under_way jsonb not null default '[]',
  primary key (client_id, destination_id, person_id),
  foreign key (client_id, destination_id) references destination (client_id, id) on delete cascade,
  foreign key (client_id, person_id) references person (client_id, id) on delete cascade
);
create index stands_there_person on stands_there (client_id, person_id);
create index counterpart_their_id on counterpart (client_id, destination_id, their_id);
alter table stands_there enable row level security;
create policy of_open_clients on stands_there to dartloop_app using (client_id = any ((select open_clients())::int[])) with check (client_id = any ((select open_clients())::int[]));
create policy of_the_lane on stands_there to dartloop_lane using (true) with check (true);
grant select, insert, update on stands_there to dartloop_app, dartloop_lane;
grant select, update on inlet to dartloop_lane;

-- A run that is finished brings a delivery about as well.
create function note_run_for_destinations() returns trigger language plpgsql security definer set search_path = public as $$
begin
  insert into delivery (client_id, id, destination_id, person_id, causes, due_at, made_at)
  select new.client_id, gen_random_uuid(), d.id, p.id, array['run:' || l.name], new.ended_at + interval '1 second', new.ended_at
  from conversation c join person p on p.client_id = c.client_id and p.id = c.person_id
  join loop l on l.client_id = new.client_id and l.id = new.loop_id
  join destination d on d.client_id = new.client_id and d.state <> 'off' and (d.triggers ->> 'runs' = 'any' or exists (
    select from jsonb_array_elements_text(case jsonb_typeof(d.triggers -> 'runs') when 'array' then d.triggers -> 'runs' else '[]' end) named where lower(named) = lower(l.name)))
  where c.client_id = new.client_id and c.id = new.conversation_id
  order by d.id
  on conflict (client_id, destination_id, person_id) where status = 'waiting' and attempts = 0 and taken_until is null
  do update set causes = (array(select distinct unnest(delivery.causes || excluded.causes) order by 1))[1:20];
  return null;
end $$;
revoke all on function note_run_for_destinations from public;
create trigger note_finished after insert on run for each row when (new.status = 'finished') execute function note_run_for_destinations();
create trigger note_finished_later after update on run for each row when (old.ended_at is null and new.status = 'finished') execute function note_run_for_destinations();

-- When everybody it is for is sent next, where that is every day.
alter table destination add column next_at timestamptz;
create index destination_next on destination (next_at) where next_at is not null;

-- A file goes out as a whole: of nobody alone.
alter table delivery alter column person_id drop not null;
