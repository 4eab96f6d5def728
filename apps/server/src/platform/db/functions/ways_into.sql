-- What a public picture of a way into a loop is drawn from: the loop as it is live, and the lines of its client
-- that are connected. Nothing where it is not live, or the client is archived.
create or replace function ways_into(of_loop uuid) returns table (client text, loop jsonb, lines jsonb)
  language sql stable security definer set search_path = public
as $$
  select c.name, v.loop, coalesce((select jsonb_agg(jsonb_build_object(
      'key', n.key, 'name', n.name, 'channel', n.channel, 'account', n.account) order by n.id)
    from line n where n.client_id = c.id and n.secrets is not null), '[]')
  from loop l join client c on c.id = l.client_id
  join loop_version v on v.client_id = l.client_id and v.loop_id = l.id and v.version = l.live_version
  where l.id = of_loop and l.archived_at is null and c.archived_at is null $$;
revoke all on function ways_into from public;
grant execute on function ways_into to dartloop_app;
