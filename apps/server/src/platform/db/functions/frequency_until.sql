-- Until when a person may get no more unasked messages, over all lines of the client; null when they may now.
create or replace function frequency_until(of_client int, of_conversation uuid, of_message uuid,
  now_is timestamptz) returns timestamptz
  language sql stable
as $$
  with sent as (
    select coalesce(m.sent_at, m.going_out_at) as at from conversation c
    join conversation o on o.client_id = c.client_id and o.person_id = c.person_id
    join message m on m.client_id = o.client_id and m.conversation_id = o.id
    where c.client_id = of_client and c.id = of_conversation and m.unasked and m.id <> of_message
      and m.status in ('queued', 'sent')
      and coalesce(m.sent_at, m.going_out_at) > now_is - interval '7 days')
  select greatest(
    case when (k.frequency ->> 'perDay') is not null then
      (select sent.at from sent where sent.at > now_is - interval '1 day'
        order by sent.at desc offset (k.frequency ->> 'perDay')::int - 1 limit 1) + interval '1 day' end,
    case when (k.frequency ->> 'perWeek') is not null then
      (select sent.at from sent where sent.at > now_is - interval '7 days'
        order by sent.at desc offset (k.frequency ->> 'perWeek')::int - 1 limit 1) + interval '7 days' end)
  from client k
  where k.id = of_client and k.frequency <> '{"perDay": null, "perWeek": null}'
$$;
