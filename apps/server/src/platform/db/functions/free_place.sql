-- The lowest place of a calendar that is free for all of a stretch; null when none is. `own` is a booking
-- that moves.
create or replace function free_place(of_client int, of_calendar uuid, from_at timestamptz,
  until_at timestamptz, places int, own uuid) returns int
  language sql stable
as $$
  select min(place) from generate_series(1, places) place where not exists (
    select from booking b where b.client_id = of_client and b.calendar_id = of_calendar and b.state = 'booked'
      and b.place = place.place and b.id is distinct from own
      and tstzrange(b.starts_at, b.kept_until) && tstzrange(from_at, until_at))
$$;
