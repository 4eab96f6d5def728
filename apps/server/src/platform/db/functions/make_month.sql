-- One month of the partitioned tables, by the time inside the ids. Rows of a month that came before its
-- partition stay where they are, in the rest.
create or replace function make_month(first_day date) returns void
  language plpgsql security definer set search_path = public
as $$
declare
  part text;
  bound_from uuid :=
    lpad(to_hex((extract(epoch from first_day::timestamp at time zone 'UTC') * 1000)::bigint), 12, '0') ||
    repeat('0', 20);
  bound_to uuid :=
    lpad(to_hex((extract(epoch from (first_day + interval '1 month')::timestamp at time zone 'UTC') *
    1000)::bigint), 12, '0') || repeat('0', 20);
begin
  foreach part in array array['event', 'decision', 'message'] loop
    if to_regclass(part || to_char(first_day, '_YYYY_MM')) is null then
      begin
        execute format('create table %I partition of %I for values from (%L) to (%L)',
          part || to_char(first_day, '_YYYY_MM'), part, bound_from, bound_to);
      exception when check_violation or duplicate_table then null;
      end;
    end if;
  end loop;
end $$;
revoke all on function make_month from public;
grant execute on function make_month to dartloop_lane;
