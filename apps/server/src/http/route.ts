import type { Request, RequestHandler, Response, Router } from 'express';
import type { z } from 'zod';
import { may, type Grant, type Permission, type Role } from '@dart-loop/contract';
import { openClients, withClients, type Connection, type Db } from '../platform/db/pool';
import type { Transfers } from '../platform/transfers';
import { isUuid } from '../platform/ids';
import { Problem, badInput, notFound } from '../platform/problem';
import type { Presses } from './presses';

export interface Account {
  id: number;
  agencyId: number;
  name: string;
  email: string;
  role: Role;
  grants: Grant[];
  clientIds: number[];
  /** Whether they may see every client of the agency, those that are still to come too. */
  allClients: boolean;
}

export interface OpenClient {
  id: number;
  slug: string;
  name: string;
  timeZone: string;
}

export interface Asked<Q, B> {
  account: Account;
  /** The client named in the path; only there when the path has `:client`. */
  client: OpenClient;
  params: Record<string, string>;
  query: Q;
  body: B;
  /** A transaction that sees the rows of the account's clients, or of the path's client alone. */
  db: Connection;
  request: Request;
  response: Response;
  /** Done once the transaction is committed, such as telling open screens. */
  afterwards(work: () => void): void;
}

/**
 * What a handler returns that has to ask another system: it is asked when the transaction is over, so that
 * none waits for it, and `goOn` has a new one.
 */
class Asking<T = unknown> {
  constructor(
    readonly ask: () => Promise<T>,
    readonly goOn: (db: Connection, answer: T) => Promise<unknown>,
  ) {}
}

/**
 * The two halves of a handler that asks another system: the asking, without a transaction, and what is done
 * with the answer.
 */
export const asking = <T>(
  ask: () => Promise<T>,
  goOn: (db: Connection, answer: T) => Promise<unknown>,
): Asking => new Asking(ask, goOn) as Asking;

/**
 * What a handler returns that has to be worked out, with what it has read: when the transaction is over, so
 * that no connection waits for it.
 */
class Outside {
  constructor(readonly work: () => Promise<unknown>) {}
}
export const outside = (work: () => Promise<unknown>): Outside => new Outside(work);

/**
 * What a handler returns that takes in or writes a long file: when the transaction is over, with a connection
 * that nobody else's requests need.
 */
class Transferring {
  constructor(readonly work: (db: Connection) => Promise<unknown>) {}
}

/** A file of any length, in or out; where it goes out, `work` sets the headers and writes the whole. */
export const transferring = (work: (db: Connection) => Promise<unknown>): Transferring =>
  new Transferring(work);

type Method = 'get' | 'post' | 'put' | 'delete';

export interface Route<Q = unknown, B = unknown> {
  method: Method;
  /** Below /api. With `:client`, the slug of one client, which the account must be allowed to see. */
  path: string;
  may: Permission | 'signed in';
  /** Why a call that changes something leaves no line in the audit, where it leaves none. */
  untraced?: string;
  query?: z.ZodType<Q>;
  body?: z.ZodType<B>;
  /**
   * A returned value is sent as JSON; `asking` asks another system first, `outside` works the answer out,
   * `transferring` takes in or writes a long file; undefined means that the handler has answered by itself or
   * there is nothing (204).
   */
  handle(asked: Asked<Q, B>): Promise<unknown>;
}

/** Keeps the types of query and body together with the handler. */
export function route<Q = Record<string, never>, B = Record<string, never>>(definition: Route<Q, B>): Route {
  return definition as unknown as Route;
}

/** Ids that the database counts up; all others are UUIDs. */
const COUNTED = new Set([
  'lineId',
  'keyId',
  'inletId',
  'accountId',
  'invitationId',
  'sessionId',
  'clientId',
  'todoId',
]);
const isId = (name: string, value: string): boolean =>
  COUNTED.has(name) ? /^\d{1,9}$/.test(value) : isUuid(value);

/**
 * Hangs the routes into a router: sign-in, permission, client, input and transaction are done here, once for
 * all.
 */
export function hangRoutes(
  router: Router,
  routes: Route[],
  { database, transfers, presses }: { database: Db; transfers: Transfers; presses: Presses },
  accountOf: (request: Request) => Promise<Account | null>,
): void {
  for (const definition of routes) {
    const handler: RequestHandler = async (request, response) => {
      const account = await accountOf(request);
      if (!account) throw new Problem(401, 'Not signed in', 'Sign in first.');
      if (definition.may !== 'signed in' && !may(account, definition.may))
        throw new Problem(
          403,
          'Not allowed',
          `Your role (${account.role}) does not include: ${definition.may}.`,
        );
      const query = definition.query?.safeParse(request.query);
      if (query && !query.success) throw badInput(query.error);
      const body = definition.body?.safeParse(request.body);
      if (body && !body.success) throw badInput(body.error);
      const params = request.params as Record<string, string>;
      for (const [name, value] of Object.entries(params))
        if (name.endsWith('Id') && !isId(name, value)) throw notFound(name.slice(0, -2));
      const answer = await presses.once(request, account.id, (kept) =>
        carryOut(definition, {
          ...{ account, params, request, response, database, transfers, kept },
          query: query?.data ?? {},
          body: body?.data ?? {},
        }),
      );
      if (response.headersSent) return;
      if (answer === undefined) response.status(204).end();
      else response.json(answer);
    };
    router[definition.method](definition.path, handler);
  }
}

interface Carried {
  account: Account;
  params: Record<string, string>;
  query: unknown;
  body: unknown;
  request: Request;
  response: Response;
  database: Db;
  transfers: Transfers;
  /** Writes down what a press is answered with, in the transaction that did it. */
  kept: (db: Connection, answer: unknown) => Promise<void>;
}

/** Runs a route's handler in its transaction, and what it leaves to be done after it. */
async function carryOut(
  definition: Route,
  { account, params, query, body, request, response, database, transfers, kept }: Carried,
): Promise<unknown> {
  const afterwards: (() => void)[] = [];
  let clientIds = account.clientIds;
  let answer = await withClients(
    database,
    account.clientIds,
    async (db) => {
      // Done again from the beginning where it gave way to another transaction.
      afterwards.length = 0;
      let client: OpenClient | null = null;
      if (/:client\b/.test(definition.path)) {
        const { rows } = await db.query<OpenClient>(
          'select id, slug, name, time_zone as "timeZone" from client where slug = $1',
          [params.client],
        );
        client = rows[0] ?? null;
        if (!client) throw notFound('client');
        clientIds = [client.id];
        await openClients(db, clientIds);
      }
      const said = await definition.handle({
        account,
        client: client as OpenClient,
        params,
        query,
        body,
        db,
        request,
        response,
        afterwards: (work) => void afterwards.push(work),
      });
      if (!isLeftOver(said)) await kept(db, said);
      return said;
    },
    request.ip,
  );
  if (answer instanceof Asking) {
    const { ask, goOn } = answer;
    const said = await ask();
    answer = await withClients(
      database,
      clientIds,
      async (db) => {
        const done = await goOn(db, said);
        if (!isLeftOver(done)) await kept(db, done);
        return done;
      },
      request.ip,
    );
  }
  for (const work of afterwards) work();
  if (answer instanceof Transferring) answer = await transfers.run(account.id, clientIds, answer.work);
  return answer instanceof Outside ? answer.work() : answer;
}

/** Whether the answer is still to be worked out. */
const isLeftOver = (answer: unknown): boolean =>
  answer instanceof Asking || answer instanceof Transferring || answer instanceof Outside;
