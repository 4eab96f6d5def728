-- A client's rows in a table are for whoever has the client open, and for the lane, which carries the events of
-- all. Every table with a client_id is fenced by this.
create function fence_tenant(tenant regclass) returns void language plpgsql as $$
begin
  execute format('alter table %s enable row level security', tenant);
  execute format('create policy of_open_clients on %s to dartloop_app
    using (client_id = any ((select open_clients())::int[]))
    with check (client_id = any ((select open_clients())::int[]))', tenant);
  execute format('create policy of_the_lane on %s to dartloop_lane using (true) with check (true)', tenant);
end $$;
revoke all on function fence_tenant from public;

-- Every key of a client's rows begins with the client, so that the tables can be spread over machines by it.
-- Tokens and seats are unique by how they are made; that they are found fast needs no more than an index.
alter table line drop constraint line_id_key, drop constraint line_hook_token_key;
create index line_id on line (id);
create index line_hook_token on line (hook_token);
alter table inlet drop constraint inlet_token_hash_key;
create index inlet_token_hash on inlet (token_hash);
alter table api_key drop constraint api_key_token_hash_key;
create index api_key_token_hash on api_key (token_hash);

alter table conversation drop constraint conversation_line_id_address_key,
  add unique (client_id, line_id, address);

alter table event_key add column client_id int;
update event_key k set client_id = l.client_id from line l where l.id = k.line_id;
delete from event_key where client_id is null;
alter table event_key drop constraint event_key_pkey, alter column client_id set not null,
  add primary key (client_id, line_id, provider_id);
select fence_tenant('event_key');

-- The queue is taken in the order of its arrival, over all clients.
alter table pending drop constraint pending_pkey;
create index pending_order on pending (id);

-- The seat first: where nothing is known yet of how many people a client has, an index that begins with the
-- client is as good as any to the planner.
alter table person_seat drop constraint person_seat_seat_client_id_key;
create index person_seat_order on person_seat (seat, client_id);
