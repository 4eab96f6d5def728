import type { Logger } from 'pino';
import { Sessions } from './accounts/sessions';
import { Answers } from './answers/answers';
import { HostedModels } from './answers/hosted/hostedModels';
import { makeAdapters, type Adapters } from './channels';
import { MessagePath } from './conversations/path';
import { storeOf, type Store } from './files/store';
import { Limits } from './http/limits';
import { Presses } from './http/presses';
import type { Clock } from './platform/clock';
import type { Config } from './platform/config';
import { openPool, whenReachable, type Db } from './platform/db/pool';
import { Keyring } from './platform/keyring';
import { Live } from './platform/live';
import { makeLog } from './platform/log';
import { Mailer } from './platform/mail';
import { Metrics } from './platform/metrics';
import { Threads } from './platform/threads/threads';

/** What the server is made of, opened and not begun yet. */
export interface Parts {
  config: Config;
  clock: Clock;
  log: Logger;
  keys: Keyring;
  metrics: Metrics;
  mailer: Mailer;
  /** For requests; long files have a pool of their own. */
  database: Db;
  filePool: Db;
  store: Store | null;
  adapters: Adapters;
  live: Live;
  path: MessagePath;
  threads: Threads;
  answers: Answers;
  models: HostedModels;
  limits: Limits;
  signInLimit: ReturnType<Limits['signIn']>;
  presses: Presses;
  sessions: Sessions;
  /** Where browsers and platforms reach us; where it is not set, known once the server listens. */
  address: string;
  /** Where a line's webhook is, by its token. */
  hookAddress: (token: string) => string;
}

/**
 * The message path with what it tells others by. `hookAddress`: where a line's webhook is, by its token;
 * null: the lines are not watched from here.
 */
export async function openPath(
  config: Config,
  shared: { clock: Clock; log: Logger; metrics: Metrics; mailer: Mailer },
  hookAddress: ((token: string) => string) | null,
): Promise<{ keys: Keyring; adapters: Adapters; live: Live; path: MessagePath }> {
  await whenReachable(config.laneDatabase, shared.log);
  const keys = await Keyring.open(config.laneDatabase, config.key);
  const adapters = makeAdapters({ ...config, key: keys.root });
  const live: Live = new Live(
    config.laneDatabase,
    shared.log,
    () => path.linesChanged(),
    () => path.deliveriesNoted(),
  );
  const { laneDatabase, threads, sending, standins, files, store } = config;
  const path: MessagePath = new MessagePath({
    ...shared,
    ...{ laneDatabase, threads, sending, standins, files, store },
    keys,
    adapters,
    tell: live.tell,
    chance: Math.random,
    watch: hookAddress && { seconds: config.watchSeconds, hookAddress },
  });
  return { keys, adapters, live, path };
}

export async function openParts(config: Config, clock: Clock): Promise<Parts> {
  const log = makeLog(config.log);
  const metrics = new Metrics();
  const mailer = new Mailer(config.mail, config.mailFrom);
  const address = config.address ?? '';
  const hookAddress = (token: string) => `${parts.address}/hooks/${token}`;
  const { keys, adapters, live, path } = await openPath(config, { clock, log, metrics, mailer }, hookAddress);
  const pooled = config.pooled;
  const database = openPool(config.appDatabase, {
    most: 10,
    name: 'dart-loop http',
    pooled,
    statementMs: 30_000,
    waitMs: 5_000,
  });
  metrics.watchPool('http', database);
  const filePool = openPool(config.appDatabase, {
    most: 4,
    name: 'dart-loop files',
    pooled,
    statementMs: 120_000,
    idleMs: 120_000,
    waitMs: 5_000,
  });
  metrics.watchPool('files', filePool);
  const limits = new Limits(database);
  const signInLimit = limits.signIn();
  const sessions = new Sessions(database, clock, address.startsWith('https:'), keys, signInLimit);
  const answers = new Answers(database, path.threads, clock);
  const { standins } = config;
  const parts: Parts = {
    ...{ config, clock, log, keys, metrics, mailer, database, filePool, adapters, live, path, limits },
    ...{ signInLimit, sessions, address, hookAddress, answers },
    models: new HostedModels(database, { answers, keys, clock, log, standins }),
    store: storeOf(config.store),
    presses: new Presses(database, clock, keys.root),
    threads: new Threads(config.threads),
  };
  return parts;
}
