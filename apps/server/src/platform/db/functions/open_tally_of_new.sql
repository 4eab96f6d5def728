-- Who is new is to be written into the tally.
create or replace function open_tally_of_new() returns trigger
  language plpgsql security definer set search_path = public
as $$
begin
  insert into tally_open (client_id, person_id) select c.client_id, c.person_id from changed c
  join tallied using (client_id) order by 1, 2 on conflict do nothing;
  return null;
end $$;
revoke all on function open_tally_of_new from public;
