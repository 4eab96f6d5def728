import type { ChannelKind } from '@dart-loop/core';
import type { Connection, Db } from '../platform/db/pool';

/** The first number of the advisory lock that names one sender per line. */
export const SENDER_LOCK = 7_711;

export interface LockedLine {
  id: number;
  channel: ChannelKind;
  /** Whether the lock is ours; else another process sends for the line. */
  mine: boolean;
}

/**
 * The locks that name one sender per line among all processes. They die with their connection: then `lost` is
 * called, and they have to be taken anew.
 */
export class LineLocks {
  #connection: Connection | null = null;
  constructor(
    private readonly db: Db,
    private readonly lost: () => void,
  ) {}

  /** Tries to lock every connected line but those that are `ours`; says of each whether it is ours now. */
  async take(ours: readonly number[]): Promise<LockedLine[]> {
    try {
      this.#connection ??= await this.#open();
      const { rows } = await this.#connection.query<LockedLine>(
        `
          select id, channel, pg_try_advisory_lock($1, id) as mine from line
          where secrets is not null and id <> all($2::int[])`,
        [SENDER_LOCK, ours],
      );
      return rows;
    } catch (error) {
      this.letGo();
      throw error;
    }
  }

  letGo(which = this.#connection): void {
    if (!which || which !== this.#connection) return;
    this.#connection = null;
    this.lost();
    which.release(true);
  }

  async #open(): Promise<Connection> {
    const connection = await this.db.connect();
    connection.on('error', () => this.letGo(connection));
    return connection;
  }
}
