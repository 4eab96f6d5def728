-- A client that is to be deleted goes bit by bit, so that a large one holds up nobody; what was its is counted, and
-- the receipt stays when all of it is gone.
create table client_receipt (
  agency_id int not null references agency (id),
  of_client int not null,
  name text not null,
  slug text not null,
  asked_at timestamptz not null,
  asked_by int references account (id),
  counts jsonb not null default '{}',
  done_at timestamptz,
  primary key (agency_id, of_client)
);
grant select on client_receipt to dartloop_app, dartloop_lane;
