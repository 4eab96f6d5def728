-- What people asked of a client's sources, and what came of it: each question once, and once more when its asker
-- chose among what was offered, or passed it over.
create table asked (
  client_id int not null,
  id uuid not null,
  conversation_id uuid not null,
  loop_id uuid not null,
  at timestamptz not null,
  question text not null,
  came text not null check (came in ('answered', 'offered', 'picked', 'passed over', 'not known', 'disagree')),
  -- What was said or offered: passages and pairs, by their ids.
  passages uuid[] not null,
  -- Of what could not be answered: what became of it since.
  settled text check (settled in ('answered', 'not ours')),
  settled_at timestamptz,
  primary key (client_id, id)
);
create index asked_open on asked (client_id, id desc)
  where settled is null and came in ('passed over', 'not known', 'disagree');
create index asked_conversation on asked (client_id, conversation_id);
-- Up to which revision of the sources what is open was asked again.
alter table client add column asked_revision int not null default 0;

-- Whether loops that answer from the sources wait for the question sheet.
alter table client add column sheet_gates boolean not null default false;

alter table errand drop constraint errand_kind_check;
alter table errand add constraint errand_kind_check check (kind in ('send out', 'alert', 'ask sources'));

select fence_tenant('asked');
grant select, update on asked to dartloop_app;
grant select, insert, update on asked to dartloop_lane;
grant select (asked_revision), update (asked_revision) on client to dartloop_lane;
grant select (sheet_gates), update (sheet_gates) on client to dartloop_app;
grant select (sheet_gates) on client to dartloop_lane;
