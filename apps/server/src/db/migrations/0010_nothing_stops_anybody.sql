-- What could not be processed, whatever the reason: shown on its line, in its conversation and on Today, and tried again at a press.
-- `body` is what is tried again: a request of the platform, an event as it was read, a row of `pending`, or a lead form whose answers are missing.
alter table aside
  add column kind text not null default 'not understood' check (kind in ('not understood', 'not stored', 'not decided', 'lead form')),
  add column conversation_id uuid,
  add column tries int not null default 1,
  -- When it is tried again by itself, or because somebody wished it; null: it waits for a person.
  add column again_at timestamptz;
create index aside_line on aside (client_id, line_id, id desc);
create index aside_conversation on aside (client_id, conversation_id) where conversation_id is not null;
create index aside_again on aside (again_at) where again_at is not null;
grant update, delete on aside to dartloop_lane;
grant update (again_at) on aside to dartloop_app;
