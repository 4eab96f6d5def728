-- The seats that a term of the tally holds: of a bitmap its bits, of a list its numbers.
create or replace function tally_seats(people bytea) returns setof int
  language sql immutable parallel safe
as $$
  select n from generate_series(0, 8191) n where length(people) = 1024 and get_bit(people, n) = 1
  union all
  select get_byte(people, 2 * n) * 256 + get_byte(people, 2 * n + 1)
  from generate_series(0, length(people) / 2 - 1) n where length(people) < 1024
$$;
