import { randomBytes } from 'node:crypto';
import { Router, json } from 'express';
import { rateLimit } from 'express-rate-limit';
import { parsePhoneNumberFromString, type CountryCode } from 'libphonenumber-js';
import { InletCall, NewInlet, type InletRow, type NewInletAddress, type SigningSecret, type WebhooksPage } from '@dart-loop/contract';
import type { Clock } from '../clock';
import { audit } from '../db/audit';
import { withClients, type Db } from '../db/pool';
import { tokenHash } from '../secrets';
import { signingSecret } from '../work/outside';
import { Problem, badInput, notFound } from './problem';
import { route } from './route';

/** Setting up the webhooks that a client's own systems call. */
export function inletRoutes({ clock, key, address }: { clock: Clock; key: Buffer; address: () => string }) {
  return [
    route({
      method: 'get',
      path: '/clients/:client/webhooks',
      may: 'see lines',
      async handle({ db, client }): Promise<WebhooksPage> {
        const { rows } = await db.query<Omit<InletRow, 'lastHeardAt'> & { last_heard_at: Date | null }>(
          'select id, hook, hint, last_heard_at from inlet where client_id = $1 order by hook',
          [client.id],
        );
        return { inlets: rows.map(({ last_heard_at, ...row }) => ({ ...row, lastHeardAt: last_heard_at?.toISOString() ?? null })) };
      },
    }),
    route({
      method: 'post',
      path: '/clients/:client/webhooks',
      may: 'change lines',
      body: NewInlet,
      async handle({ db, client, account, body }): Promise<NewInletAddress> {
        const token = randomBytes(32).toString('base64url');
        const made = await db.query(
          'insert into inlet (client_id, hook, token_hash, hint, created_at) values ($1, $2, $3, $4, $5) on conflict do nothing',
          [client.id, body.hook, tokenHash(token), token.slice(-4), new Date(clock.now())],
        );
        if (made.rowCount === 0)
          throw new Problem(
            409,
            'There already',
            `The client has an incoming webhook “${body.hook}” already; remove it first, or choose another name.`,
          );
        await audit(db, client.id, account.id, clock.now(), 'made an incoming webhook', { hook: body.hook });
        return { address: `${address()}/in/${token}` };
      },
    }),
    route({
      method: 'delete',
      path: '/clients/:client/webhooks/:inletId',
      may: 'change lines',
      async handle({ db, client, account, params }) {
        const { rows } = await db.query<{ hook: string }>('delete from inlet where client_id = $1 and id = $2 returning hook', [
          client.id,
          params.inletId,
        ]);
        if (!rows[0]) throw notFound('webhook');
        await audit(db, client.id, account.id, clock.now(), 'removed an incoming webhook', { hook: rows[0].hook });
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

/** The address that other systems call: POST /in/TOKEN with {"person": {"email": "…"}}. 202 once it is in the person's lane. */
export function inletCalls(database: Db, clock: Clock, wake: () => void): Router {
  const router = Router();
  router.post(
    '/in/:token',
    json({ limit: '100kb' }),
    rateLimit({ windowMs: 60_000, limit: 600, standardHeaders: 'draft-8', legacyHeaders: false }),
    async (request, response) => {
      const token = String(request.params.token);
      const found = await database.query<{ client_id: number; id: number; hook: string }>('select * from client_of_inlet($1)', [
        tokenHash(token),
      ]);
      const inlet = found.rows[0];
      if (!inlet) throw new Problem(404, 'Not found', 'There is no such webhook.');
      const call = InletCall.safeParse(request.body);
      if (!call.success) throw badInput(call.error);
      const { person } = call.data;
      await withClients(database, [inlet.client_id], async (db) => {
        const client = (await db.query<{ country: string }>('select country from client where id = $1', [inlet.client_id])).rows[0]!;
        const phone =
          person.phone === undefined
            ? null
            : (parsePhoneNumberFromString(person.phone, client.country as CountryCode)?.number ?? person.phone);
        const { rows } = await db.query<{ conversation_id: string; line_id: number }>(
          `select c.id as conversation_id, c.line_id from conversation c join person p on p.client_id = c.client_id and p.id = c.person_id
         where c.client_id = $1 and ($2::uuid is null or p.id = $2) and ($3::text is null or c.address = $3 or p.fields -> 'phone' ->> 'value' = $3)
           and ($4::text is null or lower(p.fields -> 'email' ->> 'value') = lower($4)) and ($5::text is null or c.address = $5)
         order by c.last_at desc limit 1`,
          [inlet.client_id, person.id ?? null, phone, person.email ?? null, person.address ?? null],
        );
        const [name, value] = Object.entries(person)[0]!;
        if (!rows[0])
          throw new Problem(404, 'Nobody found', `The client has nobody with the ${name} “${value}” who has written on one of its lines.`);
        await db.query(
          `insert into pending (client_id, line_id, conversation_id, event_id, place, ready_at, happened_at, body) values ($1, $2, $3, null, null, $4, $4, $5)`,
          [
            inlet.client_id,
            rows[0].line_id,
            rows[0].conversation_id,
            new Date(clock.now()),
            JSON.stringify({ incoming: { kind: 'webhook', hook: inlet.hook, name: inlet.hook } }),
          ],
        );
        await db.query('update inlet set last_heard_at = $3 where client_id = $1 and id = $2', [
          inlet.client_id,
          inlet.id,
          new Date(clock.now()),
        ]);
      });
      wake();
      response.status(202).json({ taken: inlet.hook });
    },
  );
  return router;
}
