import type { Response } from 'express';
import type { SomebodyHere } from '@dart-loop/contract';
import pg from 'pg';
import type { Logger } from 'pino';
import { toJson } from './db/json';

const CHANNEL = 'dart_loop';
/** Changes are told at most this often. */
const GATHER_MS = 60;

type Message = { clients: number[]; lines?: boolean; here?: { clientId: number } & SomebodyHere };

/**
 * Tells open screens, and other processes, that something of a client has changed: LISTEN and NOTIFY between
 * processes, server-sent events to browsers. What exactly changed is asked for by the screen.
 */
export class Live {
  #screens = new Set<{ response: Response; sees: (clientId: number) => boolean }>();
  #gathered = new Set<number>();
  #linesChanged = false;
  #timer: NodeJS.Timeout | null = null;
  #db: pg.Client | null = null;
  #stopped = false;

  constructor(
    private readonly databaseUrl: string,
    private readonly log: Logger,
    private readonly onLines: () => Promise<void>,
  ) {}

  async start(): Promise<void> {
    const db = new pg.Client({ connectionString: this.databaseUrl, application_name: 'dart-loop live' });
    db.on('notification', (notification) => this.#hear(JSON.parse(notification.payload ?? '{"clients":[]}') as Message));
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

  open(response: Response, sees: (clientId: number) => boolean): void {
    response.writeHead(200, { 'content-type': 'text/event-stream', 'cache-control': 'no-store', 'x-accel-buffering': 'no' });
    response.write('retry: 2000\n\n');
    const screen = { response, sees };
    this.#screens.add(screen);
    const beat = setInterval(() => response.write(': still here\n\n'), 25_000);
    response.on('close', () => {
      clearInterval(beat);
      this.#screens.delete(screen);
    });
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
    if (message.lines)
      this.onLines().catch(
        (error: Error) => this.#stopped || this.log.error({ error: error.message }, 'changed lines could not be taken up'),
      );
    const { here } = message;
    for (const { response, sees } of this.#screens) {
      if (here && sees(here.clientId)) response.write(`event: here\ndata: ${toJson(here)}\n\n`);
      const clients = message.clients.filter(sees);
      if (clients.length > 0) response.write(`data: ${toJson({ clients })}\n\n`);
    }
  }
}
