import { existsSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { standinAddresses } from '../apps/server/src/channels';
import { readConfig, type Config } from '../apps/server/src/platform/config';
import { buildServers, buildWeb } from './build';
import { keepRunning, startChild, type Child } from './children';
import { openCluster, removeCluster, type Cluster } from './cluster';
import { takePort } from './machine';
import { keepStandins } from './standins';
import { isLoaded } from './demo/agency';
import { loadWorld } from './demo/load';
import { demoSignIns } from './demo/world';

/** Everything that runs together: database, stand-ins, server. */
export interface Stack {
  address: string;
  standins: string;
  cluster: Cluster;
  /** The server that runs now: another one where it had to be brought back. */
  readonly server: Child;
  /** Starts another server in its place, such as one with an edit. */
  restart(): Promise<void>;
  /** Ends the server and lets go of its port, for others that are put in its place. */
  stopServer(): Promise<void>;
  /** What the server was started with; a further worker is started with the same. */
  environment: Record<string, string>;
  stop(): Promise<void>;
}

export interface StackOptions {
  /** Where the database and logs stand. */
  folder: string;
  /** The address's port, stepped over when in use. */
  wishedPort: number;
  /** Whether to load the demo world when the database is empty. */
  world: boolean;
  /** Whether to serve the exported web app. */
  web: boolean;
  log?: Config['log'];
  /** Arguments for Node.js before the server's script, such as tsx's watch mode. */
  nodeArgs?: string[];
  step?: (words: string) => void;
}

/** The environment that the server reads its configuration from. */
export function serverEnvironment(options: {
  cluster: Cluster;
  port: number;
  standins: string;
  mailPort: number;
  web: string | null;
  /** The bundle that threads run. */
  threads: string;
  /** The folder for files of destinations. */
  files?: string;
  log?: Config['log'];
}): Record<string, string> {
  const platforms = standinAddresses(options.standins);
  return {
    DARTLOOP_APP_DATABASE: options.cluster.app,
    DARTLOOP_LANE_DATABASE: options.cluster.lane,
    DARTLOOP_KEY: options.cluster.key,
    DARTLOOP_PORT: String(options.port),
    DARTLOOP_ADDRESS: `http://127.0.0.1:${options.port}`,
    DARTLOOP_GRAPH: platforms.graph,
    DARTLOOP_TELEGRAM: platforms.telegram,
    DARTLOOP_SMS_GATEWAY: platforms.smsGateway!,
    DARTLOOP_STANDINS: options.standins,
    DARTLOOP_MAIL: `smtp://127.0.0.1:${options.mailPort}`,
    DARTLOOP_THREADS: options.threads,
    DARTLOOP_DEMO_SIGN_INS: JSON.stringify(demoSignIns()),
    DARTLOOP_WATCH: '10',
    ...(options.files && { DARTLOOP_FILES: options.files }),
    DARTLOOP_LOG: options.log ?? 'info',
    ...(options.web && { DARTLOOP_WEB: options.web }),
  };
}

/** Starts the stack step by step. When a step fails, what was started before is stopped again. */
export async function startStack(options: StackOptions): Promise<Stack> {
  const step = options.step ?? (() => undefined);
  const started: { stop(): Promise<void> }[] = [];
  const stop = async () => {
    for (const each of started.splice(0).reverse()) await each.stop();
  };
  try {
    // A world whose loading was broken off is half a world: it is begun again from nothing.
    const loading = join(options.folder, 'world.loading');
    if (existsSync(loading)) removeCluster(options.folder);
    step('Database: a private PostgreSQL cluster, migrated');
    const cluster = await openCluster(options.folder);
    started.push(cluster);
    step('Server and stand-ins: bundled');
    const built = await buildServers();
    step('Web app');
    const web = options.web ? await buildWeb(step) : null;
    step('Stand-ins: the five channels, mail and other systems');
    const standins = await keepStandins(built.standins, options.folder, step);
    started.push(standins);
    const taken = await takePort(options.wishedPort);
    started.push({ stop: taken.release });
    const { port } = taken;
    const environment = serverEnvironment({
      cluster,
      port,
      standins: standins.address,
      mailPort: standins.mailPort,
      web,
      threads: built.threads,
      files: join(options.folder, 'files'),
      log: options.log,
    });
    if (options.world && !(await isLoaded(cluster.owner))) {
      step(
        'Demo world: five clients, their loops, and a week of conversations played through the real webhooks',
      );
      writeFileSync(loading, '');
      // The world is loaded by a server at the same address, which holds the port meanwhile.
      await taken.release();
      await loadWorld(cluster.owner, readConfig(environment), standins.address, Date.now(), (done, of) => {
        if (done % 50 === 0 || done === of) step(`  ${done} of ${of} messages and taps`);
      });
      rmSync(loading);
    }
    step('Server');
    const start = async () => {
      await taken.release();
      return startChild(built.server, [], environment, join(options.folder, 'server.log'), options.nodeArgs);
    };
    let server = await keepRunning('the server', start, step);
    started.push({ stop: () => server.stop() });
    return {
      address: environment.DARTLOOP_ADDRESS!,
      standins: standins.address,
      cluster,
      get server() {
        return server.child;
      },
      async restart() {
        await server.stop();
        server = await keepRunning('the server', start, step);
      },
      async stopServer() {
        await server.stop();
        await taken.release();
      },
      environment,
      stop,
    };
  } catch (error) {
    await stop();
    throw error;
  }
}
