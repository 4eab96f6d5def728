-- The hosted model that the agency has for its clients; where it is, what it costs, and its key.
create table agency_model (
  agency_id int primary key references agency (id),
  settings jsonb not null,
  secrets bytea,
  hint text
);
grant select, insert, update, delete on agency_model to dartloop_app;
grant select, update (secrets) on agency_model to dartloop_lane;

-- What a client does with one: nothing where there is no row.
create table client_model (
  client_id int primary key,
  uses text not null check (uses in ('agency', 'own')),
  -- Where it is a model of its own: where that is, and its key.
  settings jsonb,
  secrets bytea,
  hint text,
  limits jsonb not null
);
select fence_tenant('client_model');
grant select, insert, update, delete on client_model to dartloop_app;
grant select, update (secrets) on client_model to dartloop_lane;

-- Every call of a model: what it was asked, what it said, and what came of it. Its cost, in millionths of
-- the currency, is the most that it may be until it is known.
create table model_call (
  client_id int not null,
  id uuid not null,
  conversation_id uuid,
  at timestamptz not null,
  model text not null,
  question text not null,
  told jsonb not null,
  -- As it came back, and what was said of it.
  answer text,
  said text,
  came text not null default 'asked' check (came in ('asked', 'said', 'not known', 'refused', 'failed')),
  why text,
  sent int,
  back int,
  cost bigint not null,
  currency text not null,
  took_ms int,
  primary key (client_id, id)
);
create index model_call_conversation on model_call (client_id, conversation_id);
select fence_tenant('model_call');
grant select on model_call to dartloop_app;
grant select, update on model_call to dartloop_lane;

-- What models cost a client in a month (of UTC); `of_agency`: the agency's model, whose cap all clients share.
create table model_spent (
  client_id int not null,
  month date not null,
  of_agency boolean not null,
  currency text not null,
  calls int not null,
  cost bigint not null,
  primary key (client_id, month, of_agency, currency)
);
select fence_tenant('model_spent');
grant select on model_spent to dartloop_app, dartloop_lane;

-- What is due is looked for by client, so that no client's slow systems hold up another's.
drop index errand_due;
create index errand_due on errand (client_id, next_at) where status = 'waiting';
