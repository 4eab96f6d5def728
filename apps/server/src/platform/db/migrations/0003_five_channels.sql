-- Messages that are held back until the person writes, go privately or publicly below a comment, and are reported on.
alter table message drop constraint message_status_check;
alter table message add constraint message_status_check check (status in ('queued', 'held', 'sent', 'failed'));
alter table message add column via jsonb;
-- No later than this it may go; then the window of its channel is shut.
alter table message add column go_until timestamptz;
alter table message add column delivered_at timestamptz;
alter table message add column read_at timestamptz;
-- Not an answer to what the person has just done: a reminder, a date, a tag. Such messages go after answers, and caps count them.
alter table message add column unasked boolean not null default false;
create index message_unasked on message (line_id, sent_at) where unasked;
create index message_not_sent on message (line_id, made_at) where status in ('failed', 'queued', 'held') and failure is not null;
-- What the channel has approved to be sent where its window is shut, as it was last asked.
alter table line add column templates jsonb not null default '[]';
grant update (templates) on line to dartloop_lane;
grant update (cue_revision) on client to dartloop_lane;
-- What can be tapped without a message before it, as it is wanted here.
alter table line add column menus jsonb not null default '{}';
alter table line add column caps jsonb not null default '{"perDay": null, "perPerson": null}';
create index message_held on message (conversation_id) where status = 'held';
grant update (status, failure, go_until, delivered_at, read_at) on message to dartloop_lane;

-- What was sent on Telegram before had its buttons in rows.
update message set body = (body - 'keyboard') || jsonb_build_object(
    'taps', coalesce((
      select jsonb_agg(jsonb_build_object('label', button ->> 'text') || case when button ? 'url' then jsonb_build_object('url', button ->> 'url') else jsonb_build_object('ref', button ->> 'data') end order by row_at, at)
      from jsonb_array_elements(body -> 'keyboard') with ordinality as r (keys, row_at), jsonb_array_elements(keys) with ordinality as b (button, at)
    ), '[]'))
  where body ? 'keyboard';
update message set body = body || jsonb_build_object('as', 'keyboard') where body ->> 'channel' = 'telegram' and jsonb_array_length(body -> 'taps') > 0;
update message set body = body || '{"taps": []}' where not body ? 'taps';

-- Posts that were commented on.
create table post (
  client_id int not null references client (id),
  line_id int not null,
  id text not null,
  text text not null default '',
  posted_at timestamptz,
  seen_at timestamptz not null,
  primary key (client_id, line_id, id)
);
alter table post enable row level security;
create policy of_open_clients on post to dartloop_app using (client_is_open(client_id)) with check (client_is_open(client_id));
create policy of_the_lane on post to dartloop_lane using (true) with check (true);
grant select on post to dartloop_app;
grant select, insert on post to dartloop_lane;

-- Entries of one webhook may be for several accounts; a line is found by its own.
create index line_account on line (channel, (account ->> 'id'));
create index identity_number on identity (client_id, address) where address like '+%';
