import pg from 'pg';
import type { Logger } from 'pino';
import { cleanText, toJson } from './json';

// Counts and ids of rows fit a JavaScript number by far; dates stay dates.
pg.types.setTypeParser(pg.types.builtins.INT8, Number);

export type Db = pg.Pool;
export type Connection = pg.PoolClient;

/**
 * What the database says of a value that it cannot keep, such as a day in the year 300000 (SQLSTATE 22008).
 */
class OutOfRange extends Error {
  readonly code = '22008';
}
/** PostgreSQL's own bounds are wider; nothing of ours is older or later than this. */
const EARLIEST_MS = Date.UTC(-4_000, 0);
const LATEST_MS = Date.UTC(200_000, 0);

/**
 * A parameter as it may go to the database: its texts cleaned, objects as JSON. Throws for a moment that is
 * none.
 */
function parameter(value: unknown): unknown {
  if (typeof value === 'string') return cleanText(value);
  if (value === null || typeof value !== 'object' || Buffer.isBuffer(value)) return value;
  if (value instanceof Date) {
    const ms = value.getTime();
    if (!(ms >= EARLIEST_MS && ms <= LATEST_MS)) throw new OutOfRange('a moment is out of range');
    return value;
  }
  return Array.isArray(value) ? value.map(parameter) : toJson(value);
}

/**
 * Every parameter of every statement passes here, so that no text that somebody sends can make a statement
 * fail.
 */
class CleanClient extends pg.Client {
  constructor(config?: string | pg.ClientConfig) {
    super(config);
    const send = this.query.bind(this) as (...args: unknown[]) => unknown;
    this.query = ((statement: unknown, ...rest: unknown[]) => {
      const asked = statement as { values?: unknown[]; submit?: unknown } | string;
      if (typeof asked === 'object' && asked.values && !asked.submit)
        return send({ ...asked, values: asked.values.map(parameter) }, ...rest);
      if (Array.isArray(rest[0])) return send(statement, rest[0].map(parameter), ...rest.slice(1));
      return send(statement, ...rest);
    }) as pg.Client['query'];
  }
}

/** A client that a pooler may give another connection for each transaction; time-outs hold within these. */
function pooledClient(statementMs: number, idleMs: number) {
  const begin = `begin; set local jit = off; set local statement_timeout = ${statementMs}; set local idle_in_transaction_session_timeout = ${idleMs}`;
  return class extends CleanClient {
    constructor(config?: string | pg.ClientConfig) {
      super(config);
      const send = this.query.bind(this) as (...args: unknown[]) => unknown;
      this.query = ((statement: unknown, ...rest: unknown[]) => {
        if (statement === 'begin') return send(begin, ...rest);
        const asked = statement as { name?: string; submit?: unknown };
        return typeof statement === 'object' && asked.name && !asked.submit
          ? send({ ...asked, name: undefined }, ...rest)
          : send(statement, ...rest);
      }) as pg.Client['query'];
    }
  };
}

export interface PoolOptions {
  /** Connections at the most. */
  most: number;
  name: string;
  /** How long one statement may take, in ms. */
  statementMs: number;
  /** How long a transaction may stand open with nothing asked of it, in ms. */
  idleMs?: number;
  /** How long somebody waits for a connection before they are told that there is none, in ms. */
  waitMs?: number;
  /** More of PostgreSQL's settings, as `-c name=value`. */
  settings?: string;
  /**
   * A pooler stands before the database, and each transaction may be another connection's: nothing is set
   * for a connection, nothing prepared on it.
   */
  pooled?: boolean;
}

/** Opens a pool. `jit` is off: the statements of the message path are short and repeated. */
export function openPool(
  url: string,
  { most, name, statementMs, idleMs = 60_000, waitMs = 10_000, settings = '', pooled = false }: PoolOptions,
): pg.Pool {
  const pool = new pg.Pool({
    connectionString: url,
    max: most,
    application_name: name,
    connectionTimeoutMillis: waitMs,
    ...(!pooled && {
      options: `-c jit=off -c statement_timeout=${statementMs} -c idle_in_transaction_session_timeout=${idleMs} ${settings}`,
    }),
    keepAlive: true,
    Client: (pooled ? pooledClient(statementMs, idleMs) : CleanClient) as unknown as new () => pg.ClientBase,
  });
  // A connection that dies while idle is replaced at the next use; the error is not ours to crash on.
  pool.on('error', () => undefined);
  // One that dies while in use fails its query, which its user hears of.
  pool.on('connect', (connection) => void connection.on('error', () => undefined));
  return pool;
}

const KNOCK_MS = 500;
/** It is said so often that the database is still waited for. */
const SAY_EVERY = 20;

/**
 * Waits until the database lets us in, and says that it waits. A refusal that waiting does not mend (a wrong
 * password, a missing database) is thrown.
 */
export async function whenReachable(url: string, log: Logger): Promise<void> {
  for (let knocks = 0; ; knocks++) {
    const db = new pg.Client({ connectionString: url, connectionTimeoutMillis: 5_000 });
    db.on('error', () => undefined);
    try {
      await db.connect();
      if (knocks > 0) log.info('the database is there');
      return;
    } catch (error) {
      const { code, message } = error as { code?: string; message: string };
      // Of the codes that begin with 57P0 and 53300 each passes by itself; a code of any other class does
      // not.
      if (code && /^[0-9A-Z]{5}$/.test(code) && !isDatabaseAway(error)) throw error;
      if (knocks % SAY_EVERY === 0)
        log.warn({ error: message }, 'the database cannot be reached yet; waiting for it');
      await new Promise((resolve) => setTimeout(resolve, KNOCK_MS));
    } finally {
      await db.end().catch(() => undefined);
    }
  }
}

/** Whether the database was not to be had: gone, starting, or all connections of the pool in use. */
export function isDatabaseAway(error: unknown): boolean {
  const { code, message } = error as { code?: string; message?: string };
  return (
    /^(57P0|53300|08|25P03)/.test(code ?? '') ||
    /^(ECONNREFUSED|ECONNRESET|EPIPE|ETIMEDOUT)$/.test(code ?? '') ||
    /Connection terminated|timeout exceeded when trying to connect|Client has encountered a connection error|Cannot use a pool after/.test(
      message ?? '',
    )
  );
}

/**
 * Whether the data themselves were refused (SQLSTATE classes 21, 22, 23 and 54): the same again would be
 * refused again.
 */
export const isRefusedData = (error: unknown): boolean =>
  /^(21|22|23|54)/.test((error as { code?: string }).code ?? '');

/** Runs `work` in one transaction: all of it is written, or, where it throws, nothing. */
export async function inTransaction<T>(pool: Db, work: (db: Connection) => Promise<T>): Promise<T> {
  const db = await pool.connect();
  let broken: Error | undefined;
  try {
    await db.query('begin');
    const result = await work(db);
    // A transaction that failed answers its commit with ROLLBACK.
    if ((await db.query('commit')).command !== 'COMMIT')
      throw new Error('the database rolled a transaction back at its commit');
    return result;
  } catch (error) {
    await db.query('rollback').catch((second: Error) => (broken = second));
    throw error;
  } finally {
    db.release(broken);
  }
}

/** What PostgreSQL says to the one of two transactions that it ended so that the other could go on. */
const LOST_TO_ANOTHER = ['40P01', '40001'];
const MOST_TRIES = 5;
export const lostToAnother = (error: unknown): boolean =>
  LOST_TO_ANOTHER.includes((error as { code?: string }).code ?? '');

/** Whether it has nothing to do with what was asked, so that the same may be well a moment later. */
export const passesByItself = (error: unknown): boolean => isDatabaseAway(error) || lostToAnother(error);

/**
 * The same, begun anew where it waited in a ring with others and was the one to give way. `work` must do
 * nothing that a rollback does not take back.
 */
export async function inTransactionAgain<T>(pool: Db, work: (db: Connection) => Promise<T>): Promise<T> {
  for (let tries = 1; ; tries++)
    try {
      return await inTransaction(pool, work);
    } catch (error) {
      if (tries === MOST_TRIES || !lostToAnother(error)) throw error;
    }
}

/** From here on the transaction sees the rows of these clients, and of no others. */
export const openClients = (db: Connection, clientIds: readonly number[]): Promise<unknown> =>
  db.query("select set_config('dartloop.clients', $1, true)", [clientIds.join(',')]);

/**
 * As `inTransactionAgain`, seeing the rows of these clients only (row-level security reads the setting);
 * without clients, none. `address`: the caller's, which the audit keeps.
 */
export const withClients = <T>(
  pool: Db,
  clientIds: readonly number[],
  work: (db: Connection) => Promise<T>,
  address = '',
): Promise<T> =>
  inTransactionAgain(pool, async (db) => {
    await db.query(
      "select set_config('dartloop.clients', $1, true), set_config('dartloop.address', $2, true)",
      [clientIds.join(','), address],
    );
    return work(db);
  });
