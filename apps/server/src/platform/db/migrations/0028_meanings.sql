-- What a client's passages mean, as the sentence encoder has it: rows of 512 bytes, under a digest of the
-- texts that were encoded. What two passages say alike is kept once.
create table passage_meaning (
  client_id int not null,
  digest bytea not null,
  meaning bytea not null,
  primary key (client_id, digest)
);
-- Up to which revision of the sources their meaning is known, and since when a process is working it out.
alter table client add column encoded_revision int not null default 0;
alter table client add column encoding_taken_at timestamptz;

select fence_tenant('passage_meaning');
grant select, insert, delete on passage_meaning to dartloop_app, dartloop_lane;
grant select (encoded_revision, encoding_taken_at), update (encoded_revision, encoding_taken_at)
  on client to dartloop_app, dartloop_lane;
