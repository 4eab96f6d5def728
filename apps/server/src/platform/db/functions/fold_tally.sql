-- Writes some of those who have changed into the tally, and mends what is stale. Gives how many; 0 where
-- there is nothing to do, or another process is at it. Everything is found by its key, whatever is known yet
-- of the sizes of tables.
create or replace function fold_tally(of_client int, most int, now_is timestamptz) returns int
  language plpgsql security definer set search_path = public set enable_seqscan = off
as $$
declare
  from_seat int;
  the_people uuid[];
  the_seats int[];
  the_terms tsvector[];
  the_known boolean[];
  off_seats int[];
  off_terms tsvector[];
  same uuid[];
  fresh int;
begin
  select t.seats into from_seat from tallied t where t.client_id = of_client and t.state = 'counting'
  for update skip locked;
  if not found then return 0; end if;
  -- Of those who are gone there is nothing to write.
  delete from tally_open where client_id = of_client and person_id = any (array(
    select person_id
    from (select person_id, (select t.person_id from person_terms t
      where t.client_id = of_client and t.person_id = o.person_id) as there
      from tally_open o where o.client_id = of_client order by o.person_id limit most) e
      where there is null));
  select array_agg(r.person_id), array_agg(r.seat), array_agg(r.terms), array_agg(r.is_known),
    count(*) filter (where not r.is_known)
    into the_people, the_seats, the_terms, the_known, fresh
  from (
    select e.person_id, e.terms, e.seat is not null as is_known,
      coalesce(e.seat, from_seat - 1 + (row_number() over (partition by e.seat is null
      order by e.person_id))::int) as seat
    from (select o.person_id, (select t.terms from person_terms t
      where t.client_id = of_client and t.person_id = o.person_id) as terms,
            (select s.seat from person_seat s
              where s.client_id = of_client and s.person_id = o.person_id) as seat
          from tally_open o where o.client_id = of_client order by o.person_id limit most) e
    where e.terms is not null
  ) r;
  with mended as (delete from tally_stale t
    where t.client_id = of_client and (t.seat = any (coalesce(the_seats, '{}')) or not exists (
      select from person_seat s join tally_open o using (client_id, person_id)
      where s.client_id = of_client and s.seat = t.seat)) returning t.seat, t.terms)
  select array_agg(m.seat), array_agg(m.terms) into off_seats, off_terms from mended m;
  if the_people is null and off_seats is null then return 0; end if;
  perform write_tally(of_client, coalesce(off_seats, '{}'), coalesce(off_terms, '{}'),
    coalesce(the_seats, '{}'), coalesce(the_terms, '{}'));
  delete from person_seat s where s.client_id = of_client and s.seat = any (off_seats) and not exists (select
    from person_terms t where t.client_id = of_client and t.person_id = s.person_id);
  insert into person_seat (client_id, person_id, seat) select of_client, r.person_id, r.seat
  from unnest(the_people, the_seats, the_known) r (person_id, seat, is_known) where not r.is_known;
  -- Whoever is being changed at this moment, or was while we wrote, stays open, and what we wrote of them is stale.
  select array_agg(l.person_id) into same from (
    select t.person_id from unnest(the_people, the_terms) r (person_id, terms) cross join lateral (
      select t.person_id from person_terms t where t.client_id = of_client and t.person_id = r.person_id
        and t.terms = r.terms offset 0 for no key update skip locked) t) l;
  delete from tally_open o where o.client_id = of_client and o.person_id = any (same);
  insert into tally_stale (client_id, seat, terms) select of_client, r.seat, r.terms
  from unnest(the_people, the_seats, the_terms) r (person_id, seat, terms)
    where not r.person_id = any (coalesce(same, '{}'));
  update tallied t set seats = from_seat + coalesce(fresh, 0), folded_at = now_is
  where t.client_id = of_client;
  return coalesce(cardinality(the_people), 0) + coalesce(cardinality(off_seats), 0);
end $$;
revoke all on function fold_tally from public;
grant execute on function fold_tally to dartloop_lane;
