create extension if not exists btree_gist;

-- What can be booked: {"hours", "length", "gap", "notice", "ahead", "places"}. One that is gone keeps what was booked in it.
create table calendar (
  client_id int not null references client (id),
  id uuid not null,
  name text not null,
  folded text not null,
  rule jsonb not null,
  made_at timestamptz not null,
  gone_at timestamptz,
  primary key (client_id, id)
);
create unique index calendar_name on calendar (client_id, folded) where gone_at is null;

-- Who has booked what. Each has a place of its calendar from its beginning until the gap after it is over; two can never have the same place at once,
-- whatever arrives together.
create table booking (
  client_id int not null,
  id uuid not null,
  calendar_id uuid not null,
  person_id uuid not null,
  place int not null,
  starts_at timestamptz not null,
  ends_at timestamptz not null,
  kept_until timestamptz not null,
  state text not null default 'booked' check (state in ('booked', 'cancelled')),
  -- The fields in which its day and time stand with the person.
  day_field text not null,
  time_field text not null,
  made_at timestamptz not null,
  primary key (client_id, id),
  foreign key (client_id, calendar_id) references calendar (client_id, id),
  foreign key (client_id, person_id) references person (client_id, id) on delete cascade,
  constraint booking_place exclude using gist (client_id with =, calendar_id with =, place with =, tstzrange(starts_at, kept_until) with &&) where (state = 'booked')
);
create index booking_ahead on booking (client_id, kept_until) where state = 'booked';
create index booking_start on booking (client_id, starts_at, id);
create index booking_person on booking (client_id, person_id);

create table booking_change (
  client_id int not null,
  id bigint generated always as identity,
  booking_id uuid not null,
  person_id uuid not null,
  calendar text not null,
  what text not null check (what in ('booked', 'moved', 'cancelled')),
  starts_at timestamptz not null,
  at timestamptz not null,
  by jsonb not null,
  primary key (client_id, id),
  foreign key (client_id, booking_id) references booking (client_id, id) on delete cascade
);
create index booking_change_booking on booking_change (client_id, booking_id);
create index booking_change_person on booking_change (client_id, person_id);

-- The lowest place of a calendar that is free for all of a stretch; null when none is. `own` is a booking that moves.
create function free_place(of_client int, of_calendar uuid, from_at timestamptz, until_at timestamptz, places int, own uuid) returns int language sql stable as $$
  select min(place) from generate_series(1, places) place where not exists (
    select from booking b where b.client_id = of_client and b.calendar_id = of_calendar and b.state = 'booked' and b.place = place.place and b.id is distinct from own
      and tstzrange(b.starts_at, b.kept_until) && tstzrange(from_at, until_at))
$$;

do $$
declare
  tenant text;
begin
  foreach tenant in array array['calendar', 'booking', 'booking_change'] loop
    execute format('alter table %I enable row level security', tenant);
    execute format('create policy of_open_clients on %I to dartloop_app using (client_id = any ((select open_clients())::int[])) with check (client_id = any ((select open_clients())::int[]))', tenant);
    execute format('create policy of_the_lane on %I to dartloop_lane using (true) with check (true)', tenant);
  end loop;
end $$;
grant select, insert, update on calendar to dartloop_app;
grant select, insert, update on booking to dartloop_app, dartloop_lane;
grant select, insert, update (person_id) on booking_change to dartloop_app, dartloop_lane;
grant select on calendar to dartloop_lane;

-- Bookings bring deliveries about as fields, tags and lists do.
create or replace function note_for_destinations() returns trigger language plpgsql security definer set search_path = public as $$
declare
  part text := tg_argv[0];
begin
  insert into delivery (client_id, id, destination_id, person_id, causes, due_at, made_at)
  select c.client_id, gen_random_uuid(), d.id, c.person_id, c.causes, c.at + interval '1 second', c.at
  from (
    select client_id, person_id, max(at) as at, array_agg(distinct (case part when 'fields' then 'field:' when 'tags' then 'tag:' when 'bookings' then 'booking:' else 'list:' end) || name) as causes, array_agg(distinct name) as names
    from (select client_id, person_id, at, coalesce(j ->> 'field', j ->> 'tag', j ->> 'list', j ->> 'calendar') as name from changed cross join lateral to_jsonb(changed) j) each
    group by 1, 2
  ) c
  join destination d on d.client_id = c.client_id and d.state <> 'off' and (d.triggers ->> part = 'any' or d.triggers -> part ?| c.names
    -- Calendars are named whatever their case.
    or (part = 'bookings' and exists (select from jsonb_array_elements_text(case jsonb_typeof(d.triggers -> part) when 'array' then d.triggers -> part else '[]' end) named
      where lower(named) in (select lower(name) from unnest(c.names) name))))
  join person p on p.client_id = c.client_id and p.id = c.person_id
  order by c.client_id, d.id, c.person_id
  on conflict (client_id, destination_id, person_id) where status = 'waiting' and attempts = 0 and taken_until is null
  do update set causes = (array(select distinct unnest(delivery.causes || excluded.causes) order by 1))[1:20];
  return null;
end $$;
create trigger note_bookings after insert on booking_change referencing new table as changed for each statement execute function note_for_destinations('bookings');

create or replace function keep_happenings() returns trigger language plpgsql security definer set search_path = public as $$
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
      when 'booking' then jsonb_build_object('what', j ->> 'what', 'booking', j ->> 'booking_id', 'calendar', j ->> 'calendar',
        'starts', to_char((j ->> 'starts_at')::timestamptz at time zone 'UTC', 'YYYY-MM-DD"T"HH24:MI:SS"Z"'))
      else jsonb_build_object(part, j ->> part, 'on', j -> 'is_on') end
  from changed c cross join lateral to_jsonb(c) j
  join person p on p.client_id = c.client_id and p.id = c.person_id
  where reads_events(c.client_id);
  return null;
end $$;
create trigger keep_bookings after insert on booking_change referencing new table as changed for each statement execute function keep_happenings('booking');
