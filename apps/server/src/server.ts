import { createServer, type RequestListener, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { firstRunCode, hangFirstRun } from './accounts/firstRun';
import { hangWelcome } from './accounts/welcome';
import { apiDoor } from './api/door';
import { eventOperations } from './api/events';
import { loopOperations } from './api/loops';
import { peopleOperations } from './api/people';
import { hookHandler, isHook } from './conversations/hooks';
import type { MessagePath } from './conversations/path';
import { keptFiles } from './files/serving';
import { makeApp } from './http/app';
import { health } from './http/health';
import { serveMetrics } from './http/metricsServer';
import type { Route } from './http/route';
import { wayPictures } from './loops/wayPictures';
import { openParts, openPath, type Parts } from './parts';
import { wallClock, type Clock } from './platform/clock';
import type { Config } from './platform/config';
import { noteAddress } from './platform/db/address';
import type { Db } from './platform/db/pool';
import { makeLog } from './platform/log';
import { Mailer } from './platform/mail';
import { Metrics } from './platform/metrics';
import { nameRequest } from './platform/requestId';
import { Transfers } from './platform/transfers';
import { routesOf } from './routes';
import { inletCalls } from './webhooks/calls';

/** How often sessions that have ended, and counts that count no more, are let go of. */
const CLEAR_MS = 3_600_000;
const CLEAR_PRESSES_MS = 60_000;

export interface RunningServer {
  address: string;
  /** Where its figures are told; null: nowhere. */
  figures: string | null;
  path: MessagePath;
  database: Db;
  routes: Route[];
  stop(): Promise<void>;
}

/** The message path alone, for one more worker process. */
export async function startWorker(
  config: Config,
  clock: Clock = wallClock,
): Promise<{ stop(): Promise<void> }> {
  const log = makeLog(config.log);
  const metrics = new Metrics();
  const mailer = new Mailer(config.mail, config.mailFrom);
  const watched = config.address === null ? null : (token: string) => `${config.address}/hooks/${token}`;
  const { live, path } = await openPath(config, { clock, log, metrics, mailer }, watched);
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
  const parts = await openParts(config, clock);
  const { log, keys, metrics, database, filePool, live, path, threads, sessions, adapters } = parts;
  const clearing = clearNowAndThen(parts);
  let draining = false;
  const routes = routesOf(parts);
  const app = appOf(parts, routes, () => draining);
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
  parts.address ||= `http://${config.host}:${(server.address() as AddressInfo).port}`;
  const { address } = parts;
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
      for (const each of clearing) clearInterval(each);
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

/** Lets go of sessions that have ended, and of counts that count no more. */
function clearNowAndThen({ sessions, limits, presses, log }: Parts): NodeJS.Timeout[] {
  const every = (ms: number, ...clears: (() => Promise<unknown>)[]) =>
    setInterval(() => {
      for (const clear of clears)
        clear().catch((error: Error) =>
          log.warn({ error: error.message }, 'what counts no more could not be let go of'),
        );
    }, ms).unref();
  return [
    every(
      CLEAR_MS,
      () => sessions.clear(),
      () => limits.clear(Date.now()),
    ),
    every(CLEAR_PRESSES_MS, () => presses.clear()),
  ];
}

/** All that is asked over HTTP, but the webhooks. */
function appOf(parts: Parts, routes: Route[], isDraining: () => boolean): RequestListener {
  const { config, database, clock, sessions, live, path, log, limits, keys, mailer, filePool, store } = parts;
  const { presses } = parts;
  const limit = parts.signInLimit;
  const address = () => parts.address;
  const woken = () => path.wake();
  const operations = [
    ...peopleOperations({ clock, key: keys.root, woken }),
    ...loopOperations({ clock, woken }),
    ...eventOperations(),
  ];
  return makeApp({
    config,
    database,
    sessions,
    live,
    routes,
    log,
    health: () => health(path),
    isDraining,
    limits,
    withoutSession: (api) => {
      const shared = { db: database, clock, sessions, limit };
      sessions.hang(api, config.demoSignIns);
      hangFirstRun(api, { ...shared, root: keys.root });
      hangWelcome(api, { ...shared, mailer, address });
    },
    transfers: new Transfers(filePool),
    presses,
    inletCalls: inletCalls({ database, clock, key: keys.root, limits, wake: woken }),
    publicPictures: [wayPictures(database, limits), keptFiles(database, store, limits)],
    apiDoor: apiDoor(database, clock, limits, operations, address),
  });
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
