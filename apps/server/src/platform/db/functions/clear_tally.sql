-- Whoever is gone leaves nothing in the tally, at once.
create or replace function clear_tally() returns trigger
  language plpgsql security definer set search_path = public
as $$
declare
  of_client int;
  off_seats int[];
  off_terms tsvector[];
begin
  for of_client in select distinct client_id from was join tallied using (client_id) order by 1 loop
    perform from tallied where client_id = of_client for update;
    with gone as (
      delete from person_seat
      where client_id = of_client
        and person_id = any (array(select person_id from was where client_id = of_client))
      returning person_id, seat
    ), left_open as (
      delete from tally_open
      where client_id = of_client
        and person_id = any (array(select person_id from was where client_id = of_client)) returning person_id
    ), stale as (
      delete from tally_stale t where t.client_id = of_client and t.seat = any (array(select seat from gone))
      returning t.seat, t.terms
    ), off as (
      select seat, terms from stale
      union all
      select g.seat, b.terms from gone g join was b on b.client_id = of_client and b.person_id = g.person_id
      where not exists (select from left_open l where l.person_id = g.person_id)
    )
    select array_agg(seat), array_agg(terms) into off_seats, off_terms from off;
    if off_seats is not null then perform write_tally(of_client, off_seats, off_terms, '{}', '{}'); end if;
  end loop;
  return null;
end $$;
revoke all on function clear_tally from public;
