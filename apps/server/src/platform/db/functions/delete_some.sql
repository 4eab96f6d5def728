-- Lets go of some of what clients have that are to be deleted: at most `most` rows of one table. Gives the
-- client's slug where there may be more, with whether all of it is gone now; nothing where there is nothing to do.
create or replace function delete_some(most int, moment timestamptz) returns table (slug text, is_gone boolean)
  language plpgsql security definer set search_path = public
as $$
declare
  receipt client_receipt;
  part text;
  gone bigint;
  is_held boolean := false;
begin
  select r.* into receipt from client_receipt r where r.done_at is null order by r.asked_at limit 1
    for update skip locked;
  if not found then return; end if;
  for part in select c.relname from pg_class c join pg_attribute a on a.attrelid = c.oid
      and a.attname = 'client_id'
    where c.relkind in ('r', 'p') and not c.relispartition and c.relnamespace = 'public'::regnamespace
    order by c.relname
  loop
    begin
      execute format('delete from %I where (tableoid, ctid) in (select tableoid, ctid from %1$I
        where client_id = $1 limit $2)', part) using receipt.of_client, most;
      get diagnostics gone = row_count;
    exception when foreign_key_violation then
      -- Others hold on to these; they go first.
      is_held := true;
      continue;
    end;
    if gone > 0 then
      update client_receipt r
        set counts = r.counts || jsonb_build_object(part, coalesce((r.counts ->> part)::bigint, 0) + gone)
        where r.agency_id = receipt.agency_id and r.of_client = receipt.of_client;
      return query select receipt.slug, false;
      return;
    end if;
  end loop;
  if is_held then raise exception 'the rows of client % hold on to each other', receipt.of_client; end if;
  update account_link l set client_ids = array_remove(l.client_ids, receipt.of_client)
    where receipt.of_client = any (l.client_ids);
  delete from client where id = receipt.of_client;
  update client_receipt r set done_at = moment
    where r.agency_id = receipt.agency_id and r.of_client = receipt.of_client;
  return query select receipt.slug, true;
end $$;
revoke all on function delete_some from public;
grant execute on function delete_some to dartloop_lane;
