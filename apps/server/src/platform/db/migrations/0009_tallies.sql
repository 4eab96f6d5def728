-- Clients with so many people that a segment is counted by bits. `tx` began it: what was under way before may have changed somebody unseen, so everybody is marked once that is over
-- ('marking'), and the tally counts from then on ('counting').
create table tallied (
  client_id int primary key references client (id),
  tx xid8 not null default pg_current_xact_id(),
  state text not null default 'marking' check (state in ('marking', 'counting')),
  -- Seats given out.
  seats int not null default 0,
  folded_at timestamptz
);

-- The number that a person has in the tally.
create table person_seat (
  client_id int not null,
  person_id uuid not null,
  seat int not null,
  primary key (client_id, person_id),
  -- The seat first: where nothing is known yet of how many people a client has, an index that begins with the client is as good as any to the planner.
  unique (seat, client_id)
);

-- Who has a term (without its client), for each 8,192 seats: as a bitmap of 1,024 bytes, or, for fewer than 512 of them, their numbers in order, two bytes each.
create table tally (
  client_id int not null,
  term text collate "C" not null,
  block int not null,
  people bytea not null,
  primary key (client_id, term, block)
);

-- People who have changed since the tally was written: they are counted by their rows.
create table tally_open (
  client_id int not null,
  person_id uuid not null,
  primary key (client_id, person_id)
);
-- What the tally still says of a seat and is not so any more: the seat counts for nothing until it is mended.
create table tally_stale (
  client_id int not null,
  seat int not null,
  terms tsvector not null
);
create index tally_stale_seat on tally_stale (client_id, seat);

create function tally_seats(people bytea) returns setof int language sql immutable parallel safe as $$
  select n from generate_series(0, 8191) n where length(people) = 1024 and get_bit(people, n) = 1
  union all
  select get_byte(people, 2 * n) * 256 + get_byte(people, 2 * n + 1) from generate_series(0, length(people) / 2 - 1) n where length(people) < 1024
$$;
create function tally_bitmap(seats int[]) returns bytea language plpgsql immutable parallel safe as $$
declare
  people bytea := decode(repeat('00', 1024), 'hex');
  seat int;
begin
  foreach seat in array seats loop people := set_bit(people, seat, 1); end loop;
  return people;
end $$;

-- What the tally says of a term and a block, without some seats and with others: a bitmap is changed in place, a list is written anew. Empty where nobody is left.
create function tally_change(people bytea, off_seats int[], on_seats int[]) returns bytea language plpgsql immutable parallel safe as $$
declare
  seat int;
  members int[];
begin
  if length(people) = 1024 then
    foreach seat in array coalesce(off_seats, '{}') loop people := set_bit(people, seat, 0); end loop;
    foreach seat in array coalesce(on_seats, '{}') loop people := set_bit(people, seat, 1); end loop;
    if bit_count(people) >= 512 then return people; end if;
  end if;
  members := array(select n from tally_seats(people) n where length(people) = 1024 or not n = any (coalesce(off_seats, '{}')) union select unnest(on_seats));
  if cardinality(members) >= 512 then return tally_bitmap(members); end if;
  return coalesce((select string_agg(int2send(n::int2), ''::bytea order by n) from unnest(members) n), ''::bytea);
end $$;

-- Takes what is said of seats out of the tally, and puts what is said anew into it. Only for who has locked the client's row of `tallied`.
create function write_tally(of_client int, off_seats int[], off_terms tsvector[], on_seats int[], on_terms tsvector[]) returns void language sql as $$
  with said as (
    select substr(word, length(of_client::text) + 2) collate "C" as term, seat, false as is_on from unnest(off_seats, off_terms) each (seat, terms) cross join lateral unnest(tsvector_to_array(terms)) word
    union
    select substr(word, length(of_client::text) + 2) collate "C", seat, true from unnest(on_seats, on_terms) each (seat, terms) cross join lateral unnest(tsvector_to_array(terms)) word
  ), touched as materialized (
    select term, seat / 8192 as block, array_agg(seat % 8192) filter (where not is_on) as off, array_agg(seat % 8192) filter (where is_on) as come from said group by 1, 2
  ), after as materialized (
    select term, block, case
      when was.people is not null then tally_change(was.people, off, come)
      when cardinality(come) < 512 then (select string_agg(int2send(n::int2), ''::bytea order by n) from unnest(come) n)
      else tally_bitmap(come) end as people
    from touched left join lateral (select t.people from tally t where t.client_id = of_client and t.term = touched.term and t.block = touched.block offset 0) was on true
  ), written as (
    insert into tally (client_id, term, block, people) select of_client, term, block, people from after where length(people) > 0
    on conflict (client_id, term, block) do update set people = excluded.people
  )
  delete from tally where ctid = any (array(
    select t.ctid from (select term, block from after where length(people) = 0) none
    cross join lateral (select ctid from tally t where t.client_id = of_client and t.term = none.term and t.block = none.block offset 0) t))
$$;
revoke all on function write_tally from public;

-- Whoever is changed, by whatever way, is open from then on; what the tally says of them is stale.
create function open_tally() returns trigger language plpgsql security definer set search_path = public as $$
begin
  if not exists (select from tallied where client_id in (select client_id from changed)) then return null; end if;
  with opened as (
    insert into tally_open (client_id, person_id) select c.client_id, c.person_id from changed c join tallied using (client_id) order by 1, 2
    on conflict do nothing returning client_id, person_id
  )
  insert into tally_stale (client_id, seat, terms)
  select s.client_id, s.seat, b.terms from opened o join person_seat s using (client_id, person_id) join was b using (client_id, person_id);
  return null;
end $$;
revoke all on function open_tally from public;
create function open_tally_of_new() returns trigger language plpgsql security definer set search_path = public as $$
begin
  insert into tally_open (client_id, person_id) select c.client_id, c.person_id from changed c join tallied using (client_id) order by 1, 2 on conflict do nothing;
  return null;
end $$;
revoke all on function open_tally_of_new from public;
create trigger open_tally after update on person_terms referencing old table as was new table as changed for each statement execute function open_tally();
create trigger open_tally_of_new after insert on person_terms referencing new table as changed for each statement execute function open_tally_of_new();

-- Whoever is gone leaves nothing in the tally, at once.
create function clear_tally() returns trigger language plpgsql security definer set search_path = public as $$
declare
  of_client int;
  off_seats int[];
  off_terms tsvector[];
begin
  for of_client in select distinct client_id from was join tallied using (client_id) order by 1 loop
    perform from tallied where client_id = of_client for update;
    with gone as (
      delete from person_seat where client_id = of_client and person_id = any (array(select person_id from was where client_id = of_client)) returning person_id, seat
    ), left_open as (
      delete from tally_open where client_id = of_client and person_id = any (array(select person_id from was where client_id = of_client)) returning person_id
    ), stale as (
      delete from tally_stale t where t.client_id = of_client and t.seat = any (array(select seat from gone)) returning t.seat, t.terms
    ), off as (
      select seat, terms from stale
      union all
      select g.seat, b.terms from gone g join was b on b.client_id = of_client and b.person_id = g.person_id where not exists (select from left_open l where l.person_id = g.person_id)
    )
    select array_agg(seat), array_agg(terms) into off_seats, off_terms from off;
    if off_seats is not null then perform write_tally(of_client, off_seats, off_terms, '{}', '{}'); end if;
  end loop;
  return null;
end $$;
revoke all on function clear_tally from public;
create trigger clear_tally after delete on person_terms referencing old table as was for each statement execute function clear_tally();

-- Writes some of those who have changed into the tally, and mends what is stale. Gives how many; 0 where there is nothing to do, or another process is at it.
-- Everything is found by its key, whatever is known yet of the sizes of tables.
create function fold_tally(of_client int, most int, now_is timestamptz) returns int language plpgsql security definer set search_path = public set enable_seqscan = off as $$
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
  select t.seats into from_seat from tallied t where t.client_id = of_client and t.state = 'counting' for update skip locked;
  if not found then return 0; end if;
  -- Of those who are gone there is nothing to write.
  delete from tally_open where client_id = of_client and person_id = any (array(
    select person_id from (select person_id, (select t.person_id from person_terms t where t.client_id = of_client and t.person_id = o.person_id) as there
      from tally_open o where o.client_id = of_client order by o.person_id limit most) e where there is null));
  select array_agg(r.person_id), array_agg(r.seat), array_agg(r.terms), array_agg(r.is_known), count(*) filter (where not r.is_known)
    into the_people, the_seats, the_terms, the_known, fresh
  from (
    select e.person_id, e.terms, e.seat is not null as is_known, coalesce(e.seat, from_seat - 1 + (row_number() over (partition by e.seat is null order by e.person_id))::int) as seat
    from (select o.person_id, (select t.terms from person_terms t where t.client_id = of_client and t.person_id = o.person_id) as terms,
            (select s.seat from person_seat s where s.client_id = of_client and s.person_id = o.person_id) as seat
          from tally_open o where o.client_id = of_client order by o.person_id limit most) e
    where e.terms is not null
  ) r;
  with mended as (delete from tally_stale t where t.client_id = of_client and (t.seat = any (coalesce(the_seats, '{}')) or not exists (
      select from person_seat s join tally_open o using (client_id, person_id) where s.client_id = of_client and s.seat = t.seat)) returning t.seat, t.terms)
  select array_agg(m.seat), array_agg(m.terms) into off_seats, off_terms from mended m;
  if the_people is null and off_seats is null then return 0; end if;
  perform write_tally(of_client, coalesce(off_seats, '{}'), coalesce(off_terms, '{}'), coalesce(the_seats, '{}'), coalesce(the_terms, '{}'));
  delete from person_seat s where s.client_id = of_client and s.seat = any (off_seats) and not exists (select from person_terms t where t.client_id = of_client and t.person_id = s.person_id);
  insert into person_seat (client_id, person_id, seat) select of_client, r.person_id, r.seat from unnest(the_people, the_seats, the_known) r (person_id, seat, is_known) where not r.is_known;
  -- Whoever is being changed at this moment, or was while we wrote, stays open, and what we wrote of them is stale.
  select array_agg(l.person_id) into same from (
    select t.person_id from unnest(the_people, the_terms) r (person_id, terms) cross join lateral (
      select t.person_id from person_terms t where t.client_id = of_client and t.person_id = r.person_id and t.terms = r.terms offset 0 for no key update skip locked) t) l;
  delete from tally_open o where o.client_id = of_client and o.person_id = any (same);
  insert into tally_stale (client_id, seat, terms) select of_client, r.seat, r.terms from unnest(the_people, the_seats, the_terms) r (person_id, seat, terms)
    where not r.person_id = any (coalesce(same, '{}'));
  update tallied t set seats = from_seat + coalesce(fresh, 0), folded_at = now_is where t.client_id = of_client;
  return coalesce(cardinality(the_people), 0) + coalesce(cardinality(off_seats), 0);
end $$;
revoke all on function fold_tally from public;
grant execute on function fold_tally to dartloop_lane;

do $$
declare
  tenant text;
begin
  foreach tenant in array array['tallied', 'person_seat', 'tally', 'tally_open', 'tally_stale'] loop
    execute format('alter table %I enable row level security', tenant);
    execute format('create policy of_open_clients on %I to dartloop_app using (client_id = any ((select open_clients())::int[])) with check (client_id = any ((select open_clients())::int[]))', tenant);
    execute format('create policy of_the_lane on %I to dartloop_lane using (true) with check (true)', tenant);
  end loop;
end $$;
grant select on tallied, tally, tally_open, tally_stale to dartloop_app;
grant select, insert, update on tallied to dartloop_lane;
grant select, insert on tally_open to dartloop_lane;
grant select on tally, tally_stale to dartloop_lane;
