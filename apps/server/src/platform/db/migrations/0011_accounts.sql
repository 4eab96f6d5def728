-- People of the agency: how they come in and leave, their sessions, and what they change.
alter table account
  add column created_at timestamptz not null default now(),
  add column left_at timestamptz;
drop trigger account_changed on account;
create trigger account_changed after update of role, all_clients, left_at or delete on account
  for each row execute function tell_ended();

-- A session can be named and ended without its token.
alter table session
  add column id int generated always as identity unique,
  add column browser text not null default '',
  add column address text not null default '';

-- A link that is handed to somebody once: to come in, or to choose a new password. The row goes when it is used.
create table account_link (
  token_hash bytea primary key,
  id int generated always as identity unique,
  agency_id int not null references agency (id),
  kind text not null check (kind in ('invitation', 'password')),
  -- Whom an invitation is for, and what they will be.
  email text,
  role text check (role in ('owner', 'builder', 'operator', 'client')),
  -- Null: all clients of the agency.
  client_ids int[],
  -- Whose password it is.
  account_id int references account (id) on delete cascade,
  made_by int references account (id),
  made_at timestamptz not null,
  expires_at timestamptz not null
);

-- Every change of what belongs to no client; only ever added to.
create table agency_audit (
  agency_id int not null references agency (id),
  id bigint generated always as identity,
  account_id int references account (id),
  at timestamptz not null,
  -- The caller's address.
  address text default nullif(current_setting('dartloop.address', true), ''),
  what text not null,
  detail jsonb not null default '{}',
  primary key (agency_id, id)
);
-- Set for each request by the transaction it is answered in.
alter table audit add column address text default nullif(current_setting('dartloop.address', true), '');

alter table client add column created_at timestamptz not null default now();
grant update (name, brief, country, time_zone, languages, opening_hours) on client to dartloop_app;

-- Held while the last owner is looked for.
grant update (name) on agency to dartloop_app;
grant insert on account to dartloop_app;
grant update (name, role, password_hash, all_clients, left_at) on account to dartloop_app;
grant insert, delete on account_client to dartloop_app;
grant select, insert, delete on account_link to dartloop_app;
grant select, insert on agency_audit to dartloop_app;
create index audit_recent on audit (client_id, at desc);
create index agency_audit_recent on agency_audit (agency_id, at desc);
