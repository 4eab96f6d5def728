-- Messages, events, decisions, questions and calls of models of before a moment, some thousands at a time;
-- what waits to be sent stays.
-- Their ids begin with their time.
create or replace function forget_messages(of_client int, before timestamptz) returns int
  language plpgsql security definer set search_path = public
as $$
declare
  bound uuid := lpad(to_hex((extract(epoch from before) * 1000)::bigint), 12, '0') || repeat('0', 20);
  gone bigint;
  total bigint := 0;
begin
  delete from message where client_id = of_client and id in (select id from message
    where client_id = of_client and id < bound and status in ('sent', 'failed') limit 5000);
  get diagnostics gone = row_count;
  total := total + gone;
  delete from decision where client_id = of_client and id in (select id from decision
    where client_id = of_client and id < bound limit 5000);
  get diagnostics gone = row_count;
  total := total + gone;
  delete from event where client_id = of_client and id in (
    select id from event e where client_id = of_client and id < bound and not exists (select from pending p
      where p.event_id = e.id) limit 5000);
  get diagnostics gone = row_count;
  total := total + gone;
  delete from asked where client_id = of_client and id in (select id from asked
    where client_id = of_client and id < bound limit 5000);
  get diagnostics gone = row_count;
  total := total + gone;
  delete from model_call where client_id = of_client and id in (select id from model_call
    where client_id = of_client and id < bound limit 5000);
  get diagnostics gone = row_count;
  return total + gone;
end $$;
revoke all on function forget_messages from public;
grant execute on function forget_messages to dartloop_lane;
