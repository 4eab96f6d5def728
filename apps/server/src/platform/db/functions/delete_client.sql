-- A client of the archive is to be deleted; its name, or null where it is not there. From here on nothing
-- brings it back.
create or replace function delete_client(of_agency int, gone int, by_account int, moment timestamptz)
  returns text
  language sql security definer set search_path = public
as $$
  insert into client_receipt (agency_id, of_client, name, slug, asked_at, asked_by)
  select agency_id, id, name, slug, moment, by_account from client
  where id = gone and agency_id = of_agency and archived_at is not null
  on conflict do nothing returning name $$;
revoke all on function delete_client from public;
grant execute on function delete_client to dartloop_app;
