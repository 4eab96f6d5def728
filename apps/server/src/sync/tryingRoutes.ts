import { destinationKind } from '@dart-loop/core/sync/kinds/index';
import type { TheirColumn } from '@dart-loop/core/sync/mapping';
import { shownName } from '@dart-loop/core/people/shownName';
import {
  TryDestination,
  type DeliveryPage,
  type DestinationPage,
  type PreviewRow,
} from '@dart-loop/contract';
import type { Clock } from '../platform/clock';
import { audit } from '../platform/db/audit';
import { toJson } from '../platform/db/json';
import { newId } from '../platform/ids';
import type { Keyring } from '../platform/keyring';
import { askOutside } from '../platform/outside';
import { Problem, notFound } from '../platform/problem';
import { asking, route } from '../http/route';
import { clientFacts, readPeople } from '../people/facts';
import { NAME } from '../people/page';
import { delivery } from './deliveryPage';
import { pageOf } from './destinationPage';
import { exchange, wordsOf } from './exchange';
import { parcelOf } from './parcel';
import { accessTo, isWhole, storedDestination, type StoredDestination } from './stored';

/** Recent people that a mapping is shown on. */
const PREVIEWED = 10;

/** A destination is tried before it is switched on: its columns, what would be sent, and one real sending. */
export function tryingRoutes(options: { clock: Clock; keys: Keyring; standins: string | null }) {
  const { clock } = options;
  return [
    route({
      method: 'post',
      path: '/clients/:client/destinations/:destinationId/columns',
      may: 'change sync',
      async handle({ db, client, params, account }) {
        const destination = await storedDestination(db, client.id, params.destinationId!);
        return asking(
          () => theirColumns(destination),
          async (later, columns): Promise<DestinationPage> => {
            // Where its address has been changed meanwhile, they are the columns of another.
            await later.query(
              'update destination set columns = $3 where client_id = $1 and id = $2 and settings = $4::jsonb',
              [client.id, destination.id, toJson(columns), toJson(destination.settings)],
            );
            await audit(later, client.id, account.id, clock.now(), 'read the columns of a destination', {
              id: destination.id,
            });
            return pageOf(later, client.id, destination.id);
          },
        );
      },
    }),
    route({
      method: 'get',
      path: '/clients/:client/destinations/:destinationId/preview',
      may: 'see sync',
      async handle({ db, client, params }): Promise<PreviewRow[]> {
        const destination = await storedDestination(db, client.id, params.destinationId!);
        const { rows } = await db.query<{ id: string; name: string }>(
          `
            select p.id, ${NAME} as name from person p where p.client_id = $1
            order by p.last_seen_at desc, p.id limit ${PREVIEWED}`,
          [client.id],
        );
        const people = await readPeople(
          db,
          client.id,
          rows.map(({ id }) => id),
        );
        const facts = await clientFacts(db, client.id);
        return rows.flatMap(({ id, name }) => {
          const person = people.find((each) => each.id === id);
          if (!person) return [];
          const now = clock.now();
          const parcel = parcelOf(destination, person, facts, { id, at: now, now, theirId: null });
          const first = destinationKind(destination.kind).next(destination.settings as never, parcel, []);
          return [
            {
              personId: id,
              name: shownName(name),
              ...parcel.row,
              leftOut: first.kind === 'refused' && !isWhole(destination) ? first.reason : null,
            },
          ];
        });
      },
    }),
    route({
      method: 'post',
      path: '/clients/:client/destinations/:destinationId/try',
      may: 'change sync',
      body: TryDestination,
      async handle({ db, client, params, body, account }) {
        const destination = await storedDestination(db, client.id, params.destinationId!);
        if (isWhole(destination))
          throw new Problem(409, 'As a whole', 'A file goes out as a whole; send it now to try it.');
        const person = (await readPeople(db, client.id, [body.personId]))[0];
        if (!person) throw notFound('person');
        const facts = await clientFacts(db, client.id);
        const id = newId(clock.now());
        const known = await db.query<{ their_id: string }>(
          'select their_id from counterpart where client_id = $1 and destination_id = $2 and person_id = $3',
          [client.id, destination.id, person.id],
        );
        const at = clock.now();
        const parcel = parcelOf(destination, person, facts, {
          id,
          at,
          now: at,
          theirId: known.rows[0]?.their_id ?? null,
        });
        return asking(
          async () => exchange(await accessTo(destination, options), destination, parcel),
          async (later, { outcome, calls }): Promise<DeliveryPage> => {
            const there = await later.query(
              `
                select from person p join destination d on d.client_id = p.client_id and d.id = $3
                where p.client_id = $1 and p.id = $2 for key share`,
              [client.id, person.id, destination.id],
            );
            // Somebody erased the person, or took the destination away, while the other side answered:
            // nothing of it is written down.
            if (there.rowCount === 0)
              throw new Problem(
                404,
                'Gone meanwhile',
                'The person was erased, or the destination removed, while the other side answered. It went out, and nothing of it is kept.',
              );
            const words = wordsOf(outcome, parcel);
            await later.query(
              `
               insert into delivery (client_id, id, destination_id, person_id, status, is_test, causes,
                 due_at, attempts, cells, outcome, made_at, ended_at)
               values ($1, $2, $3, $4, $8, true, '{by hand}', $5, 1, $6, $7, $5, $5)`,
              [
                client.id,
                id,
                destination.id,
                person.id,
                new Date(at),
                toJson(parcel.row.cells),
                words,
                outcome.kind === 'done' ? 'done' : 'left out',
              ],
            );
            await later.query(
              `
                insert into attempt (client_id, delivery_id, n, at, ms, ok, reason, calls)
                values ($1, $2, 1, $3, $4, $5, $6, $7)`,
              [
                client.id,
                id,
                new Date(at),
                calls.reduce((sum, { ms }) => sum + ms, 0),
                outcome.kind === 'done',
                words,
                toJson(calls),
              ],
            );
            if (outcome.kind === 'done' && outcome.theirId !== null)
              await later.query(
                `
                 insert into counterpart (client_id, destination_id, person_id, their_id)
                 values ($1, $2, $3, $4)
                 on conflict (client_id, destination_id, person_id) do update set their_id = excluded.their_id`,
                [client.id, destination.id, person.id, outcome.theirId],
              );
            await audit(later, client.id, account.id, clock.now(), 'tried a destination', {
              name: destination.name,
            });
            return delivery(later, client.id, id);
          },
        );
      },
    }),
  ];

  /** Asks the other side for its columns. */
  async function theirColumns(destination: StoredDestination): Promise<TheirColumn[]> {
    const { columns } = destinationKind(destination.kind);
    if (!columns)
      throw new Problem(409, 'It cannot say', 'This kind of destination has no columns of its own.');
    const { token, ...outside } = await accessTo(destination, options);
    const call = columns.call(destination.settings as never);
    const answer = await askOutside(outside, {
      ...call,
      headers: token ? { authorization: `Bearer ${token}` } : {},
    });
    const said =
      answer.kind === 'silence'
        ? answer.reason
        : answer.status >= 300
          ? `it was answered ${answer.status}`
          : null;
    if (said !== null || answer.kind === 'silence')
      throw new Problem(502, 'It did not say', `The other side did not tell its columns: ${said}.`);
    const read = columns.read(answer.body);
    if (!read)
      throw new Problem(
        502,
        'It did not say',
        'The other side’s answer is no list of columns, each with a “name” and a “type”. Fill the mapping by hand.',
      );
    return read;
  }
}
