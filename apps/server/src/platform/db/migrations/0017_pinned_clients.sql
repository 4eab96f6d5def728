-- The clients that somebody has put first in their own list.
alter table account add column pinned int[] not null default '{}';
grant update (pinned) on account to dartloop_app;
