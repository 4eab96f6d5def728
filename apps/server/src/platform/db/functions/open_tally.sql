-- Whoever is changed, by whatever way, is open from then on; what the tally says of them is stale.
create or replace function open_tally() returns trigger
  language plpgsql security definer set search_path = public
as $$
begin
  if not exists (select from tallied where client_id in (select client_id from changed)) then return null; end
    if;
  with opened as (
    insert into tally_open (client_id, person_id) select c.client_id, c.person_id from changed c
    join tallied using (client_id) order by 1, 2
    on conflict do nothing returning client_id, person_id
  )
  insert into tally_stale (client_id, seat, terms)
  select s.client_id, s.seat, b.terms from opened o join person_seat s using (client_id, person_id)
  join was b using (client_id, person_id);
  return null;
end $$;
revoke all on function open_tally from public;
