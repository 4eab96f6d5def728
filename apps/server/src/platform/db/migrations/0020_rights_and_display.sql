-- What an operator may do beyond the inbox is given to each of them; those who are there keep what they had.
alter table account
  add grants text[] not null default '{}' check (grants <@ array['people', 'bookings', 'brief']),
  -- How dates, times and numbers are written to them; null: as their device is set.
  add locale text,
  add time_zone text;
update account set grants = array['people', 'bookings', 'brief'] where role = 'operator';
alter table account_link
  add grants text[] not null default '{}' check (grants <@ array['people', 'bookings', 'brief']);
update account_link set grants = array['people', 'bookings', 'brief'] where role = 'operator';
grant update (grants, locale, time_zone) on account to dartloop_app;
