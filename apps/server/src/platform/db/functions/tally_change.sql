-- What the tally says of a term and a block, without some seats and with others: a bitmap is changed in
-- place, a list is written anew. Empty where nobody is left.
create or replace function tally_change(people bytea, off_seats int[], on_seats int[]) returns bytea
  language plpgsql immutable parallel safe
as $$
declare
  seat int;
  members int[];
begin
  if length(people) = 1024 then
    foreach seat in array coalesce(off_seats, '{}') loop people := set_bit(people, seat, 0); end loop;
    foreach seat in array coalesce(on_seats, '{}') loop people := set_bit(people, seat, 1); end loop;
    if bit_count(people) >= 512 then return people; end if;
  end if;
  members := array(select n from tally_seats(people) n
    where length(people) = 1024 or not n = any (coalesce(off_seats, '{}')) union select unnest(on_seats));
  if cardinality(members) >= 512 then return tally_bitmap(members); end if;
  return coalesce((select string_agg(int2send(n::int2), ''::bytea order by n)
    from unnest(members) n), ''::bytea);
end $$;
