import { momentWords } from '@dart-loop/core';
import type { ChangedBy } from '../../conversations/changes';
import { byWords } from '../byWords';
import { entriesOf, MOST, type Source } from './source';

/** Times that were booked, moved and given up. */
export const bookings: Source = async ({ db, key }) => {
  const { entries, add } = entriesOf();
  const bookings = await db.query<{
    calendar: string;
    what: string;
    starts_at: Date;
    zone: string;
    at: Date;
    by: ChangedBy;
  }>(
    `
     select b.calendar, b.what, b.starts_at, k.time_zone as zone, b.at, b.by from booking_change b
     join client k on k.id = b.client_id
     where b.client_id = $1 and b.person_id = any ($2::uuid[]) order by b.id desc limit ${MOST}`,
    key,
  );
  for (const { calendar, what, starts_at, zone, at, by } of bookings.rows)
    add(
      at,
      'booking',
      `${calendar} ${what === 'moved' ? 'moved to' : `${what}:`} ${momentWords(starts_at.getTime(), zone)}`,
      byWords(by),
      '/:client/bookings',
    );
  return entries;
};
