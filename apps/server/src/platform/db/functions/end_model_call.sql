-- What came of a call of a hosted model, and what it cost. One that was ended already stays as it is.
create or replace function end_model_call(
  of_client int, call_id uuid, by_agency boolean, outcome text, because text, came_back text,
  text_said text, tokens_sent int, tokens_back int, real_cost bigint, took int
) returns void
  language plpgsql security definer set search_path = public
as $$
declare
  reserved bigint;
  moment timestamptz;
  in_currency text;
begin
  select c.cost, c.at, c.currency into reserved, moment, in_currency from model_call c
    where c.client_id = of_client and c.id = call_id and c.came = 'asked' for update;
  if not found then return; end if;
  update model_call c set came = outcome, why = because, answer = came_back, said = text_said,
    sent = tokens_sent, back = tokens_back, cost = real_cost, took_ms = took
    where c.client_id = of_client and c.id = call_id;
  update model_spent s set cost = s.cost + real_cost - reserved
    where s.client_id = of_client and s.month = date_trunc('month', moment at time zone 'UTC')::date
      and s.of_agency = by_agency and s.currency = in_currency;
end $$;
revoke all on function end_model_call from public;
grant execute on function end_model_call to dartloop_app, dartloop_lane;
