-- What the agency's model cost all its clients in the month of a moment, archived ones too; nothing else of
-- them is told.
create or replace function model_spent_by(agency int, moment timestamptz) returns table (
  currency text, calls bigint, cost bigint
)
  language sql stable security definer set search_path = public
as $$
  select s.currency, sum(s.calls)::bigint, sum(s.cost)::bigint
  from model_spent s join client c on c.id = s.client_id
  where c.agency_id = agency and s.of_agency
    and s.month = date_trunc('month', moment at time zone 'UTC')::date
  group by s.currency $$;
revoke all on function model_spent_by from public;
grant execute on function model_spent_by to dartloop_app;
