-- A client that the agency works for no more: nothing of it is seen or called, and all of it is kept.
alter table client add column archived_at timestamptz;
grant update (archived_at) on client to dartloop_app;
