import type { Response } from 'express';
import type { SomebodyHere } from '@dart-loop/contract';
import pg from 'pg';
import type { Logger } from 'pino';
import { toJson } from './db/json';

const CHANNEL = 'dart_loop';
/** Changes are told at most this often. */
const GATHER_MS = 60;

type Ended = { session?: string; account?: number };
type Message = {
  clients: number[];
  /** Deliveries were noted; told by the database itself. */
  deliveries?: boolean;
  lines?: boolean;
  ended?: Ended;
  here?: { clientId: number } & SomebodyHere;
};

/** Screens that one account may have open in one process. */
const MOST_SCREENS = 20;
const BEAT_MS = 25_000;
const MOST_UNREAD_BYTES = 64 * 1_024;

/** Whose screen it is, and what it may be told. */
interface Screen {
  accountId: number;
  /** The name of its session: the hash of its token, in hexadecimal. */
  session: string;
  sees: (clientId: number) => boolean;
  /** Whether it may be told who else is in a loop. */
  seesOthers: boolean;
}

/**
 * Tells open screens, and other processes, that something of a client has changed: LISTEN and NOTIFY between
 * processes, server-sent events to browsers. What exactly changed is asked for by the screen.
 */
export class Live {
  #screens = new Set<Screen & { response: Response }>();
  #gathered = new Set<number>();
  #linesChanged = false;
  #timer: NodeJS.Timeout | null = null;
  #db: pg.Client | null = null;
  #stopped = false;

  constructor(
    private readonly databaseUrl: string,
    private readonly log: Logger,
    private readonly onLines: () => Promise<void>,
    private readonly onDeliveries: () => void,
  ) {}

  async start(): Promise<void> {
    const db = new pg.Client({ connectionString: this.databaseUrl, application_name: 'dart-loop live' });
    db.on('notification', (notification) =>
      this.#hear(JSON.parse(notification.payload ?? '{"clients":[]}') as Message),
    );
    const lost = () => {
      if (this.#stopped || this.#db !== db) return;
      this.#db = null;
      this.#listenAgain();
    };
    db.on('error', lost);
    db.on('end', lost);
    await db.connect();
    await db.query(`listen ${CHANNEL}`);
    this.#db = db;
  }

  #listenAgain(): void {
    setTimeout(() => {
      if (this.#stopped) return;
      this.start().catch((error: Error) => {
        this.log.warn({ error: error.message }, 'listening could not be taken up again yet');
        this.#listenAgain();
      });
    }, 1_000);
  }

  /** Something of these clients has changed. Cheap: gathered and told together. */
  tell = (clientIds: number[]): void => {
    for (const id of clientIds) this.#gathered.add(id);
    this.#soon();
  };

  /** Lines were connected or disconnected: every process must forget what it remembers of them. */
  tellLines(clientId: number): void {
    this.#linesChanged = true;
    this.tell([clientId]);
  }

  /** Somebody is in a loop: told at once, kept nowhere. */
  tellHere = (clientId: number, here: SomebodyHere): void => {
    const message: Message = { clients: [], here: { clientId, ...here } };
    if (!this.#db) return this.#hear(message);
    this.#db
      .query('select pg_notify($1, $2)', [CHANNEL, toJson(message)])
      .catch((error: Error) => this.log.warn({ error: error.message }, 'who is here could not be told'));
  };

  /**
   * Tells a screen of changes until it closes, its session ends or its account may see something else. False
   * where the account has too many open.
   */
  open(response: Response, screen: Screen): boolean {
    if ([...this.#screens].filter(({ accountId }) => accountId === screen.accountId).length >= MOST_SCREENS)
      return false;
    response.writeHead(200, {
      'content-type': 'text/event-stream',
      'cache-control': 'no-store',
      'x-accel-buffering': 'no',
    });
    response.write('retry: 2000\n\n');
    const open = { ...screen, response };
    this.#screens.add(open);
    const beat = setInterval(() => this.#write(response, ': still here\n\n'), BEAT_MS);
    response.on('close', () => {
      clearInterval(beat);
      this.#screens.delete(open);
    });
    return true;
  }

  /** One who does not read what they are told is let go: it comes back and asks for everything anew. */
  #write(response: Response, text: string): void {
    if (response.writableLength > MOST_UNREAD_BYTES) response.destroy();
    else response.write(text);
  }

  async stop(): Promise<void> {
    this.#stopped = true;
    if (this.#timer) clearTimeout(this.#timer);
    for (const { response } of this.#screens) response.end();
    await this.#db?.end();
  }

  #soon(): void {
    this.#timer ??= setTimeout(() => {
      this.#timer = null;
      const message: Message = { clients: [...this.#gathered], ...(this.#linesChanged && { lines: true }) };
      this.#gathered.clear();
      this.#linesChanged = false;
      if (this.#db)
        this.#db
          .query('select pg_notify($1, $2)', [CHANNEL, toJson(message)])
          .catch((error: Error) => this.log.warn({ error: error.message }, 'a change could not be told'));
      else this.#hear(message);
    }, GATHER_MS);
  }

  #hear(message: Message): void {
    if (message.deliveries) this.onDeliveries();
    if (message.lines)
      this.onLines().catch(
        (error: Error) =>
          this.#stopped || this.log.error({ error: error.message }, 'changed lines could not be taken up'),
      );
    const { here, ended } = message;
    for (const { response, accountId, session, sees, seesOthers } of this.#screens) {
      if (ended && (ended.session === session || ended.account === accountId)) {
        response.end();
        continue;
      }
      if (here && seesOthers && sees(here.clientId))
        this.#write(response, `event: here\ndata: ${toJson(here)}\n\n`);
      const clients = message.clients.filter(sees);
      if (clients.length > 0) this.#write(response, `data: ${toJson({ clients })}\n\n`);
    }
  }
}
