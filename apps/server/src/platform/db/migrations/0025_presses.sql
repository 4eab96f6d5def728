-- What a press of somebody of the agency was answered with, sealed and for two minutes: where the answer was
-- lost on its way, the app or a proxy asks once more under the same name, and nothing is done twice.
create table press (
  account_id int not null references account (id) on delete cascade,
  name text not null,
  answer bytea not null,
  at timestamptz not null,
  primary key (account_id, name)
);
create index press_at on press (at);
grant select, insert, delete on press to dartloop_app;
