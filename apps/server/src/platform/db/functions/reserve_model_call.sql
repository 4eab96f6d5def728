-- Writes a call of a hosted model down before it is made, with the most that it may cost; whose cap would be
-- passed by it where it must not be made ('client', 'agency'), else null. Calls of one agency are reserved
-- one after the other.
create or replace function reserve_model_call(
  of_client int, call_id uuid, of_conversation uuid, moment timestamptz, of_model text, asked text,
  told jsonb, most_cost bigint, in_currency text, by_agency boolean, client_cap bigint, agency_cap bigint
) returns text
  language plpgsql security definer set search_path = public
as $$
declare
  agency int := (select agency_id from client where id = of_client);
  this_month date := date_trunc('month', moment at time zone 'UTC')::date;
  spent bigint;
begin
  perform pg_advisory_xact_lock(hashtext('hosted model'), agency);
  select coalesce(sum(s.cost), 0) into spent from model_spent s
    where s.client_id = of_client and s.month = this_month and s.currency = in_currency;
  if spent + most_cost > client_cap then return 'client'; end if;
  if by_agency then
    select coalesce(sum(s.cost), 0) into spent from model_spent s join client c on c.id = s.client_id
      where c.agency_id = agency and s.month = this_month and s.of_agency and s.currency = in_currency;
    if spent + most_cost > agency_cap then return 'agency'; end if;
  end if;
  insert into model_call (client_id, id, conversation_id, at, model, question, told, cost, currency)
    values (of_client, call_id, of_conversation, moment, of_model, asked, told, most_cost, in_currency);
  insert into model_spent as s (client_id, month, of_agency, currency, calls, cost)
    values (of_client, this_month, by_agency, in_currency, 1, most_cost)
    on conflict (client_id, month, of_agency, currency)
      do update set calls = s.calls + 1, cost = s.cost + excluded.cost;
  return null;
end $$;
revoke all on function reserve_model_call from public;
grant execute on function reserve_model_call to dartloop_app, dartloop_lane;
