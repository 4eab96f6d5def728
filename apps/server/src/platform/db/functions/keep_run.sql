-- A run that begins or ends; one that goes through in a single turn does both.
create or replace function keep_run() returns trigger
  language plpgsql security definer set search_path = public
as $$
begin
  if reads_events(new.client_id) then
    insert into happening (client_id, at, person_id, type, data)
    select new.client_id, e.at, p.id, e.type, jsonb_build_object('run', new.id, 'loop', l.name, 'version',
      new.version) || e.more
    from conversation c join person p on p.client_id = c.client_id and p.id = c.person_id
    join loop l on l.client_id = new.client_id and l.id = new.loop_id
    cross join lateral (
      select 1 as place, 'run.began' as type, new.started_at as at, '{}'::jsonb as more where tg_op = 'INSERT'
      union all select 2, 'run.ended', new.ended_at, jsonb_build_object('how', new.status)
      where new.ended_at is not null
    ) e
    where c.client_id = new.client_id and c.id = new.conversation_id order by e.place;
  end if;
  return null;
end $$;
revoke all on function keep_run from public;
