-- Open screens of whoever has signed out, or may see something else now, are ended at once, whoever changed
-- it.
create or replace function tell_ended() returns trigger
  language plpgsql
as $$
begin
  if tg_table_name = 'session' then
    perform pg_notify('dart_loop',
      json_build_object('clients', '[]'::json, 'ended',
      json_build_object('session', encode(old.token_hash, 'hex')))::text);
  elsif tg_table_name = 'account' then
    perform pg_notify('dart_loop',
      json_build_object('clients', '[]'::json, 'ended', json_build_object('account', old.id))::text);
  else
    perform pg_notify('dart_loop',
      json_build_object('clients', '[]'::json, 'ended',
      json_build_object('account', coalesce(new.account_id, old.account_id)))::text);
  end if;
  return null;
end $$;
