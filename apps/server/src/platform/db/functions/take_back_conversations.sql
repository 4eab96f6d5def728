-- Conversations that an import has brought and on which nothing was ever said go with it.
create or replace function take_back_conversations(of_client int, ids uuid[]) returns int
  language plpgsql security definer set search_path = public
as $$
declare
  free uuid[];
begin
  free := array(select c.id from conversation c where c.client_id = of_client and c.id = any (ids)
    and c.seq = 0
    and not exists (select from message m where m.client_id = of_client and m.conversation_id = c.id)
    and not exists (select from pending p where p.conversation_id = c.id));
  delete from timer where client_id = of_client and conversation_id = any (free);
  delete from identity where client_id = of_client and id = any (free);
  delete from conversation where client_id = of_client and id = any (free);
  return cardinality(free);
end $$;
revoke all on function take_back_conversations from public;
grant execute on function take_back_conversations to dartloop_lane;
