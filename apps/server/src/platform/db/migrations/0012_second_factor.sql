-- A second factor for signing in: the secret of somebody's authenticator, sealed as other secrets are.
alter table account
  add column secrets bytea,
  -- When it was tried out with a code; until then it counts for nothing.
  add column factor_since timestamptz,
  -- The last 30 seconds whose code was taken: none counts twice.
  add column factor_step bigint not null default 0,
  -- Hashes of codes for when the authenticator is lost; each counts once.
  add column recovery text[] not null default '{}';
grant update (secrets, factor_since, factor_step, recovery) on account to dartloop_app;
grant update (secrets) on account to dartloop_lane;
