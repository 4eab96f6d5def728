-- The changes of one statement, as far as anybody reads them. The argument says what they are of.
create or replace function keep_happenings() returns trigger
  language plpgsql security definer set search_path = public
as $$
declare
  part text := tg_argv[0];
begin
  if not exists (select from api_key k
    where 'read events' = any (k.scopes) and k.client_id in (select client_id from changed)) then return null;
    end if;
  insert into happening (client_id, at, person_id, type, data)
  select c.client_id, c.at, c.person_id, 'person.' || part || '.changed',
    case part
      when 'field' then jsonb_build_object('field', j ->> 'field', 'before', j #> '{before,value}', 'after',
        j #> '{after,value}')
      when 'consent' then jsonb_build_object('what', j ->> 'what', 'scope', j ->> 'scope', 'list',
        j ->> 'list',
        'line', (select l.key from line l where l.client_id = c.client_id and l.id = (j ->> 'line_id')::int))
      when 'booking' then jsonb_build_object('what', j ->> 'what', 'booking', j ->> 'booking_id', 'calendar',
        j ->> 'calendar',
        'starts', to_char((j ->> 'starts_at')::timestamptz at time zone 'UTC', 'YYYY-MM-DD"T"HH24:MI:SS"Z"'))
      else jsonb_build_object(part, j ->> part, 'on', j -> 'is_on') end
  from changed c cross join lateral to_jsonb(c) j
  join person p on p.client_id = c.client_id and p.id = c.person_id
  where reads_events(c.client_id);
  return null;
end $$;
revoke all on function keep_happenings from public;
