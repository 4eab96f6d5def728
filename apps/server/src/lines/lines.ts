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

/** Tokens that were never known, looked up in a second. */
const MOST_LOOKS = 50;

/** So many tokens are guessed that no more are looked up now. */
export class TooManyGuesses extends Error {}

/** The connected lines with their secrets opened, remembered for a while. */
export class Lines {
  #byHook = new Map<string, { line: OpenLine | null; until: number }>();
  /** Tokens that have led to a line: they are looked up whatever is guessed beside them. */
  readonly #wereThere = new Set<string>();
  #looks = { second: 0, count: 0 };
  #byId = new Map<number, { line: OpenLine | null; until: number }>();
  constructor(
    private readonly db: Db,
    private readonly keys: Keyring,
  ) {}

  async byHook(token: string): Promise<OpenLine | null> {
    const known = this.#byHook.get(token);
    if (known && known.until > Date.now()) return known.line;
    // Guesses must neither fill the memory nor take the database: whoever guesses gets no more than a few
    // looks a second.
    if (this.#byHook.size > 20_000) this.#byHook.clear();
    if (!this.#wereThere.has(token) && !this.#mayLook()) throw new TooManyGuesses();
    const line = await this.#load('hook_token = $1', token);
    if (line) this.#wereThere.add(token);
    this.#byHook.set(token, { line, until: Date.now() + FRESH_MS });
    return line;
  }

  #mayLook(): boolean {
    const second = Math.floor(Date.now() / 1_000);
    if (second !== this.#looks.second) this.#looks = { second, count: 0 };
    return ++this.#looks.count <= MOST_LOOKS;
  }

  async byId(id: number): Promise<OpenLine | null> {
    const known = this.#byId.get(id);
    if (known && known.until > Date.now()) return known.line;
    const line = await this.#load('id = $1', id);
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
  }

  async #load(where: 'hook_token = $1' | 'id = $1', value: string | number): Promise<OpenLine | null> {
    const { rows } = await this.db.query<LineRow>(
      `
        select l.client_id, l.id, l.key, l.name, l.channel, l.account, l.secrets, l.hook_token, l.caps,
          k.time_zone, k.quiet_hours from line l join client k on k.id = l.client_id
        where l.${where} and l.secrets is not null`,
      [value],
    );
    const row = rows[0];
    return row?.secrets
      ? {
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
        }
      : null;
  }
}
