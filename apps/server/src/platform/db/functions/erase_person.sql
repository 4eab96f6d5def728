-- Erases one person; see erase_people.
create or replace function erase_person(of_client int, of_person uuid) returns jsonb
  language sql
as $$ select erase_people(of_client, array[of_person]) $$;
revoke all on function erase_person from public;
grant execute on function erase_person to dartloop_app, dartloop_lane;
