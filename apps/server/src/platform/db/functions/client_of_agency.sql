-- The clients of an agency, for signing in: before that no client is open yet. Those that are archived are open to nobody.
create or replace function client_of_agency(agency int) returns table (id int)
  language sql stable security definer set search_path = public
as $$
  select client.id from client where agency_id = agency and archived_at is null order by client.id $$;
revoke all on function client_of_agency from public;
grant execute on function client_of_agency to dartloop_app;
