-- In which currency amounts are written; null: in that of the client's country. And as what the client's own
-- entries are read, by their keys.
alter table client
  add currency text check (currency ~ '^[A-Z]{3}$'),
  add entry_types jsonb not null default '{}';
grant update (currency, entry_types) on client to dartloop_app;
