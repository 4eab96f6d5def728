import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import type { TestPhone } from '@dart-loop/contract';
import pino, { type Logger } from 'pino';
import { auditRoutes } from './accounts/auditRoutes';
import { factorRoutes } from './accounts/factorRoutes';
import { firstRunCode, hangFirstRun } from './accounts/firstRun';
import { ownRoutes } from './accounts/ownRoutes';
import { teamRoutes } from './accounts/teamRoutes';
import { hangWelcome } from './accounts/welcome';
import { apiDoor } from './api/door';
import { briefRoutes } from './clients/briefRoutes';
import { copyingRoutes } from './clients/copying/routes';
import { clientRoutes } from './clients/routes';
import { eventOperations } from './api/events';
import { loopOperations } from './api/loops';
import { peopleOperations } from './api/people';
import { makeAdapters } from './channels';
import { wallClock, type Clock } from './platform/clock';
import type { Config } from './platform/config';
import { openPool, whenReachable, type Db } from './platform/db/pool';
import { health } from './http/health';
import { makeApp } from './http/app';
import { hookHandler, isHook } from './conversations/hooks';
import { asideRoutes } from './conversations/asideRoutes';
import { copyRoutes } from './sync/copyRoutes';
import { deliveryRoutes } from './sync/deliveryRoutes';
import { destinationRoutes } from './sync/destinationRoutes';
import { tryingRoutes } from './sync/tryingRoutes';
import { keyRoutes } from './api/keyRoutes';
import { inboxRoutes } from './conversations/routes';
import { inletCalls } from './webhooks/calls';
import { inletRoutes } from './webhooks/routes';
import { lineRoutes } from './lines/routes';
import { loopRoutes } from './loops/routes';
import { wayPictures } from './loops/wayPictures';
import { publishingRoutes } from './loops/publishingRoutes';
import { fieldRoutes } from './people/fieldRoutes';
import { mergingRoutes } from './people/mergingRoutes';
import { personRoutes } from './people/personRoutes';
import { peopleRoutes } from './people/routes';
import { peopleTaskRoutes } from './people/taskRoutes';
import { segmentRoutes } from './people/segmentRoutes';
import { bookingRoutes } from './bookings/routes';
import { Limits } from './http/limits';
import { nameRequest } from './platform/requestId';
import type { Route } from './http/route';
import { Sessions, sessionRoutes } from './accounts/sessions';
import { testPhoneRoutes } from './phone/routes';
import { noteAddress } from './platform/db/address';
import { fileRoutes } from './files/routes';
import { keptFiles } from './files/serving';
import { storeOf } from './files/store';
import { todayRoutes } from './today/routes';
import { Transfers } from './platform/transfers';
import { Keyring } from './platform/keyring';
import { Live } from './platform/live';
import { Mailer } from './platform/mail';
import { Metrics } from './platform/metrics';
import { serveMetrics } from './http/metricsServer';
import { Threads } from './platform/threads/threads';
import { MessagePath } from './conversations/path';

/** How often sessions that have ended, and counts that count no more, are let go of. */
const CLEAR_MS = 3_600_000;

export interface RunningServer {
  address: string;
  /** Where its figures are told; null: nowhere. */
  figures: string | null;
  path: MessagePath;
  database: Db;
  routes: Route[];
  stop(): Promise<void>;
}

/** Logs as JSON lines. Secrets and the texts of messages are never handed to it. */
export function makeLog(level: Config['log']): Logger {
  return pino({
    level,
    base: undefined,
    redact: {
      paths: ['token', 'secret', 'secrets', 'password', '*.token', '*.secrets'],
      censor: 'kept back',
    },
  });
}

/** The message path alone, for one more worker process. */
export async function startWorker(
  config: Config,
  clock: Clock = wallClock,
): Promise<{ stop(): Promise<void> }> {
  const log = makeLog(config.log);
  await whenReachable(config.laneDatabase, log);
  const keys = await Keyring.open(config.laneDatabase, config.key);
  const metrics = new Metrics();
  const live: Live = new Live(
    config.laneDatabase,
    log,
    () => path.linesChanged(),
    () => path.deliveriesNoted(),
  );
  const path: MessagePath = new MessagePath({
    laneDatabase: config.laneDatabase,
    threads: config.threads,
    keys,
    clock,
    adapters: makeAdapters({ ...config, key: keys.root }),
    log,
    tell: live.tell,
    chance: Math.random,
    sending: config.sending,
    standins: config.standins,
    files: config.files,
    store: config.store,
    mailer: new Mailer(config.mail, config.mailFrom),
    metrics,
    watch:
      config.address === null
        ? null
        : { seconds: config.watchSeconds, hookAddress: (token) => `${config.address}/hooks/${token}` },
  });
  await live.start();
  await path.start();
  const figures = config.metrics && (await serveMetrics(metrics, config.metrics));
  return {
    async stop() {
      await figures?.stop();
      await path.stop();
      await live.stop();
    },
  };
}

/** Starts everything that one process does: webhooks, message path, API, web app. */
export async function startServer(config: Config, clock: Clock = wallClock): Promise<RunningServer> {
  const log = makeLog(config.log);
  await whenReachable(config.laneDatabase, log);
  const keys = await Keyring.open(config.laneDatabase, config.key);
  const database = openPool(config.appDatabase, {
    most: 10,
    name: 'dart-loop http',
    pooled: config.pooled,
    statementMs: 30_000,
    waitMs: 5_000,
  });
  const metrics = new Metrics();
  metrics.watchPool('http', database);
  const mailer = new Mailer(config.mail, config.mailFrom);
  const adapters = makeAdapters({ ...config, key: keys.root });
  const live: Live = new Live(
    config.laneDatabase,
    log,
    () => path.linesChanged(),
    () => path.deliveriesNoted(),
  );
  const path: MessagePath = new MessagePath({
    laneDatabase: config.laneDatabase,
    threads: config.threads,
    keys,
    clock,
    adapters,
    log,
    tell: live.tell,
    chance: Math.random,
    sending: config.sending,
    standins: config.standins,
    files: config.files,
    store: config.store,
    mailer,
    metrics,
    watch: { seconds: config.watchSeconds, hookAddress: (token) => hookAddress(token) },
  });
  const filePool = openPool(config.appDatabase, {
    most: 4,
    name: 'dart-loop files',
    pooled: config.pooled,
    statementMs: 120_000,
    idleMs: 120_000,
    waitMs: 5_000,
  });
  metrics.watchPool('files', filePool);
  const store = storeOf(config.store);
  const threads = new Threads(config.threads);
  const limits = new Limits(database);
  const limit = limits.signIn();
  const sessions = new Sessions(database, clock, (config.address ?? '').startsWith('https:'), keys, limit);
  const clearing = setInterval(() => {
    for (const clear of [() => sessions.clear(), () => limits.clear(Date.now())])
      clear().catch((error: Error) =>
        log.warn({ error: error.message }, 'what counts no more could not be let go of'),
      );
  }, CLEAR_MS);
  clearing.unref();

  let draining = false;
  let address = config.address ?? '';
  const hookAddress = (token: string) => `${address}/hooks/${token}`;
  const linesChanged = (clientId: number) => {
    // Here at once; the other processes are told.
    path.lines.forget();
    live.tellLines(clientId);
  };
  const syncChanged = (clientId: number) => {
    path.wake();
    path.deliveriesNoted(0);
    live.tell([clientId]);
  };
  const testPhone: TestPhone | null =
    config.standins === null ? null : config.everyLineStandsIn ? 'every line' : 'lines for trying out';
  const routes = [
    ...sessionRoutes(testPhone),
    ...teamRoutes({ clock, mailer, address: () => address, wake: () => path.wake() }),
    ...ownRoutes({ clock, sessions, limit }),
    ...factorRoutes({ clock, keys, limit }),
    ...auditRoutes(),
    ...clientRoutes({ clock, changed: syncChanged }),
    ...briefRoutes({ clock, linesChanged }),
    ...copyingRoutes({ clock, linesChanged }),
    ...fileRoutes({ clock, store, linesChanged }),
    ...todayRoutes(clock),
    ...loopRoutes(clock, live.tell, live.tellHere, threads, () => address),
    ...publishingRoutes(clock, live.tell, () => path.wake(), threads),
    ...inboxRoutes(clock, () => path.wake()),
    ...peopleRoutes({ clock }),
    ...personRoutes({ clock, woken: () => path.wake() }),
    ...mergingRoutes({ clock }),
    ...peopleTaskRoutes({ clock, threads, woken: () => path.wakeTasks() }),
    ...fieldRoutes({ clock, woken: () => path.wakeTasks(), linesChanged }),
    ...segmentRoutes({ clock, linesChanged }),
    ...bookingRoutes({ clock, linesChanged, woken: () => path.wake() }),
    ...asideRoutes({ clock, woken: () => path.wake() }),
    ...lineRoutes({ clock, keys, adapters, standins: config.standins, hookAddress, linesChanged }),
    ...destinationRoutes({ clock, keys, changed: syncChanged }),
    ...tryingRoutes({ clock, keys, standins: config.standins }),
    ...deliveryRoutes({ clock, changed: syncChanged }),
    ...copyRoutes({ clock, keys }),
    ...keyRoutes({ clock }),
    ...inletRoutes({ clock, key: keys.root, address: () => address, tell: live.tell }),
    ...(config.standins
      ? testPhoneRoutes({ address: config.standins, everyLine: config.everyLineStandsIn }, adapters)
      : []),
  ];
  const woken = () => path.wake();
  const operations = [
    ...peopleOperations({ clock, key: keys.root, woken }),
    ...loopOperations({ clock, woken }),
    ...eventOperations(),
  ];
  const app = makeApp({
    config,
    database,
    sessions,
    live,
    routes,
    log,
    health: () => health(path),
    isDraining: () => draining,
    limits,
    withoutSession: (api) => {
      const parts = { db: database, clock, sessions, limit };
      sessions.hang(api, config.demoSignIns);
      hangFirstRun(api, { ...parts, root: keys.root });
      hangWelcome(api, { ...parts, mailer, address: () => address });
    },
    transfers: new Transfers(filePool),
    inletCalls: inletCalls({ database, clock, key: keys.root, limits, wake: () => path.wake() }),
    publicPictures: [wayPictures(database, limits), keptFiles(database, store, limits)],
    apiDoor: apiDoor(database, clock, limits, operations, () => address),
  });
  const hooks = hookHandler(path, adapters, log);
  const server = createServer((request, response) => {
    nameRequest(request, response);
    if (isHook(request)) void hooks(request, response);
    else app(request, response);
  });
  server.keepAliveTimeout = 30_000;
  // Whoever sends half a request is not waited for.
  server.headersTimeout = 20_000;
  await listen(server, config.port, config.host);
  address ||= `http://${config.host}:${(server.address() as AddressInfo).port}`;
  await noteAddress(config.laneDatabase, address);
  await live.start();
  await path.start();
  const figures = config.metrics && (await serveMetrics(metrics, config.metrics));
  log.info({ address }, 'the server listens');
  if (await sessions.isFirstRun())
    log.info(
      { code: firstRunCode(keys.root) },
      'nobody has an account yet: open the address and found the agency with this code',
    );
  return {
    address,
    figures: figures?.address ?? null,
    path,
    database,
    routes,
    async stop() {
      draining = true;
      if (config.drainSeconds > 0) {
        log.info({ seconds: config.drainSeconds }, 'the server takes no new work');
        await new Promise((resolve) => setTimeout(resolve, config.drainSeconds * 1_000));
      }
      clearInterval(clearing);
      await figures?.stop();
      await live.stop();
      await closeGently(server);
      await path.stop();
      await threads.stop();
      await filePool.end();
      await database.end();
      log.info('the server has stopped');
    },
  };
}

/** How long what has been begun is waited for when the server ends. */
const FINISH_MS = 3_000;

/** Takes no more connections, lets what has been begun finish, and cuts off what does not. */
async function closeGently(server: Server): Promise<void> {
  const closed = new Promise((resolve) => server.close(resolve));
  server.closeIdleConnections();
  const impatient = setTimeout(() => server.closeAllConnections(), FINISH_MS);
  await closed;
  clearTimeout(impatient);
}

const LISTEN_TRIES = 40;
const LISTEN_PAUSE_MS = 250;

/** Listens; one that was just ended may not have let go of the port yet. */
async function listen(server: Server, port: number, host: string): Promise<void> {
  for (let tries = 1; ; tries++)
    try {
      return await new Promise((resolve, reject) => {
        server.once('error', reject);
        server.listen(port, host, () => {
          server.off('error', reject);
          resolve();
        });
      });
    } catch (error) {
      if ((error as NodeJS.ErrnoException).code !== 'EADDRINUSE' || port === 0 || tries === LISTEN_TRIES)
        throw error;
      await new Promise((resolve) => setTimeout(resolve, LISTEN_PAUSE_MS));
    }
}
