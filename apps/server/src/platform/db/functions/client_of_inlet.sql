-- The incoming webhook whose address was called: before that no client is open yet.
create or replace function client_of_inlet(hash bytea) returns table (client_id int, id int, hook text,
  reading jsonb, destination_id uuid, listens_until timestamptz)
 
  language sql stable security definer set search_path = public
as
  $$ select client_id, id, hook, reading, destination_id, listens_until from inlet where token_hash = hash $$;
revoke all on function client_of_inlet from public;
grant execute on function client_of_inlet to dartloop_app;
