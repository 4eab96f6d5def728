-- What changes of people brings deliveries about: fields, tags, lists and bookings, whoever changed them. A
-- delivery that nobody has taken yet takes up what changes within its second.
create or replace function note_for_destinations() returns trigger
  language plpgsql security definer set search_path = public
as $$
declare
  part text := tg_argv[0];
begin
  insert into delivery (client_id, id, destination_id, person_id, causes, due_at, made_at)
  select c.client_id, gen_random_uuid(), d.id, c.person_id, c.causes, c.at + interval '1 second', c.at
  from (
    select client_id, person_id, max(at) as at,
      array_agg(distinct (case part when 'fields' then 'field:' when 'tags' then 'tag:'
      when 'bookings' then 'booking:' else 'list:' end) || name) as causes, array_agg(distinct name) as names
    from (select client_id, person_id, at,
      coalesce(j ->> 'field', j ->> 'tag', j ->> 'list', j ->> 'calendar') as name from changed
    cross join lateral to_jsonb(changed) j) each
    group by 1, 2
  ) c
  join destination d on d.client_id = c.client_id and d.state <> 'off'
    and (d.triggers ->> part = 'any' or d.triggers -> part ?| c.names
    -- Calendars are named whatever their case.
    or (part = 'bookings' and exists (select
      from jsonb_array_elements_text(case jsonb_typeof(d.triggers -> part)
      when 'array' then d.triggers -> part else '[]' end) named
      where lower(named) in (select lower(name) from unnest(c.names) name))))
  join person p on p.client_id = c.client_id and p.id = c.person_id
  order by c.client_id, d.id, c.person_id
  on conflict (client_id, destination_id, person_id) where status = 'waiting' and attempts = 0
    and taken_until is null
  do update set causes = (array(select distinct unnest(delivery.causes || excluded.causes) order by 1))[1:20];
  -- The processes that deliver are told when this is committed, once for each transaction.
  if found then perform pg_notify('dart_loop', '{"clients":[],"deliveries":true}'); end if;
  return null;
end $$;
revoke all on function note_for_destinations from public;
