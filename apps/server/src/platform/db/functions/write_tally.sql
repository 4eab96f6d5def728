-- Takes what is said of seats out of the tally, and puts what is said anew into it. Only for who has locked
-- the client's row of `tallied`.
create or replace function write_tally(of_client int, off_seats int[], off_terms tsvector[], on_seats int[],
  on_terms tsvector[]) returns void
  language sql
as $$
  with said as (
    select substr(word, length(of_client::text) + 2) collate "C" as term, seat, false as is_on
    from unnest(off_seats, off_terms) each (seat, terms)
    cross join lateral unnest(tsvector_to_array(terms)) word
    union
    select substr(word, length(of_client::text) + 2) collate "C", seat, true
    from unnest(on_seats, on_terms) each (seat, terms)
    cross join lateral unnest(tsvector_to_array(terms)) word
  ), touched as materialized (
    select term, seat / 8192 as block, array_agg(seat % 8192) filter (where not is_on) as off,
      array_agg(seat % 8192) filter (where is_on) as come from said group by 1, 2
  ), after as materialized (
    select term, block, case
      when was.people is not null then tally_change(was.people, off, come)
      when cardinality(come) < 512 then (select string_agg(int2send(n::int2), ''::bytea order by n)
        from unnest(come) n)
      else tally_bitmap(come) end as people
    from touched
    left join lateral (select t.people from tally t where t.client_id = of_client and t.term = touched.term
      and t.block = touched.block offset 0) was on true
  ), written as (
    insert into tally (client_id, term, block, people) select of_client, term, block, people from after
    where length(people) > 0
    on conflict (client_id, term, block) do update set people = excluded.people
  )
  delete from tally where ctid = any (array(
    select t.ctid from (select term, block from after where length(people) = 0) none
    cross join lateral (select ctid from tally t where t.client_id = of_client and t.term = none.term
      and t.block = none.block offset 0) t))
$$;
revoke all on function write_tally from public;
