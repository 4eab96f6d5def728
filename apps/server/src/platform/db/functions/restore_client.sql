-- A client comes back from the archive; its slug, or null where it is not there.
create or replace function restore_client(of_agency int, of_client int) returns text
  language sql security definer set search_path = public
as $$
  update client set archived_at = null
  where id = of_client and agency_id = of_agency and archived_at is not null
    and not exists (select from client_receipt r where r.of_client = client.id)
  returning slug $$;
revoke all on function restore_client from public;
grant execute on function restore_client to dartloop_app;
