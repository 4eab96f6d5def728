import { cloudEvent } from '@dart-loop/core/sync/cloudEvent';
import { EventsByCursor, EventsOfCursor, type ApiEvent } from '@dart-loop/contract';
import { Problem } from '../platform/problem';
import { operation } from './operation';

/** What happens to people, in an order that nothing turns up behind. */
export const eventOperations = () => [
  operation({
    method: 'get',
    path: '/events',
    id: 'readEvents',
    summary: 'Read what happened, in order',
    description:
      'Kept from the client’s first key that reads events on, for 30 days. Each event comes once and in its place: ask again with “next” for what happened since.',
    scope: 'read events',
    query: EventsByCursor,
    answer: EventsOfCursor,
    async handle({ db, client, query: { cursor = '0-0', limit } }) {
      const [, tx, n] = /^(\d{1,19})-(\d{1,18})$/.exec(cursor) ?? [];
      if (tx === undefined || n === undefined)
        throw new Problem(
          400,
          'That cannot be used',
          'cursor: give back the “next” of the last answer as it was.',
        );
      // What a transaction under way will have written is not there yet: nothing at or after the oldest of
      // them is shown before it is over.
      const { rows } = await db.query<{
        id: string;
        at: Date;
        person_id: string;
        type: ApiEvent['type'];
        data: ApiEvent['data'];
      }>(
        `
         select tx || '-' || n as id, at, person_id, type, data from happening
         where client_id = $1 and (tx, n) > ($2::xid8, $3::bigint)
           and tx < pg_snapshot_xmin(pg_current_snapshot()) order by tx, n limit $4`,
        [client.id, tx, n, limit],
      );
      const events = rows.map(({ id, at, person_id, type, data }) =>
        cloudEvent(client.name, { id, type, subject: person_id, at: at.getTime(), data }),
      );
      return { events, next: events.at(-1)?.id ?? cursor };
    },
  }),
];
