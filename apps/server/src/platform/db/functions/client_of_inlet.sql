-- The incoming webhook whose address was called: before that no client is open yet. One of a client that is
-- archived is not there.
create or replace function client_of_inlet(hash bytea) returns table (client_id int, id int, hook text,
  reading jsonb, destination_id uuid, listens_until timestamptz)
  language sql stable security definer set search_path = public
as $$
  select i.client_id, i.id, i.hook, i.reading, i.destination_id, i.listens_until
  from inlet i join client c on c.id = i.client_id
  where i.token_hash = hash and c.archived_at is null $$;
revoke all on function client_of_inlet from public;
grant execute on function client_of_inlet to dartloop_app;
