-- The agency and its first owner; null where there is somebody already, so that it can be done once only.
create or replace function found_agency(
  agency_name text, owner_name text, owner_email text, owner_hash text, moment timestamptz
) returns int
  language plpgsql security definer set search_path = public
as $$
declare
  of_agency int;
  owner int;
begin
  lock table account in share row exclusive mode;
  if exists (select from account) then return null; end if;
  insert into agency (name) values (agency_name) returning id into of_agency;
  insert into account (agency_id, email, name, role, password_hash, all_clients, created_at)
    values (of_agency, owner_email, owner_name, 'owner', owner_hash, true, moment) returning id into owner;
  insert into agency_audit (agency_id, account_id, at, what)
    values (of_agency, owner, moment, 'founded the agency');
  return owner;
end $$;
revoke all on function found_agency from public;
grant execute on function found_agency to dartloop_app;
