-- Outside systems that people are synced with.
create table destination (
  client_id int not null references client (id),
  id uuid not null,
  name text not null,
  kind text not null,
  settings jsonb not null,
  -- A bearer token, sealed; its last four characters are shown.
  secrets bytea,
  hint text,
  mapping jsonb not null,
  -- What brings a delivery about: {"fields": "any" or [keys], "tags": "any" or [tags], "lists": "any" or [lists]}.
  triggers jsonb not null,
  -- Whom it is for; null: everybody.
  who jsonb,
  -- Whether changes are noted, and whether what was noted goes out.
  state text not null default 'off' check (state in ('off', 'on', 'paused')),
  -- Their columns, as they said last.
  columns jsonb,
  -- Fails in a row; from the fifth on nothing is tried before resume_at but one delivery, to see.
  fails int not null default 0,
  resume_at timestamptz,
  failing_since timestamptz,
  failure text,
  last_ok_at timestamptz,
  made_at timestamptz not null,
  primary key (client_id, id),
  unique (client_id, name)
);

-- What the other side calls a person.
create table counterpart (
  client_id int not null,
  destination_id uuid not null,
  person_id uuid not null,
  their_id text not null,
  primary key (client_id, destination_id, person_id),
  foreign key (client_id, destination_id) references destination (client_id, id) on delete cascade,
  foreign key (client_id, person_id) references person (client_id, id) on delete cascade
);
create index counterpart_person on counterpart (client_id, person_id);

-- What is to be delivered, is, was, or could not be ('shelf': it waits for somebody to look at it).
create table delivery (
  client_id int not null,
  id uuid not null,
  destination_id uuid not null,
  person_id uuid not null,
  -- Order of a person's deliveries.
  n bigint generated always as identity,
  status text not null default 'waiting' check (status in ('waiting', 'done', 'shelf', 'left out')),
  is_test boolean not null default false,
  causes text[] not null,
  due_at timestamptz not null,
  -- A process that took it has it until then.
  taken_until timestamptz,
  attempts int not null default 0,
  -- The columns as they first went out; every further try sends the same.
  cells jsonb,
  outcome text,
  made_at timestamptz not null,
  ended_at timestamptz,
  primary key (client_id, id),
  foreign key (client_id, destination_id) references destination (client_id, id) on delete cascade,
  foreign key (client_id, person_id) references person (client_id, id) on delete cascade
);
-- One that nobody has taken yet takes up what changes meanwhile.
create unique index delivery_gathers on delivery (client_id, destination_id, person_id) where status = 'waiting' and attempts = 0 and taken_until is null;
create index delivery_waits on delivery (client_id, destination_id, person_id, n) where status = 'waiting';
create index delivery_due on delivery (client_id, destination_id, due_at) where status = 'waiting';
create index delivery_recent on delivery (client_id, destination_id, n desc);
create index delivery_shelf on delivery (client_id, destination_id, n) where status = 'shelf';
create index delivery_person on delivery (client_id, person_id);

-- Each try, call by call; what is secret never stands in it.
create table attempt (
  client_id int not null,
  delivery_id uuid not null,
  n int not null,
  at timestamptz not null,
  ms int not null,
  ok boolean not null,
  reason text not null,
  calls jsonb not null,
  primary key (client_id, delivery_id, n),
  foreign key (client_id, delivery_id) references delivery (client_id, id) on delete cascade
);

-- Whoever changes somebody, by whatever way: what the destinations are to hear is noted in the same transaction. Changes within a second are gathered.
create function note_for_destinations() returns trigger language plpgsql security definer set search_path = public as $$
declare
  part text := tg_argv[0];
begin
  insert into delivery (client_id, id, destination_id, person_id, causes, due_at, made_at)
  select c.client_id, gen_random_uuid(), d.id, c.person_id, c.causes, c.at + interval '1 second', c.at
  from (
    select client_id, person_id, max(at) as at, array_agg(distinct (case part when 'fields' then 'field:' when 'tags' then 'tag:' else 'list:' end) || name) as causes, array_agg(distinct name) as names
    from (select client_id, person_id, at, coalesce(to_jsonb(changed) ->> 'field', to_jsonb(changed) ->> 'tag', to_jsonb(changed) ->> 'list') as name from changed) each
    group by 1, 2
  ) c
  join destination d on d.client_id = c.client_id and d.state <> 'off' and (d.triggers ->> part = 'any' or d.triggers -> part ?| c.names)
  join person p on p.client_id = c.client_id and p.id = c.person_id
  order by c.client_id, d.id, c.person_id
  on conflict (client_id, destination_id, person_id) where status = 'waiting' and attempts = 0 and taken_until is null
  do update set causes = (array(select distinct unnest(delivery.causes || excluded.causes) order by 1))[1:20];
  return null;
end $$;
revoke all on function note_for_destinations from public;
create trigger note_fields after insert on field_change referencing new table as changed for each statement execute function note_for_destinations('fields');
create trigger note_tags after insert on tag_change referencing new table as changed for each statement execute function note_for_destinations('tags');
create trigger note_lists after insert on list_change referencing new table as changed for each statement execute function note_for_destinations('lists');

do $$
declare
  tenant text;
begin
  foreach tenant in array array['destination', 'counterpart', 'delivery', 'attempt'] loop
    execute format('alter table %I enable row level security', tenant);
    execute format('create policy of_open_clients on %I to dartloop_app using (client_id = any ((select open_clients())::int[])) with check (client_id = any ((select open_clients())::int[]))', tenant);
    execute format('create policy of_the_lane on %I to dartloop_lane using (true) with check (true)', tenant);
  end loop;
end $$;
grant select, insert, update, delete on destination to dartloop_app;
grant select, insert, update on delivery, counterpart to dartloop_app;
grant select, insert on attempt to dartloop_app;
grant select, update on destination to dartloop_lane;
grant select, insert, update on delivery, counterpart to dartloop_lane;
grant select, insert on attempt to dartloop_lane;
