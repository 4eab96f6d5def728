import { namesMissing } from '@dart-loop/core/sync/copies';
import { destinationKind } from '@dart-loop/core/sync/kinds/index';
import {
  Seen,
  SaveDestination,
  SetDestinationState,
  type DestinationPage,
  type Triggers,
} from '@dart-loop/contract';
import type { Clock } from '../platform/clock';
import { audit } from '../platform/db/audit';
import { toJson } from '../platform/db/json';
import type { Connection } from '../platform/db/pool';
import { newId } from '../platform/ids';
import type { Keyring } from '../platform/keyring';
import { Problem, isTaken } from '../platform/problem';
import { stopIfChanged } from '../http/revision';
import { route } from '../http/route';
import { found, pageOf, revisionOfDestination, rowView, stopFor } from './destinationPage';
import { noteFile } from './noting';
import { planSending } from './schedule';
import { NAMES_THERE, isWhole, storedDestination } from './stored';

/** Outside systems that people are synced with: set up, switched on and off, sent to as a whole, removed. */
export function destinationRoutes({
  clock,
  keys,
  changed,
}: {
  clock: Clock;
  keys: Keyring;
  /** Something of the client's destinations is otherwise: it is seen to, and open screens are told. */
  changed: (clientId: number) => void;
}) {
  /** What of a destination is written down: name, settings, mapping, triggers, who, secrets, hint. */
  const written = ({ name, settings, mapping, triggers, who, token }: SaveDestination): unknown[] => [
    name,
    toJson(settings),
    toJson(mapping),
    toJson(triggers),
    who && toJson(who),
    token ? keys.seal({ token }) : null,
    token?.slice(-4) ?? null,
  ];

  return [
    route({
      method: 'get',
      path: '/clients/:client/destinations',
      may: 'see sync',
      handle: async ({ db, client }) => (await found(db, client.id)).map(rowView),
    }),
    route({
      method: 'post',
      path: '/clients/:client/destinations',
      may: 'change sync',
      body: SaveDestination,
      async handle({ db, client, body, account, afterwards }): Promise<DestinationPage> {
        afterwards(() => changed(client.id));
        if (destinationKind(body.kind).needsToken && !body.token)
          throw new Problem(400, 'That cannot be used', 'token: the other side needs a token to let us in.', {
            errors: [{ field: 'token', detail: 'is missing' }],
          });
        await knowNames(db, client.id, body.triggers);
        const id = newId(clock.now());
        const made = await db.query(
          `
           insert into destination (client_id, id, kind, name, settings, mapping, triggers, who, secrets,
             hint, made_at)
           values ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10, $11) on conflict (client_id, name) do nothing`,
          [client.id, id, body.kind, ...written(body), new Date(clock.now())],
        );
        if (made.rowCount === 0) throw isTaken('destination', body.name);
        await audit(db, client.id, account.id, clock.now(), 'made a destination', { name: body.name });
        return pageOf(db, client.id, id);
      },
    }),
    route({
      method: 'get',
      path: '/clients/:client/destinations/:destinationId',
      may: 'see sync',
      handle: ({ db, client, params }) => pageOf(db, client.id, params.destinationId!),
    }),
    route({
      method: 'put',
      path: '/clients/:client/destinations/:destinationId',
      may: 'change sync',
      query: Seen,
      body: SaveDestination,
      async handle({ db, client, params, query, body, account, afterwards }): Promise<DestinationPage> {
        await db.query('select from destination where client_id = $1 and id = $2 for no key update', [
          client.id,
          params.destinationId,
        ]);
        const before = await storedDestination(db, client.id, params.destinationId!);
        await stopIfChanged(db, client.id, query.seen, revisionOfDestination(before), {
          what: 'changed a destination',
          detail: { name: before.name },
        });
        await knowNames(db, client.id, body.triggers);
        if (before.kind !== body.kind)
          throw new Problem(409, 'Another kind', 'A destination keeps its kind; make a new one for another.');
        const other = await db.query(
          'select from destination where client_id = $1 and name = $2 and id <> $3',
          [client.id, body.name, before.id],
        );
        if (other.rowCount !== 0) throw isTaken('destination', body.name);
        await db.query(
          `
           update destination set name = $3, before = case when name = $3 then before
             else array_append(array_remove(array_remove(before, name), $3), name) end, settings = $4,
             mapping = $5, triggers = $6, who = $7, secrets = coalesce($8, secrets),
             hint = coalesce($9, hint),
             fails = 0, resume_at = null, failing_since = null, failure = null, columns = case
               when settings = $4::jsonb then columns end
           where client_id = $1 and id = $2`,
          [client.id, before.id, ...written(body)],
        );
        await planSending(db, client.id, before.id, clock.now());
        const page = await pageOf(db, client.id, before.id);
        if (page.state === 'on') stopFor(page);
        await audit(db, client.id, account.id, clock.now(), 'changed a destination', { name: body.name });
        afterwards(() => changed(client.id));
        return page;
      },
    }),
    route({
      method: 'delete',
      path: '/clients/:client/destinations/:destinationId',
      may: 'change sync',
      async handle({ db, client, params, account, afterwards }) {
        const { name } = await storedDestination(db, client.id, params.destinationId!);
        afterwards(() => changed(client.id));
        await db.query('delete from destination where client_id = $1 and id = $2', [
          client.id,
          params.destinationId,
        ]);
        await audit(db, client.id, account.id, clock.now(), 'removed a destination', { name });
      },
    }),
    route({
      method: 'post',
      path: '/clients/:client/destinations/:destinationId/state',
      may: 'change sync',
      body: SetDestinationState,
      async handle({ db, client, params, body, account, afterwards }): Promise<DestinationPage> {
        const page = await pageOf(db, client.id, params.destinationId!);
        if (body.state === 'on') stopFor(page);
        // Whoever switches it on has seen to what was wrong: it is tried at once.
        await db.query(
          `
            update destination set state = $3, fails = case when $4 then 0 else fails end, resume_at = case
              when $4 then null else resume_at end where client_id = $1 and id = $2`,
          [client.id, page.id, body.state, body.state === 'on'],
        );
        if (body.state === 'on')
          await db.query(
            `
              update delivery set due_at = least(due_at, $3) where client_id = $1 and destination_id = $2
                and status = 'waiting'`,
            [client.id, page.id, new Date(clock.now())],
          );
        await planSending(db, client.id, page.id, clock.now());
        await audit(
          db,
          client.id,
          account.id,
          clock.now(),
          `switched a destination ${body.state === 'paused' ? 'to paused' : body.state}`,
          {
            name: page.name,
          },
        );
        afterwards(() => changed(client.id));
        return pageOf(db, client.id, page.id);
      },
    }),
    route({
      method: 'post',
      path: '/clients/:client/destinations/:destinationId/send',
      may: 'change sync',
      // A file, now and not only when its time comes.
      async handle({ db, client, params, account, afterwards }): Promise<DestinationPage> {
        const destination = await storedDestination(db, client.id, params.destinationId!);
        if (!isWhole(destination))
          throw new Problem(
            409,
            'Not as a whole',
            'People are sent there one by one, from the list of people.',
          );
        if (destination.state === 'off')
          throw new Problem(
            409,
            'It is off',
            'Switch it on first: nothing goes to a destination that is off.',
          );
        stopFor(await pageOf(db, client.id, destination.id));
        await noteFile(db, destination, 'by hand', clock.now());
        await audit(db, client.id, account.id, clock.now(), 'sent a file out', { name: destination.name });
        afterwards(() => changed(client.id));
        return pageOf(db, client.id, destination.id);
      },
    }),
  ];
}

/**
 * Loops and calendars are named as they are called: one that is not there would never bring anything about.
 */
async function knowNames(db: Connection, clientId: number, triggers: Triggers): Promise<void> {
  const { rows } = await db.query<{ loops: string[]; calendars: string[] }>(
    `select ${NAMES_THERE} from client c where c.id = $1`,
    [clientId],
  );
  const [missing] = namesMissing({ ...triggers }, rows[0]!);
  if (missing)
    throw new Problem(
      400,
      'That cannot be used',
      `triggers: the client has no ${missing.what} “${missing.name}”.`,
      {
        errors: [{ field: 'triggers', detail: `the client has no ${missing.what} “${missing.name}”` }],
      },
    );
}
