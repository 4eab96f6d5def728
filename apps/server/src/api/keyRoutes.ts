import { NewKey, type KeyRow, type MadeKey } from '@dart-loop/contract';
import type { Clock } from '../platform/clock';
import { audit } from '../platform/db/audit';
import { toldOnce } from '../platform/secrets';
import { isTaken, notFound } from '../platform/problem';
import { route } from '../http/route';

/** The keys that a client's own systems call our API with: made, shown once, and withdrawn. */
export const keyRoutes = ({ clock }: { clock: Clock }) => [
  route({
    method: 'get',
    path: '/clients/:client/keys',
    may: 'see sync',
    async handle({ db, client }): Promise<KeyRow[]> {
      const { rows } = await db.query<KeyRow>(
        `
          select id, name, scopes, hint, made_at as "madeAt", last_used_at as "lastUsedAt" from api_key
          where client_id = $1 order by name`,
        [client.id],
      );
      return rows;
    },
  }),
  route({
    method: 'post',
    path: '/clients/:client/keys',
    may: 'change sync',
    body: NewKey,
    async handle({ db, client, account, body }): Promise<MadeKey> {
      const { token, hash, hint } = toldOnce();
      const made = await db.query(
        `
          insert into api_key (client_id, name, scopes, token_hash, hint, made_at)
          values ($1, $2, $3, $4, $5, $6) on conflict (client_id, name) do nothing`,
        [client.id, body.name, body.scopes, hash, hint, new Date(clock.now())],
      );
      if (made.rowCount === 0) throw isTaken('key', body.name);
      await audit(db, client.id, account.id, clock.now(), 'made a key of the API', {
        name: body.name,
        scopes: body.scopes,
      });
      return { token };
    },
  }),
  route({
    method: 'delete',
    path: '/clients/:client/keys/:keyId',
    may: 'change sync',
    async handle({ db, client, account, params }) {
      const { rows } = await db.query<{ name: string }>(
        'delete from api_key where client_id = $1 and id = $2 returning name',
        [client.id, params.keyId],
      );
      if (!rows[0]) throw notFound('key');
      await audit(db, client.id, account.id, clock.now(), 'withdrew a key of the API', {
        name: rows[0].name,
      });
    },
  }),
];
