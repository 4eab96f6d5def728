-- A client of the agency; null where its slug is taken. It is open to nobody's transaction before it is there.
create or replace function add_client(
  of_agency int, of_slug text, of_name text, of_country text, of_zone text, of_languages text[]
) returns int
  language sql security definer set search_path = public
as $$
  insert into client (agency_id, slug, name, country, time_zone, languages)
  values (of_agency, of_slug, of_name, of_country, of_zone, of_languages)
  on conflict (slug) do nothing returning id $$;
revoke all on function add_client from public;
grant execute on function add_client to dartloop_app;
