-- A live loop may rest: paused, nobody new starts and those on the way go on; stopped, those on the way are ended too.
alter table loop add column state text not null default 'live' check (state in ('live', 'paused', 'stopped'));
alter table loop add column archived_at timestamptz;
-- What is to be published, as it was when it was scheduled, with when and by whom.
alter table loop add column scheduled jsonb;
alter table loop add column scheduled_at timestamptz;
alter table loop add column scheduled_by int references account (id);
alter table loop add column schedule_failed text;
create index loop_scheduled on loop (scheduled_at) where scheduled_at is not null;
grant update (live_version, scheduled, scheduled_at, scheduled_by, schedule_failed) on loop to dartloop_lane;
grant insert on loop_version, field, audit to dartloop_lane;
