import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import pino, { type Logger } from 'pino';
import { apiDoor } from './api/door';
import { eventOperations } from './api/events';
import { loopOperations } from './api/loops';
import { peopleOperations } from './api/people';
import { makeAdapters } from './channels';
import { wallClock, type Clock } from './clock';
import type { Config } from './config';
import { openPool, type Db } from './db/pool';
import { makeApp } from './http/app';
import { hookHandler, isHook } from './http/hooks';
import { copyRoutes } from './http/copies';
import { destinationRoutes } from './http/destinations';
import { keyRoutes } from './http/keys';
import { inboxRoutes } from './http/inbox';
import { inletCalls } from './http/inletCalls';
import { inletRoutes } from './http/inlets';
import { lineRoutes } from './http/lines';
import { loopRoutes } from './http/loops';
import { publishingRoutes } from './http/publishing';
import { fieldRoutes } from './http/fields';
import { mergingRoutes } from './http/merging';
import { peopleRoutes } from './http/people';
import { peopleTaskRoutes } from './http/peopleTasks';
import { segmentRoutes } from './http/segments';
import { bookingRoutes } from './http/bookings';
import type { Route } from './http/route';
import { Sessions, sessionRoutes } from './http/session';
import { testPhoneRoutes } from './http/testPhone';
import { todayRoutes } from './http/today';
import { Live } from './live';
import { MessagePath } from './work/path';

export interface RunningServer {
  address: string;
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
    redact: { paths: ['token', 'secret', 'secrets', 'password', '*.token', '*.secrets'], censor: 'kept back' },
  });
}

/** The message path alone, for one more worker process. */
export async function startWorker(config: Config, clock: Clock = wallClock): Promise<{ stop(): Promise<void> }> {
  const log = makeLog(config.log);
  const live = new Live(config.laneDatabase, log, () => void path.linesChanged());
  const path = new MessagePath({
    laneDatabase: config.laneDatabase,
    key: config.key,
    clock,
    adapters: makeAdapters(config),
    log,
    tell: live.tell,
    chance: Math.random,
    sending: config.sending,
    standins: config.standins,
    files: config.files,
    mail: config.mail,
    mailFrom: config.mailFrom,
    watch: config.address === null ? null : { seconds: config.watchSeconds, hookAddress: (token) => `${config.address}/hooks/${token}` },
  });
  await live.start();
  await path.start();
  return {
    async stop() {
      await path.stop();
      await live.stop();
    },
  };
}

/** Starts everything that one process does: webhooks, message path, API, web app. */
export async function startServer(config: Config, clock: Clock = wallClock): Promise<RunningServer> {
  const log = makeLog(config.log);
  const database = openPool(config.appDatabase, 10, 'dart-loop http');
  const adapters = makeAdapters(config);
  const live = new Live(
    config.laneDatabase,
    log,
    () => void path.linesChanged().catch((error: Error) => log.error({ error: error.message }, 'changed lines could not be taken up')),
  );
  const path = new MessagePath({
    laneDatabase: config.laneDatabase,
    key: config.key,
    clock,
    adapters,
    log,
    tell: live.tell,
    chance: Math.random,
    sending: config.sending,
    standins: config.standins,
    files: config.files,
    mail: config.mail,
    mailFrom: config.mailFrom,
    watch: { seconds: config.watchSeconds, hookAddress: (token) => hookAddress(token) },
  });
  const sessions = new Sessions(database, clock, (config.address ?? '').startsWith('https:'));

  let address = config.address ?? '';
  const hookAddress = (token: string) => `${address}/hooks/${token}`;
  const linesChanged = (clientId: number) => {
    // Here at once; the other processes are told.
    path.lines.forget();
    live.tellLines(clientId);
  };
  const routes = [
    ...sessionRoutes(config.standins !== null),
    ...todayRoutes(clock),
    ...loopRoutes(clock, live.tell, live.tellHere),
    ...publishingRoutes(clock, live.tell, () => path.wake()),
    ...inboxRoutes(clock, () => path.wake()),
    ...peopleRoutes({ clock, woken: () => path.wake() }),
    ...mergingRoutes({ clock }),
    ...peopleTaskRoutes({ clock, woken: () => path.wakeTasks() }),
    ...fieldRoutes({ clock, woken: () => path.wakeTasks(), linesChanged }),
    ...segmentRoutes({ clock, linesChanged }),
    ...bookingRoutes({ clock, linesChanged, woken: () => path.wake() }),
    ...lineRoutes({ clock, key: config.key, adapters, hookAddress, linesChanged }),
    ...destinationRoutes({
      clock,
      key: config.key,
      standins: config.standins,
      changed: (clientId) => {
        path.wake();
        live.tell([clientId]);
      },
    }),
    ...copyRoutes({ clock, key: config.key }),
    ...keyRoutes({ clock }),
    ...inletRoutes({ clock, key: config.key, address: () => address, tell: live.tell }),
    ...(config.standins ? testPhoneRoutes(config.standins, adapters) : []),
  ];
  const woken = () => path.wake();
  const operations = [...peopleOperations({ clock, key: config.key, woken }), ...loopOperations({ clock, woken }), ...eventOperations()];
  const healthy = async () => {
    try {
      await database.query('select 1');
      return true;
    } catch {
      return false;
    }
  };
  const app = makeApp({
    config,
    database,
    sessions,
    live,
    routes,
    log,
    healthy,
    inletCalls: inletCalls({ database, clock, key: config.key, wake: () => path.wake() }),
    apiDoor: apiDoor(database, clock, operations, () => address),
  });
  const hooks = hookHandler(path, adapters, log);
  const server = createServer((request, response) => (isHook(request) ? void hooks(request, response) : app(request, response)));
  server.keepAliveTimeout = 30_000;
  await listen(server, config.port, config.host);
  address ||= `http://${config.host}:${(server.address() as AddressInfo).port}`;
  await live.start();
  await path.start();
  log.info({ address }, 'the server listens');
  return {
    address,
    path,
    database,
    routes,
    async stop() {
      await live.stop();
      server.closeAllConnections();
      await new Promise((resolve) => server.close(resolve));
      await path.stop();
      await database.end();
      log.info('the server has stopped');
    },
  };
}

function listen(server: Server, port: number, host: string): Promise<void> {
  return new Promise((resolve, reject) => {
    server.once('error', reject);
    server.listen(port, host, () => resolve());
  });
}
