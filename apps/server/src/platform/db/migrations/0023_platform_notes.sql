-- What the platform itself says of a line: what it could not deliver to us, what it does not hand over, how
-- good the number is. Asked with the line's state; null while it was never asked.
alter table line add column platform_notes jsonb;
grant update (platform_notes) on line to dartloop_lane;
