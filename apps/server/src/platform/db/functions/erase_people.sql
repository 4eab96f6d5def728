-- Everything of some people, from every table. Runs as the owner, since the ledger is otherwise only added
-- to.
create or replace function erase_people(of_client int, people uuid[]) returns jsonb
  language plpgsql security definer set search_path = public
as $$
declare
  who uuid[];
  talks uuid[];
  counts jsonb := '{}';
  part text;
  gone bigint;
  total bigint := 0;
begin
  if current_setting('role') = 'dartloop_app' or session_user = 'dartloop_app' then
    if not (of_client = any (open_clients())) then raise exception 'the client is not open'; end if;
  end if;
  who := array(select unnest(people) union select m.gone from merge m
    where m.client_id = of_client and m.kept = any (people) and m.parted_at is null);
  talks := array(select id from identity where client_id = of_client and person_id = any (who)
                 union select id from conversation where client_id = of_client and person_id = any (who));
  delete from aside where client_id = of_client and conversation_id = any (talks);
  get diagnostics gone = row_count;
  total := gone;
  delete from aside a using conversation c
    where a.client_id = of_client and c.client_id = of_client and c.id = any (talks) and a.line_id = c.line_id
      and position(c.address in a.body) > 0;
  get diagnostics gone = row_count;
  counts := counts || jsonb_build_object('kept aside', total + gone);
  delete from event_key k using event e
    where e.client_id = of_client and e.conversation_id = any (talks) and k.client_id = of_client
      and k.line_id = e.line_id and k.provider_id = e.provider_id;
  foreach part in array array['pending', 'timer', 'errand', 'event', 'decision', 'message', 'run',
    'asked', 'model_call'] loop
    execute format('delete from %I where client_id = $1 and conversation_id = any ($2)', part) using
      of_client, talks;
    get diagnostics gone = row_count;
    counts := counts || jsonb_build_object(part, gone);
  end loop;
  foreach part in array array['field_change', 'tag_change', 'list_change', 'consent', 'task_change',
    'person_terms', 'contact'] loop
    execute format('delete from %I where client_id = $1 and person_id = any ($2)', part) using of_client, who;
    get diagnostics gone = row_count;
    counts := counts || jsonb_build_object(part, gone);
  end loop;
  delete from consent where client_id = of_client and conversation_id = any (talks);
  -- Conversations of theirs that were kept as tests.
  update loop l set draft = jsonb_set(l.draft, '{takes}', (
      select coalesce(jsonb_agg(take), '[]') from jsonb_array_elements(l.draft -> 'takes') take
      where not (take #>> '{person,id}' = any (who::text[]))))
    where l.client_id = of_client and jsonb_typeof(l.draft -> 'takes') = 'array'
      and exists (select from jsonb_array_elements(l.draft -> 'takes') take
        where take #>> '{person,id}' = any (who::text[]));
  -- Those who were chosen by hand for an action stand in it: their places are emptied.
  update task t set spec = jsonb_set(t.spec, '{chosen,ids}', (
      select coalesce(jsonb_agg(case when e.id = any (who::text[]) then '00000000-0000-0000-0000-000000000000'
        else e.id end), '[]') from jsonb_array_elements_text(t.spec #> '{chosen,ids}') as e (id)))
    where t.client_id = of_client and jsonb_typeof(t.spec #> '{chosen,ids}') = 'array'
      and exists (select from jsonb_array_elements_text(t.spec #> '{chosen,ids}') as e (id)
        where e.id = any (who::text[]));
  -- What the team did stays in the trail, without whom it was done to.
  update audit a set detail = (
      select jsonb_object_agg(d.key, case
        when d.value #>> '{}' = any (who::text[]) then '"00000000-0000-0000-0000-000000000000"'::jsonb
        else d.value end) from jsonb_each(a.detail) d)
    where a.client_id = of_client and exists (select from jsonb_each_text(a.detail) d
      where d.value = any (who::text[]));
  delete from merge where client_id = of_client and (kept = any (who) or merge.gone = any (who));
  delete from not_same where client_id = of_client and (one = any (who) or other = any (who));
  delete from conversation where client_id = of_client and id = any (talks);
  get diagnostics gone = row_count;
  counts := counts || jsonb_build_object('conversation', gone);
  delete from identity where client_id = of_client and person_id = any (who);
  delete from person where client_id = of_client and id = any (who);
  get diagnostics gone = row_count;
  return counts || jsonb_build_object('person', gone);
end $$;
revoke all on function erase_people from public;
grant execute on function erase_people to dartloop_app, dartloop_lane;
