import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import type { AddressInfo } from 'node:net';
import type { Server } from 'node:http';
import pg from 'pg';
import type { FieldType } from '@dart-loop/core';
import type { FieldsPage, Role, TaskView } from '@dart-loop/contract';
import { Api } from '../../../../cli/api';
import { makeAgency } from '../../../../cli/demo/agency';
import { setUpClients } from '../../../../cli/demo/clients';
import { demoSignIns, readWorld } from '../../../../cli/demo/world';
import {
  makeStandins,
  restore,
  stateOf,
  type Standins,
  type StandinsState,
} from '../../../standins/src/standins';
import type { Clock } from '../../src/platform/clock';
import { readConfig, type Config } from '../../src/platform/config';
import { startServer, type RunningServer } from '../../src/server';

export interface TestCluster {
  owner: string;
  app: string;
  lane: string;
  key: string;
  /** The bundled server, for tests that kill it. */
  server: string;
  folder: string;
}
export const cluster = () => JSON.parse(process.env.DARTLOOP_TEST!) as TestCluster;

let made = 0;

const into = (database: string) => (url: string) => url.replace(/\/[^/]+$/, `/${database}`);

async function inPostgres<T>(does: (db: pg.Client) => Promise<T>): Promise<T> {
  const db = new pg.Client({ connectionString: into('postgres')(cluster().owner) });
  await db.connect();
  try {
    return await does(db);
  } finally {
    await db.end();
  }
}

/** A database of the test's own: a copy of the cluster's, which is migrated and empty, or of another. */
export async function makeDatabase(from?: string): Promise<Stage['databases']> {
  const { owner, app, lane } = cluster();
  const name = `test_${process.pid}_${Date.now().toString(36)}_${++made}`;
  // Nobody may be in the database that is copied.
  await inPostgres((db) =>
    db.query(`create database ${name} template ${from ?? new URL(owner).pathname.slice(1)}`),
  );
  const [ofOwner, ofApp, ofLane] = [owner, app, lane].map(into(name)) as [string, string, string];
  return { owner: ofOwner, app: ofApp, lane: ofLane };
}

const SET_UP = 'set_up';
/** However busy the machine is beside it. */
const SET_UP_MS = 120_000;
/** What the stand-ins know once the clients are set up, and the address at which the server was then. */
interface SetUp {
  server: string;
  standins: StandinsState;
}

/**
 * The demo’s agency with its lines and loops is set up once in a run: the first to need it makes a database
 * of it, and all others copy that.
 */
function setUpOnce(): Promise<SetUp> {
  const file = join(cluster().folder, 'set-up.json');
  return inPostgres(async (db) => {
    await db.query('select pg_advisory_lock(1)');
    const { rowCount } = await db.query('select from pg_database where datname = $1', [SET_UP]);
    if (rowCount === 0) {
      const databases = await makeDatabase();
      const stage = await Stage.open({ databases });
      // No copy has to work out again what the briefs mean.
      await until(
        () =>
          stage.one<{ left: number }>(
            'select count(*)::int as left from client where encoded_revision <> sources_revision',
          ),
        ({ left }) => left === 0,
        SET_UP_MS,
      );
      const known: SetUp = { server: stage.server.address, standins: stateOf(stage.standins) };
      await stage.close();
      writeFileSync(file, JSON.stringify(known));
      await db.query(`alter database ${databases.owner.split('/').at(-1)} rename to ${SET_UP}`);
    }
    return JSON.parse(readFileSync(file, 'utf8')) as SetUp;
  });
}

export const BOT = '7001200301';
export const NUMBER = '+447700900144';

/** Server, stand-ins and the demo's agency with lines and loops, but without its conversations. */
export class Stage {
  private constructor(
    readonly databases: { owner: string; app: string; lane: string },
    readonly config: Config,
    readonly standins: Standins,
    readonly standinsAddress: string,
    private readonly standinsServer: Server,
    public server: RunningServer,
    readonly db: pg.Client,
    public api: Api,
    /** The demo's world, which it was made from. */
    readonly world: Awaited<ReturnType<typeof makeAgency>>,
    readonly clock?: Clock,
  ) {}

  /**
   * `limits: false`: the stand-ins take messages at any rate. `databases`: empty ones of the test's own, in
   * which all is set up anew. `port`: for a server that is started again.
   */
  static async open(
    options: {
      clock?: Clock;
      limits?: boolean;
      databases?: Stage['databases'];
      port?: number;
      /** The pooler before the application's database. */
      pooler?: (url: string) => string;
    } = {},
  ): Promise<Stage> {
    const setUp = options.databases ? null : await setUpOnce();
    const databases = options.databases ?? (await makeDatabase(SET_UP));
    const standins = makeStandins();
    const standinsServer = standins.app.listen(0, '127.0.0.1');
    await new Promise((resolve) => standinsServer.once('listening', resolve));
    if (options.limits === false)
      standins.telegram.limits = standins.sms.limits = standins.graph.limits = false;
    await standins.mail.start();
    const standinsAddress = `http://127.0.0.1:${(standinsServer.address() as AddressInfo).port}`;
    const config = readConfig({
      DARTLOOP_APP_DATABASE: options.pooler?.(databases.app) ?? databases.app,
      DARTLOOP_POOLED: options.pooler ? 'yes' : 'no',
      DARTLOOP_LANE_DATABASE: databases.lane,
      DARTLOOP_KEY: cluster().key,
      DARTLOOP_PORT: String(options.port ?? 0),
      DARTLOOP_GRAPH: `${standinsAddress}/graph`,
      DARTLOOP_TELEGRAM: standinsAddress,
      DARTLOOP_SMS_GATEWAY: `${standinsAddress}/sms`,
      DARTLOOP_STANDINS: standinsAddress,
      DARTLOOP_MAIL: `smtp://127.0.0.1:${standins.mail.port}`,
      DARTLOOP_FILES: join(cluster().folder, `files-${databases.owner.split('/').at(-1)}`),
      DARTLOOP_THREADS: cluster().server.replace('server.mjs', 'threads.mjs'),
      DARTLOOP_DEMO_SIGN_INS: JSON.stringify(demoSignIns()),
      DARTLOOP_WATCH: '1',
      DARTLOOP_LOG: 'silent',
    });
    const world = setUp ? readWorld() : await makeAgency(databases.owner);
    const server = await startServer(config, options.clock);
    if (setUp) restore(standins, JSON.stringify(setUp.standins).replaceAll(setUp.server, server.address));
    const api = await Api.signIn(server.address, 'owner');
    if (!setUp) await setUpClients(api, world, standinsAddress, Date.now());
    const db = new pg.Client({ connectionString: databases.owner });
    // Of a database that is ended by the test.
    db.on('error', () => undefined);
    await db.connect();
    return new Stage(
      databases,
      config,
      standins,
      standinsAddress,
      standinsServer,
      server,
      db,
      api,
      world,
      options.clock,
    );
  }

  async close(): Promise<void> {
    await this.server.stop();
    await this.closeStandins();
  }

  /** For tests that have stopped the server by themselves. */
  async closeStandins(): Promise<void> {
    await this.db.end();
    await this.standins.mail.stop();
    this.standinsServer.closeAllConnections();
    await new Promise((resolve) => this.standinsServer.close(resolve));
  }

  as(role: Role): Promise<Api> {
    return Api.signIn(this.server.address, role);
  }

  /** What the person on Telegram or SMS sees from us, in order. */
  heard(who: string): string[] {
    const messages = who.startsWith('+')
      ? this.standins.sms.look(NUMBER, who)
      : this.standins.telegram.look(BOT, who);
    return messages.filter((message) => message.from !== 'person').map((message) => message.text);
  }

  /** The same, once there are so many. */
  hears(who: string, count: number): Promise<string[]> {
    return until(
      () => this.heard(who),
      (all) => all.length >= count,
    );
  }

  /** Takes a loop in from a file and publishes it; gives its path in the API. */
  async publish(file: string, client = 'saltmarsh-ferries'): Promise<string> {
    const { id } = await this.api.post<{ id: string }>(`/clients/${client}/loops/import`, { file });
    const path = `/clients/${client}/loops/${id}`;
    await this.api.post(`${path}/publish`, { revision: 1 });
    return path;
  }

  async write(who: string, text: string, name = 'Mira'): Promise<void> {
    // Platforms say when something was written, and the server goes by that.
    if (this.clock) this.standins.clock.wind(this.clock.now());
    await (who.startsWith('+')
      ? this.standins.sms.write(NUMBER, who, text)
      : this.standins.telegram.write(BOT, who, name, text));
  }

  async tap(who: string, label: string): Promise<void> {
    if (this.clock) this.standins.clock.wind(this.clock.now());
    const message = this.standins.telegram
      .look(BOT, who)
      .findLast((each) => each.keyboard.flat().some((button) => button.text === label));
    const button = message?.keyboard.flat().find((each) => each.text === label);
    await this.standins.telegram.tap(BOT, who, message!.message_id, button!.callback_data!);
  }

  /** Fields that a client is to have, where it does not yet. */
  async fields(client: string, types: Record<string, FieldType>): Promise<void> {
    const known = (await this.api.get<FieldsPage>(`${client}/fields`)).fields.map(({ key }) => key);
    for (const [key, type] of Object.entries(types))
      if (!known.includes(key))
        await this.api.post(`${client}/fields`, { key, type, name: key.replaceAll('_', ' ') });
  }

  /** A task of a client's people, once it is over. */
  /** Long work takes as long as the machine lets it. */
  ended(client: string, id: string): Promise<TaskView> {
    return until(
      () => this.api.get<TaskView>(`${client}/tasks/${id}`),
      (task) => ['done', 'failed', 'stopped', 'undone'].includes(task.state),
      110_000,
    );
  }

  /** Until everything is decided, sent and marked. */
  async nothingLeft(): Promise<void> {
    await until(
      () =>
        this.one<{ left: number }>(
          `
            select ((select count(*) from message where status = 'queued') + (select count(*)
              from pending))::int as left`,
        ),
      ({ left }) => left === 0,
    );
  }

  one<T>(sql: string, values: unknown[] = []): Promise<T> {
    return this.db.query(sql, values).then((result) => result.rows[0] as T);
  }
}

/** Waits until `look` gives what is wanted, asking often; fails with the last thing seen. */
export async function until<T>(
  look: () => T | Promise<T>,
  wanted: (seen: T) => boolean,
  patienceMs = 30_000,
): Promise<T> {
  const start = Date.now();
  for (;;) {
    const seen = await look();
    if (wanted(seen)) return seen;
    if (Date.now() - start > patienceMs)
      throw new Error(`waited ${patienceMs} ms; last seen: ${JSON.stringify(seen)?.slice(0, 2_000)}`);
    await new Promise((resolve) => setTimeout(resolve, 20));
  }
}

export type { Loop } from '@dart-loop/core';
export type { ConversationPage, InboxPage, LoopPage, LoopRow, PeoplePage } from '@dart-loop/contract';
