-- The open clients are read once for a statement, not once for every row.
create or replace function open_clients() returns int[]
  language sql stable
as
  $$ select coalesce(string_to_array(nullif(current_setting('dartloop.clients', true), ''), ',')::int[], '{}')
    $$;
