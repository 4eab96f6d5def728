-- Where this installation is reached, as its server last started: addresses of kept files are made from it.
alter table agency add column address text;

-- A picture, recording, video or document that a client sends, kept once: texts name it by its key, and who
-- replaces it replaces it everywhere. Its bytes stand in a folder or a bucket, under the token.
create table kept_file (
  client_id int not null references client (id),
  id uuid not null,
  -- How texts name it: {{ file.timetable }}.
  key text not null,
  name text not null,
  what text not null check (what in ('image', 'file', 'video', 'audio')),
  type text not null,
  ending text not null,
  bytes int not null,
  width int,
  height int,
  -- The part of its address that cannot be guessed.
  token text not null,
  -- Counted up with each replacement, and part of the address: platforms keep what they once fetched.
  version int not null default 1,
  made_by int references account (id) on delete set null,
  made_at timestamptz not null,
  primary key (client_id, id),
  unique (client_id, key)
);
create index kept_file_token on kept_file (token);
select fence_tenant('kept_file');
grant select, insert, update, delete on kept_file to dartloop_app;
grant select on kept_file to dartloop_lane;
grant select, update (address) on agency to dartloop_lane;

-- The file of an address, for anybody: no client is open then.
create function file_at(of_token text) returns table (slug text, kept_as text, version int, type text, name text,
    what text)
  language sql stable security definer set search_path = public
as $$
  select k.slug, f.token || '-' || f.version, f.version, f.type, f.key || '.' || f.ending, f.what
  from kept_file f join client k on k.id = f.client_id where f.token = of_token
$$;
revoke all on function file_at from public;
grant execute on function file_at to dartloop_app;

-- The addresses of a client's files by their keys.
create function files_of(client int) returns jsonb
  language sql stable security invoker set search_path = public
as $$
  select coalesce(jsonb_object_agg(f.key, coalesce(a.address, '') || '/files/' || f.token || '/' || f.version || '-'
    || f.key || '.' || f.ending), '{}')
  from kept_file f join client k on k.id = f.client_id join agency a on a.id = k.agency_id
  where f.client_id = client
$$;
grant execute on function files_of to dartloop_app, dartloop_lane;
