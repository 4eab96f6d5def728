-- Whose key a token is: before that no client is open.
create or replace function client_of_key(hash bytea) returns table (client_id int, id int, name text,
  scopes text[])
  language sql stable security definer set search_path = public
as
  $$ select client_id, id, name, scopes from api_key where token_hash = hash $$;
revoke all on function client_of_key from public;
grant execute on function client_of_key to dartloop_app;
