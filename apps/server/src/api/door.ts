import { Router, json, type Request, type Response } from 'express';
import type { Scope } from '@dart-loop/contract';
import type { Clock } from '../platform/clock';
import { audit } from '../platform/db/audit';
import { withClients, type Connection, type Db } from '../platform/db/pool';
import { refuseTooDeep, type Limits } from '../http/limits';
import { Problem, badInput, notFound } from '../platform/problem';
import type { OpenClient } from '../http/route';
import { isUuid } from '../platform/ids';
import { tokenHash } from '../platform/secrets';
import { openApi } from './document';
import type { Operation } from './operation';

/** Calls of one key in a minute. */
const MOST_A_MINUTE = 600;
/** When a key was last used is written down so often. */
const USED_MS = 60_000;
/** Its use stands in the audit so often, and whenever it comes from elsewhere. */
const NOTED_MS = 3_600_000;

interface Key {
  client_id: number;
  id: number;
  name: string;
  scopes: Scope[];
}

/**
 * The API below /v1: the key tells the client, its scopes what may be done; every operation is one
 * transaction. The document that says so is open to all.
 */
export function apiDoor(
  database: Db,
  clock: Clock,
  limits: Limits,
  operations: readonly Operation[],
  address: () => string,
): Router {
  const router = Router();
  router.use((_request, response, next) => void (response.set('cache-control', 'no-store'), next()));
  router.use(limits.aMinute('address', 3_000));
  router.get('/openapi.json', (_request, response) => void response.json(openApi(operations, address())));
  router.use(async (request, response, next) => {
    response.locals.key = await keyOf(database, request);
    next();
  });
  router.use(
    limits.aMinute('key', MOST_A_MINUTE, { keyOf: (_request, response) => String(keyIn(response).id) }),
  );
  router.use(json({ limit: '256kb' }), refuseTooDeep);
  for (const each of operations)
    router[each.method](each.path.replace(/\{(\w+)\}/g, ':$1'), async (request, response) => {
      const key = keyIn(response);
      if (!key.scopes.includes(each.scope))
        throw new Problem(
          403,
          'Not allowed',
          `The key “${key.name}” may ${key.scopes.join(', ')}; this needs: ${each.scope}.`,
        );
      if (each.body && !request.is('application/json'))
        throw new Problem(415, 'That cannot be used', 'The body must be JSON.');
      const query = each.query?.safeParse(request.query);
      if (query && !query.success) throw badInput(query.error);
      const body = each.body?.safeParse(request.body);
      if (body && !body.success) throw badInput(body.error);
      const params = request.params as Record<string, string>;
      for (const [name, value] of Object.entries(params))
        if (!isUuid(value)) throw notFound(name.replace(/Id$/, ''));
      const afterwards: (() => void)[] = [];
      const from = request.ip ?? 'unknown';
      const work = async (db: Connection) => {
        // Done again from the beginning where it gave way to another transaction.
        afterwards.length = 0;
        const client = await openFor(db, key, { now: clock.now(), from, what: each.id });
        return each.handle({
          client,
          caller: key.name,
          params,
          query: query?.data ?? {},
          body: body?.data ?? {},
          db,
          afterwards: (work) => void afterwards.push(work),
        });
      };
      const answer = await withClients(database, [key.client_id], work, from);
      for (const work of afterwards) work();
      response.json(answer);
    });
  router.use(() => {
    throw new Problem(404, 'Not found', 'There is no such address in the API; /v1/openapi.json lists them.');
  });
  return router;
}

const keyIn = (response: Response) => response.locals.key as Key;

async function keyOf(database: Db, request: Request): Promise<Key> {
  const token = /^Bearer ([\w-]{20,100})$/i.exec(request.headers.authorization ?? '')?.[1];
  const { rows } = token
    ? await database.query<Key>('select * from client_of_key($1)', [tokenHash(token)])
    : { rows: [] };
  if (!rows[0])
    throw new Problem(
      401,
      'No key',
      'Send a key of the client that still counts: “Authorization: Bearer KEY”.',
    );
  return rows[0];
}

/** The key's client, for a call that begins; that the key was used is written down. */
async function openFor(
  db: Connection,
  key: Key,
  { now, from, what }: { now: number; from: string; what: string },
): Promise<OpenClient> {
  const { rows: written } = await db.query<{ isNoted: boolean }>(
    `
      update api_key set last_used_at = $3, noted_from = $6,
        noted_at = case when noted_at >= $5 and noted_from = $6 then noted_at else $3 end
      where client_id = $1 and id = $2
        and (last_used_at >= $4 and noted_at >= $5 and noted_from = $6) is not true
      returning noted_at = $3 as "isNoted"`,
    [key.client_id, key.id, new Date(now), new Date(now - USED_MS), new Date(now - NOTED_MS), from],
  );
  if (written[0]?.isNoted)
    await audit(db, key.client_id, null, now, 'was called with a key of the API', { key: key.name, what });
  const { rows } = await db.query<OpenClient>(
    'select id, slug, name, time_zone as "timeZone" from client where id = $1',
    [key.client_id],
  );
  return rows[0]!;
}
