-- A run that is finished brings a delivery about as well.
create or replace function note_run_for_destinations() returns trigger
  language plpgsql security definer set search_path = public
as $$
begin
  insert into delivery (client_id, id, destination_id, person_id, causes, due_at, made_at)
  select new.client_id, gen_random_uuid(), d.id, p.id, array['run:' || l.name],
    new.ended_at + interval '1 second', new.ended_at
  from conversation c join person p on p.client_id = c.client_id and p.id = c.person_id
  join loop l on l.client_id = new.client_id and l.id = new.loop_id
  join destination d on d.client_id = new.client_id and d.state <> 'off'
    and (d.triggers ->> 'runs' = 'any' or exists (
    select from jsonb_array_elements_text(case jsonb_typeof(d.triggers -> 'runs')
      when 'array' then d.triggers -> 'runs' else '[]' end) named where lower(named) = lower(l.name)))
  where c.client_id = new.client_id and c.id = new.conversation_id
  order by d.id
  on conflict (client_id, destination_id, person_id) where status = 'waiting' and attempts = 0
    and taken_until is null
  do update set causes = (array(select distinct unnest(delivery.causes || excluded.causes) order by 1))[1:20];
  return null;
end $$;
revoke all on function note_run_for_destinations from public;
