import { valueWords } from '@dart-loop/core';
import { guessIncoming, leavesOf, type IncomingMapping } from '@dart-loop/core/sync/incoming';
import {
  Listen,
  NewInlet,
  SaveReading,
  Seen,
  TryReading,
  type InletPage,
  type InletRow,
  type NewInletAddress,
  type SigningSecret,
  type TriedReading,
  type WebhooksPage,
} from '@dart-loop/contract';
import type { Clock } from '../platform/clock';
import { audit } from '../platform/db/audit';
import { toJson } from '../platform/db/json';
import type { Connection } from '../platform/db/pool';
import { makeMissing } from '../people/change';
import { settingOf } from '../people/meeting';
import { toldOnce } from '../platform/secrets';
import { takeIn } from './incoming';
import { signingSecret } from '../platform/outside';
import { Problem, isTaken, notFound } from '../platform/problem';
import { revisionOf, stopIfChanged } from '../http/revision';
import { route } from '../http/route';

/** How long a webhook listens for an example. */
const LISTENS_MS = 30 * 60_000;

/** Setting up the webhooks that a client's own systems call. */
export function inletRoutes({
  clock,
  key,
  address,
  tell,
}: {
  clock: Clock;
  key: Buffer;
  address: () => string;
  tell: (clientIds: number[]) => void;
}) {
  return [
    route({
      method: 'get',
      path: '/clients/:client/webhooks',
      may: 'see lines',
      async handle({ db, client }): Promise<WebhooksPage> {
        const { rows } = await db.query<Omit<InletRow, 'lastHeardAt'> & { last_heard_at: Date | null }>(
          `
            select id, hook, hint, last_heard_at, reading is not null as reads, refusal from inlet
            where client_id = $1 order by hook`,
          [client.id],
        );
        return {
          inlets: rows.map(({ last_heard_at, ...row }) => ({
            ...row,
            lastHeardAt: last_heard_at?.toISOString() ?? null,
          })),
        };
      },
    }),
    route({
      method: 'post',
      path: '/clients/:client/webhooks',
      may: 'change lines',
      body: NewInlet,
      async handle({ db, client, account, body }): Promise<NewInletAddress> {
        const { token, hash, hint } = toldOnce();
        const made = await db.query(
          `
            insert into inlet (client_id, hook, token_hash, hint, created_at)
            values ($1, $2, $3, $4, $5) on conflict do nothing`,
          [client.id, body.hook, hash, hint, new Date(clock.now())],
        );
        if (made.rowCount === 0) throw isTaken('webhook', body.hook, 'hook');
        await audit(db, client.id, account.id, clock.now(), 'made an incoming webhook', { hook: body.hook });
        return { address: `${address()}/in/${token}` };
      },
    }),
    route({
      method: 'post',
      path: '/clients/:client/webhooks/:inletId/address',
      may: 'change lines',
      async handle({ db, client, account, params }): Promise<NewInletAddress> {
        const { token, hash, hint } = toldOnce();
        const { rows } = await db.query<{ hook: string }>(
          'update inlet set token_hash = $3, hint = $4 where client_id = $1 and id = $2 returning hook',
          [client.id, params.inletId, hash, hint],
        );
        if (!rows[0]) throw notFound('webhook');
        await audit(db, client.id, account.id, clock.now(), 'gave an incoming webhook a new address', {
          hook: rows[0].hook,
        });
        return { address: `${address()}/in/${token}` };
      },
    }),
    route({
      method: 'delete',
      path: '/clients/:client/webhooks/:inletId',
      may: 'change lines',
      async handle({ db, client, account, params }) {
        const { rows } = await db.query<{ hook: string }>(
          'delete from inlet where client_id = $1 and id = $2 returning hook',
          [client.id, params.inletId],
        );
        if (!rows[0]) throw notFound('webhook');
        await audit(db, client.id, account.id, clock.now(), 'removed an incoming webhook', {
          hook: rows[0].hook,
        });
      },
    }),
    route({
      method: 'get',
      path: '/clients/:client/webhooks/:inletId',
      may: 'see lines',
      handle: ({ db, client, params }) => page(db, client.id, Number(params.inletId), clock.now()),
    }),
    route({
      method: 'post',
      path: '/clients/:client/webhooks/:inletId/listen',
      may: 'change lines',
      body: Listen,
      async handle({ db, client, params, body, account }): Promise<InletPage> {
        const id = Number(params.inletId);
        await audit(
          db,
          client.id,
          account.id,
          clock.now(),
          body.on ? 'let an incoming webhook keep its next call' : 'kept no call of an incoming webhook',
          { id },
        );
        await db.query(
          `
            update inlet set listens_until = $3, example = null, example_at = null
            where client_id = $1 and id = $2`,
          [client.id, id, body.on ? new Date(clock.now() + LISTENS_MS) : null],
        );
        return page(db, client.id, id, clock.now());
      },
    }),
    route({
      method: 'put',
      path: '/clients/:client/webhooks/:inletId/reading',
      may: 'change lines',
      query: Seen,
      body: SaveReading,
      async handle({ db, client, params, query, account, body, afterwards }): Promise<InletPage> {
        afterwards(() => tell([client.id]));
        const id = Number(params.inletId);
        await db.query('select from inlet where client_id = $1 and id = $2 for no key update', [
          client.id,
          id,
        ]);
        const before = await storedInlet(db, client.id, id);
        const { hook } = before;
        await stopIfChanged(db, client.id, query.seen, revisionOfInlet(before), {
          what: before.reading ? 'set how a webhook is read' : 'ended reading a webhook',
          detail: { hook },
        });
        await mayTie(db, client.id, id, body.destinationId);
        if (body.reading) await makeFilled(db, client.id, body.reading, clock.now());
        // The example has served; what it held of a person is not kept.
        await db.query(
          `
            update inlet
            set reading = $3, destination_id = $4, refusal = null, example = null, example_at = null,
              listens_until = null where client_id = $1 and id = $2`,
          [client.id, id, body.reading && toJson(body.reading), body.reading ? body.destinationId : null],
        );
        await audit(
          db,
          client.id,
          account.id,
          clock.now(),
          body.reading ? 'set how a webhook is read' : 'ended reading a webhook',
          {
            hook,
          },
        );
        return page(db, client.id, id, clock.now());
      },
    }),
    route({
      method: 'post',
      path: '/clients/:client/webhooks/:inletId/try',
      untraced: 'it shows what a call would change, and changes nothing',
      may: 'change lines',
      body: TryReading,
      async handle({ db, client, params, body }): Promise<TriedReading> {
        const { id, hook, example } = await storedInlet(db, client.id, Number(params.inletId));
        if (example === null)
          throw new Problem(409, 'No example', 'There is no example to try it on; listen for one first.');
        await mayTie(db, client.id, id, body.destinationId);
        const inlet = {
          client_id: client.id,
          id,
          hook,
          reading: body.reading,
          destination_id: body.destinationId,
          listens_until: null,
        };
        // Everything is done as it would be, looked at, and taken back.
        await db.query('savepoint tried');
        try {
          await makeFilled(db, client.id, body.reading, clock.now());
          const { person, made, changed, passedOver } = await takeIn(db, inlet, example, clock.now(), key);
          const name =
            [person.firstName, person.lastName].filter(Boolean).join(' ') || 'somebody without a name';
          const values = changed.map(
            (field) =>
              `${field.replaceAll('_', ' ')} ${person.fields[field] ? `= ${valueWords(person.fields[field])}` : 'cleared'}`,
          );
          return {
            words: [
              made ? `Would add ${name}.` : `Would find ${name}.`,
              values.length > 0 ? `Would set ${values.join(', ')}.` : 'No field would change.',
              ...passedOver.map((words) => `Passed over: ${words}.`),
            ],
          };
        } finally {
          await db.query('rollback to savepoint tried');
        }
      },
    }),
    route({
      method: 'post',
      path: '/clients/:client/webhooks/secret',
      may: 'change lines',
      async handle({ db, client, account }): Promise<SigningSecret> {
        await audit(db, client.id, account.id, clock.now(), 'looked at the signing secret', {});
        return { secret: signingSecret(key, client.id) };
      },
    }),
  ];
}

interface StoredInlet extends Omit<InletRow, 'lastHeardAt'> {
  last_heard_at: Date | null;
  reading: IncomingMapping | null;
  destination_id: string | null;
  listens_until: Date | null;
  example: unknown;
  example_at: Date | null;
}

async function storedInlet(db: Connection, clientId: number, id: number): Promise<StoredInlet> {
  const { rows } = await db.query<StoredInlet>(
    `
     select id, hook, hint, last_heard_at, refusal, reading is not null as reads, reading, destination_id,
       listens_until, example, example_at
     from inlet where client_id = $1 and id = $2`,
    [clientId, id],
  );
  if (!rows[0]) throw notFound('webhook');
  return rows[0];
}

const revisionOfInlet = ({ reading, destination_id }: StoredInlet): string =>
  revisionOf([reading, destination_id]);

/** Destinations that the webhook may be the way back of: no other is. */
const tieable = async (db: Connection, clientId: number, id: number): Promise<InletPage['destinations']> =>
  (
    await db.query<InletPage['destinations'][number]>(
      `
         select id, name from destination d where client_id = $1
         and not exists (select from inlet i where i.client_id = d.client_id and i.destination_id = d.id
           and i.id <> $2) order by name`,
      [clientId, id],
    )
  ).rows;

async function page(db: Connection, clientId: number, id: number, now: number): Promise<InletPage> {
  const stored = await storedInlet(db, clientId, id);
  const { last_heard_at, destination_id, listens_until, example, example_at, ...row } = stored;
  const destinations = await tieable(db, clientId, id);
  return {
    ...row,
    revision: revisionOfInlet(stored),
    lastHeardAt: last_heard_at?.toISOString() ?? null,
    destinationId: destination_id,
    listensUntil: listens_until && listens_until.getTime() > now ? listens_until.toISOString() : null,
    example: example_at && {
      at: example_at.toISOString(),
      leaves: leavesOf(example),
      guess: await guessFor(db, clientId, example, now, destinations.length > 0),
    },
    destinations,
  };
}

async function guessFor(
  db: Connection,
  clientId: number,
  example: unknown,
  now: number,
  tied: boolean,
): Promise<IncomingMapping> {
  const setting = await settingOf(db, clientId, now);
  const fields = [...setting.fields].map(([key, { type }]) => ({
    key,
    name: key.replaceAll('_', ' '),
    type,
  }));
  return guessIncoming(example, { fields, lines: [] }, setting.cells, tied);
}

async function mayTie(
  db: Connection,
  clientId: number,
  id: number,
  destinationId: string | null,
): Promise<void> {
  if (destinationId !== null && !(await tieable(db, clientId, id)).some((each) => each.id === destinationId))
    throw new Problem(
      409,
      'Not that destination',
      'The destination is gone, or another webhook is its way back already.',
    );
}

/** Fields that the mapping fills and the client does not have. */
async function makeFilled(
  db: Connection,
  clientId: number,
  { parts }: IncomingMapping,
  now: number,
): Promise<void> {
  const filled = parts.flatMap(({ into }) => (into.as === 'field' ? [[into.field, into.type] as const] : []));
  await makeMissing(db, await settingOf(db, clientId, now), Object.fromEntries(filled));
}
