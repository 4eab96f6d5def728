-- What a client's answers are taken from: documents and pages as they were read, and pairs of question and
-- answer. The brief is a source too, and stands with the client.
create table source (
  client_id int not null references client (id),
  id uuid not null,
  kind text not null check (kind in ('document', 'page', 'below', 'site')),
  name text not null,
  -- Of pages: where reading begins.
  address text,
  -- Of pages: how often they are read again.
  every text not null default 'by hand' check (every in ('by hand', 'day', 'week')),
  failure text,
  read_at timestamptz,
  made_by int references account (id) on delete set null,
  made_at timestamptz not null,
  primary key (client_id, id)
);
-- A document is one page.
create table source_page (
  client_id int not null,
  id uuid not null,
  source_id uuid not null,
  -- A file's name, or the address of a page of the web.
  address text not null,
  title text not null,
  language text,
  -- Waiting: a link leads there, and it was not read yet.
  state text not null check (state in ('waiting', 'read', 'nothing in it', 'failed', 'gone')),
  failure text,
  words int not null default 0,
  read_at timestamptz,
  -- When its text last became another one.
  changed_at timestamptz,
  -- How many links lead there from where reading begins, and in which reading it was met last.
  depth int not null default 0,
  run uuid,
  primary key (client_id, id),
  unique (client_id, source_id, address),
  foreign key (client_id, source_id) references source (client_id, id) on delete cascade
);
create table passage (
  client_id int not null,
  id uuid not null,
  page_id uuid not null,
  place int not null,
  headings text[] not null,
  sentences text[] not null,
  -- What somebody of the agency wrote in place of the sentences; it stays when the page is read again.
  corrected text,
  -- Questions that it was said to answer.
  wordings text[] not null default '{}',
  is_muted boolean not null default false,
  primary key (client_id, id),
  foreign key (client_id, page_id) references source_page (client_id, id) on delete cascade
);
create index passage_page on passage (client_id, page_id, place);
create table pair (
  client_id int not null references client (id),
  id uuid not null,
  question text not null,
  -- Other ways of asking it.
  wordings text[] not null default '{}',
  answer text not null,
  made_by int references account (id) on delete set null,
  made_at timestamptz not null,
  primary key (client_id, id)
);
-- What the questions of a sheet came to, as the sources were last, and before that.
create table sheet_row (
  client_id int not null references client (id),
  id uuid not null,
  question text not null,
  place_of text not null default '',
  contains text[] not null default '{}',
  lacks text[] not null default '{}',
  known text not null check (known in ('yes', 'no')),
  least text not null check (least in ('answer', 'offer', 'open')),
  came text check (came in ('right', 'offered', 'open', 'wrong')),
  came_before text,
  is_expected boolean,
  said text,
  said_before text,
  primary key (client_id, id)
);
create table sheet_run (
  client_id int not null references client (id),
  id uuid not null,
  at timestamptz not null,
  -- What had changed.
  because text not null,
  counts jsonb not null,
  better int not null,
  worse int not null,
  primary key (client_id, id)
);
-- Counted up with whatever changes what is answered; what changed last; and up to where the sheet was asked.
alter table client add column sources_revision int not null default 0;
alter table client add column sources_because text not null default '';
alter table client add column sheet_revision int not null default 0;
-- Since when a process is asking it.
alter table client add column sheet_taken_at timestamptz;

select fence_tenant(part) from unnest(array['source', 'source_page', 'passage', 'pair', 'sheet_row', 'sheet_run']) part;
grant select, insert, update, delete on source, source_page, passage, pair, sheet_row, sheet_run
  to dartloop_app, dartloop_lane;
grant select (sources_revision, sources_because, sheet_revision, sheet_taken_at),
  update (sources_revision, sources_because, sheet_revision, sheet_taken_at) on client to dartloop_app, dartloop_lane;
