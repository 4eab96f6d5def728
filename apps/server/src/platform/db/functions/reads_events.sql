-- Whether a key of the client reads events; where none does, none are kept.
create or replace function reads_events(of_client int) returns boolean
  language sql stable security definer set search_path = public
as
  $$ select exists (select from api_key where client_id = of_client and 'read events' = any (scopes)) $$;
revoke all on function reads_events from public;
