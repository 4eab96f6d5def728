import compression from 'compression';
import express, {
  Router,
  type ErrorRequestHandler,
  type Express,
  type Request,
  type Response,
} from 'express';
import helmet from 'helmet';
import type { Logger } from 'pino';
import { may } from '@dart-loop/contract';
import { loopJsonSchema } from '@dart-loop/core/loops/file/loopFile';
import type { Config } from '../platform/config';
import type { Db } from '../platform/db/pool';
import type { Live } from '../platform/live';
import { reaches, type Health } from './health';
import { refuseTooDeep, type Limits } from './limits';
import { Problem } from '../platform/problem';
import { problemOf } from './problemOf';
import { requestIdOf } from '../platform/requestId';
import { hangRoutes, type Route } from './route';
import type { Presses } from './presses';
import type { Sessions } from '../accounts/sessions';
import { hangWebApp } from './webApp';
import type { Transfers } from '../platform/transfers';

/** Where a file is handed in as its bytes. */
const FILE_PATHS =
  /^\/clients\/[^/]+\/(people\/files|files|sources\/documents|(files|sources)\/[^/]+\/content)$/;

export interface AppParts {
  config: Config;
  database: Db;
  sessions: Sessions;
  live: Live;
  routes: Route[];
  log: Logger;
  limits: Limits;
  transfers: Transfers;
  presses: Presses;
  /** Hangs what needs no session: signing in, the first run, links. */
  withoutSession: (api: Router) => void;
  health: () => Promise<Health>;
  /** Whether the server is about to end, and no new work is to be sent to it. */
  isDraining: () => boolean;
  /** Incoming webhooks of the clients' own systems. */
  inletCalls: Router;
  /** QR codes of ways into loops and files of clients, for anybody. */
  publicPictures: Router[];
  /** The API for the clients' own systems. */
  apiDoor: Router;
}

/**
 * Everything but the webhooks: what the app asks below /api, the clients' own API below /v1, the JSON Schema,
 * the health of the server, and the web app.
 */
export function makeApp({
  config,
  database,
  sessions,
  live,
  routes,
  log,
  limits,
  transfers,
  presses,
  withoutSession,
  health,
  isDraining,
  inletCalls,
  publicPictures,
  apiDoor,
}: AppParts): Express {
  const app = express();
  app.disable('x-powered-by');
  app.set('trust proxy', config.trustProxy);
  app.use(
    helmet({
      contentSecurityPolicy: {
        directives: {
          defaultSrc: ["'self'"],
          scriptSrc: ["'self'"],
          styleSrc: ["'self'", "'unsafe-inline'"],
          imgSrc: ["'self'", 'data:'],
          fontSrc: ["'self'", 'data:'],
          connectSrc: ["'self'"],
          workerSrc: ["'self'", 'blob:'],
          frameAncestors: ["'none'"],
          upgradeInsecureRequests: null,
        },
      },
      strictTransportSecurity: (config.address ?? '').startsWith('https:') ? undefined : false,
    }),
  );
  const tell = (response: Response, { isWell, ...said }: Health) =>
    response
      .status(isWell ? 200 : 503)
      .set('cache-control', 'no-store')
      .json(said);
  // Whether it is well; whether a load balancer may send it work; whether the process is there at all.
  app.get('/healthz', async (_request, response) => tell(response, await health()));
  app.get('/readyz', async (_request, response) =>
    tell(response, isDraining() ? { isWell: false, status: 'draining' } : await reaches(health)),
  );
  app.get('/livez', (_request, response) => tell(response, { isWell: true, status: 'well' }));

  const api = Router();
  api.use((request, _response, next) => {
    // A form on another site can neither read JSON nor say that it comes from here.
    const site = request.headers['sec-fetch-site'];
    if (request.method !== 'GET' && site !== undefined && site !== 'same-origin' && site !== 'none')
      throw new Problem(403, 'Not allowed', 'This request comes from another site.');
    // A file comes as its bytes, which no form of another site can send without asking first.
    const isFile =
      request.method === 'POST' && FILE_PATHS.test(request.path) && request.is('application/octet-stream');
    if (request.method !== 'GET' && request.method !== 'DELETE' && !request.is('application/json') && !isFile)
      throw new Problem(415, 'That cannot be used', 'The body must be JSON.');
    next();
  });
  api.use(limits.aMinute('app', 1_200));
  for (const path of ['/session', '/first-run', '/welcome', '/sign-in'])
    api.use(path, limits.aMinute('sign-in', 60, { skip: (request) => request.method === 'GET' }));
  // Everything in the API changes by itself; nothing of it may be kept by a browser.
  api.use((_request, response, next) => {
    response.set('cache-control', 'no-store');
    next();
  });
  api.get('/live', async (request, response) => {
    const account = await sessions.accountOf(request);
    if (!account) throw new Problem(401, 'Not signed in', 'Sign in first.');
    const opened = live.open(response, {
      accountId: account.id,
      session: sessions.nameOf(request),
      sees: (clientId) => account.clientIds.includes(clientId),
      // Who is in which loop is for those who may see loops.
      seesOthers: may(account, 'see loops'),
    });
    if (!opened)
      throw new Problem(
        429,
        'Too many screens',
        'This account has too many screens open. Close some of them.',
      );
  });
  api.use(compression());
  api.use(express.json({ limit: '2mb' }), refuseTooDeep);
  withoutSession(api);
  hangRoutes(api, routes, { database, transfers, presses }, sessions.accountOf);
  api.use(() => {
    throw new Problem(404, 'Not found', 'There is no such address in the API.');
  });
  app.use('/api', api);
  app.use('/v1', apiDoor);
  app.use(inletCalls);
  app.use(...publicPictures);
  app.get('/schemas/loop.json', (_request, response) => void response.json(loopJsonSchema()));

  if (config.web) hangWebApp(app, config.web);
  app.use(answerProblems(log));
  return app;
}

function answerProblems(log: Logger): ErrorRequestHandler {
  return (error, request, response, next) => {
    if (response.headersSent) return next(error);
    const problem = problemOf(error);
    if (problem.status === 503) response.set('retry-after', '1');
    if (problem.status === 503)
      log.warn(
        { request: requestIdOf(response), path: pathOf(request), error: (error as Error).message },
        'a request could not be answered now',
      );
    else if (problem.status >= 500)
      log.error(
        { request: requestIdOf(response), path: pathOf(request), error: (error as Error).stack },
        'a request failed',
      );
    response.status(problem.status).type('application/problem+json').json(problem.body());
  };
}

/**
 * Where a request went, for the log: the route as it is declared where there is one, else the path without
 * anything long in it, as tokens stand in some.
 */
function pathOf(request: Request): string {
  const declared = (request.route as { path?: string } | undefined)?.path;
  return declared === undefined ? request.path.replace(/[\w-]{20,}/g, '…') : request.baseUrl + declared;
}
