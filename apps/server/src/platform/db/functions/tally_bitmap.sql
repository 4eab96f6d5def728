-- A bitmap of a block’s 8,192 seats in which these are set.
create or replace function tally_bitmap(seats int[]) returns bytea
  language plpgsql immutable parallel safe
as $$
declare
  people bytea := decode(repeat('00', 1024), 'hex');
  seat int;
begin
  foreach seat in array seats loop people := set_bit(people, seat, 1); end loop;
  return people;
end $$;
