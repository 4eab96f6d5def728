-- What is left to do by hand since a set-up was copied in from another client.
create table left_to_do (
  client_id int not null references client (id),
  id int generated always as identity,
  -- What tells when it is done: 'brief', 'line', 'loop', 'destination', 'webhook'; 'by hand' is ticked.
  kind text not null,
  -- What it is about: the key of an entry, a channel, a name.
  about text not null,
  words text not null,
  place text not null,
  copied_from text not null,
  made_at timestamptz not null,
  done_at timestamptz,
  primary key (client_id, id),
  unique (client_id, kind, about)
);
select fence_tenant('left_to_do');
grant select, insert, update on left_to_do to dartloop_app;
