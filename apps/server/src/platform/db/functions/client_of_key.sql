-- Whose key a token is: before that no client is open. A client that is archived lets no key in.
create or replace function client_of_key(hash bytea) returns table (client_id int, id int, name text,
  scopes text[])
  language sql stable security definer set search_path = public
as $$
  select k.client_id, k.id, k.name, k.scopes from api_key k join client c on c.id = k.client_id
  where k.token_hash = hash and c.archived_at is null $$;
revoke all on function client_of_key from public;
grant execute on function client_of_key to dartloop_app;
