-- The clients of an agency that are archived, which are open to nobody.
create or replace function archived_of_agency(agency int) returns table (id int, name text, archived_at timestamptz)
  language sql stable security definer set search_path = public
as $$
  select client.id, client.name, client.archived_at from client
  where agency_id = agency and client.archived_at is not null
    and not exists (select from client_receipt r where r.of_client = client.id)
  order by client.archived_at desc $$;
revoke all on function archived_of_agency from public;
grant execute on function archived_of_agency to dartloop_app;
