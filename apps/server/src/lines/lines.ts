import type { LineCaps } from '@dart-loop/contract';
import type { ChannelKind, QuietByChannel } from '@dart-loop/core';
import type { Db } from '../platform/db/pool';
import type { Keyring } from '../platform/keyring';
import { sameSecret } from '../platform/secrets';
import type { OpenLine } from '../channels/adapter';

interface LineRow {
  client_id: number;
  id: number;
  key: string;
  name: string;
  channel: ChannelKind;
  account: Record<string, string>;
  secrets: Buffer | null;
  hook_token: string;
  caps: LineCaps;
  time_zone: string;
  quiet_hours: QuietByChannel;
}

/**
 * How long a line may be remembered; connecting, disconnecting and renewing clear it at once in every
 * process.
 */
const FRESH_MS = 30_000;

/** The addresses of all webhooks are read anew at most so often. */
const ADDRESSES_MS = 1_000;

/** The connected lines with their secrets opened, remembered for a while. */
export class Lines {
  #byHook = new Map<string, { line: Promise<OpenLine | null>; until: number }>();
  readonly #addresses: Addresses;
  #byId = new Map<number, { line: OpenLine | null; until: number }>();
  constructor(
    private readonly db: Db,
    private readonly keys: Keyring,
  ) {
    this.#addresses = new Addresses(db);
  }

  /** The line whose webhook has this token; null where there is none. */
  async byHook(token: string): Promise<OpenLine | null> {
    if (!(await this.#addresses.has(token))) return null;
    // Those that come while it is looked up wait for the same answer.
    const known = this.#byHook.get(token);
    if (known && known.until > Date.now()) return known.line;
    const line = this.#load('hook_token = $1', token).then((found) => found?.line ?? null);
    this.#byHook.set(token, { line, until: Date.now() + FRESH_MS });
    line.catch(() => this.#byHook.delete(token));
    return line;
  }

  /** A connected line as it is now, with its secrets as they are kept: one that is renewed has others. */
  anew(id: number): Promise<{ line: OpenLine; sealed: Buffer } | null> {
    return this.#load('id = $1', id);
  }

  async byId(id: number): Promise<OpenLine | null> {
    const known = this.#byId.get(id);
    if (known && known.until > Date.now()) return known.line;
    const line = (await this.anew(id))?.line ?? null;
    this.#byId.set(id, { line, until: Date.now() + FRESH_MS });
    return line;
  }

  /**
   * The line of another account that is served by the same app's webhook as `line`; null when there is none.
   */
  async beside(line: OpenLine, accountId: string): Promise<OpenLine | null> {
    const { rows } = await this.db.query<{ id: number }>(
      `
        select id from line where channel = $1 and account ->> 'id' = $2 and account ->> 'appId' = $3
          and secrets is not null order by id limit 1`,
      [line.channel, accountId, line.account.appId ?? ''],
    );
    const other = rows[0] ? await this.byId(rows[0].id) : null;
    // The same id of an app is not enough: the signature was made with its secret.
    return other && sameSecret(other.secrets.appSecret ?? '', line.secrets.appSecret ?? '-') ? other : null;
  }

  forget(): void {
    this.#byHook.clear();
    this.#byId.clear();
    this.#addresses.forget();
  }

  async #load(
    where: 'hook_token = $1' | 'id = $1',
    value: string | number,
  ): Promise<{ line: OpenLine; sealed: Buffer } | null> {
    const { rows } = await this.db.query<LineRow>(
      `
        select l.client_id, l.id, l.key, l.name, l.channel, l.account, l.secrets, l.hook_token, l.caps,
          k.time_zone, k.quiet_hours from line l join client k on k.id = l.client_id
        where l.${where} and l.secrets is not null`,
      [value],
    );
    const row = rows[0];
    if (!row?.secrets) return null;
    const line = {
      clientId: row.client_id,
      id: row.id,
      key: row.key,
      name: row.name,
      channel: row.channel,
      account: row.account,
      secrets: await this.keys.unseal(row.secrets),
      hookToken: row.hook_token,
      caps: row.caps,
      timeZone: row.time_zone,
      quiet: row.quiet_hours,
    };
    return { line, sealed: row.secrets };
  }
}

/**
 * The tokens of all webhooks. Whoever guesses gets one look a second at the database, however many guess, and
 * fills no memory.
 */
class Addresses {
  #known = new Set<string>();
  #readAt = -Infinity;
  #reading: Promise<void> | null = null;
  constructor(private readonly db: Db) {}

  async has(token: string): Promise<boolean> {
    while (!this.#known.has(token) && Date.now() - this.#readAt >= ADDRESSES_MS)
      await (this.#reading ??= this.#read());
    return this.#known.has(token);
  }

  /** A line was connected or disconnected: what is being read may not know of it, and counts no more. */
  forget(): void {
    this.#known = new Set();
    this.#readAt = -Infinity;
    this.#reading = null;
  }

  async #read(): Promise<void> {
    const before = this.#known;
    try {
      const { rows } = await this.db.query<{ hook_token: string }>(
        'select hook_token from line where secrets is not null',
      );
      if (this.#known !== before) return;
      this.#known = new Set(rows.map((row) => row.hook_token));
      this.#readAt = Date.now();
      this.#reading = null;
    } catch (error) {
      if (this.#known === before) this.#reading = null;
      throw error;
    }
  }
}
