-- Why the ledger stands against a message to a conversation, or null. Of people who became one, what each of
-- them said counts.
create or replace function refusal(of_client int, of_conversation uuid, of_list text, is_unasked boolean)
  returns text
  language sql stable
as $$
  select case
    when (select what from consent_now
          where client_id = of_client and ((scope = 'line' and conversation_id = of_conversation)
            or (scope = 'everything' and person_id = any (who.ids)))
          order by id desc limit 1) = 'opt-out' then 'opted out'
    when of_list is not null and is_unasked and (select what from consent_now
          where client_id = of_client and scope = 'list' and list = of_list and person_id = any (who.ids)
          order by id desc limit 1) is distinct from 'opt-in' then 'not on the list'
  end
  from (
    select array_append(array(select gone from merge where client_id = of_client and kept = c.person_id
      and parted_at is null), c.person_id) as ids
    from conversation c where c.client_id = of_client and c.id = of_conversation
  ) who
$$;
