import { DeliveriesQuery, Replay, type DeliveryRow } from '@dart-loop/contract';
import type { Clock } from '../platform/clock';
import { audit } from '../platform/db/audit';
import { route } from '../http/route';
import { delivery, deliveryRows } from './deliveryPage';
import { storedDestination } from './stored';

const SHOWN = 50;

/** What was delivered, what waits and what failed, which can be sent again. */
export function deliveryRoutes({
  clock,
  changed,
}: {
  clock: Clock;
  /** Something of the client's deliveries is otherwise: it is seen to, and open screens are told. */
  changed: (clientId: number) => void;
}) {
  return [
    route({
      method: 'get',
      path: '/clients/:client/destinations/:destinationId/deliveries',
      may: 'see sync',
      query: DeliveriesQuery,
      async handle({ db, client, params, query }): Promise<DeliveryRow[]> {
        await storedDestination(db, client.id, params.destinationId!);
        return deliveryRows(
          db,
          `and d.destination_id = $2 and ($3 = 'all' or d.status = $3)
            and ($4::bigint is null or d.n < $4) order by d.n desc limit ${SHOWN}`,
          [client.id, params.destinationId, query.of, query.before ?? null],
        );
      },
    }),
    route({
      method: 'get',
      path: '/clients/:client/deliveries/:deliveryId',
      may: 'see sync',
      handle: ({ db, client, params }) => delivery(db, client.id, params.deliveryId!),
    }),
    route({
      method: 'post',
      path: '/clients/:client/destinations/:destinationId/replay',
      may: 'change sync',
      body: Replay,
      async handle({ db, client, params, body, account, afterwards }): Promise<{ replayed: number }> {
        const { name } = await storedDestination(db, client.id, params.destinationId!);
        // They keep their id, by which the other side drops a repeat; what goes out is what is known now.
        const { rowCount } = await db.query(
          `
           update delivery set status = 'waiting', due_at = $3, made_at = $3, cells = null, ended_at = null
           where client_id = $1 and destination_id = $2 and status = 'shelf'
             and ($4::uuid[] is null or id = any ($4))`,
          [client.id, params.destinationId, new Date(clock.now()), body.ids === 'all' ? null : body.ids],
        );
        await audit(db, client.id, account.id, clock.now(), 'replayed deliveries', {
          name,
          deliveries: rowCount,
        });
        afterwards(() => changed(client.id));
        return { replayed: rowCount ?? 0 };
      },
    }),
  ];
}
