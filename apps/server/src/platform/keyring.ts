import { createHash, randomBytes } from 'node:crypto';
import pg from 'pg';
import { NotStarted } from './config';
import { seal, unseal } from './secrets';

/** Before what is sealed with a key of the ring stand these letters and the key's name. */
const MARK = Buffer.from('DLK1');
const NAME_BYTES = 8;
const RESEALED_AT_ONCE = 200;
/** The tables with a column of sealed secrets, each with what tells its rows apart. */
const RESEALED = {
  ...{ line: 'id', destination: 'id', account: 'id' },
  ...{ agency_model: 'agency_id', client_model: 'client_id' },
} as const;

const nameOf = (key: Buffer): Buffer => createHash('sha256').update(key).digest().subarray(0, NAME_BYTES);

/** The server was started with a key that its database was not set up with. */
export class KeyDoesNotFit extends NotStarted {
  constructor() {
    super(
      'DARTLOOP_KEY is not the key that this database was set up with, so none of its secrets could be read. Start it with the key that it had; after a change of keys, with the new one.',
    );
  }
}

interface Kept {
  id: Buffer;
  sealed: Buffer;
}

/**
 * The keys that secrets are sealed with. Every sealed value names its key, so that keys can be changed while
 * servers run: one that meets a key it does not know looks for it in the database. What is only derived
 * (signatures, the words of webhooks) comes from `root`, which stays.
 */
export class Keyring {
  readonly #keys = new Map<string, Buffer>();
  #newest: Buffer | null = null;
  #root: Buffer | null = null;

  private constructor(
    private readonly databaseUrl: string,
    private readonly master: Buffer,
  ) {}

  /** Opens the ring of a database; makes it where there is none. Throws {@link KeyDoesNotFit}. */
  static async open(databaseUrl: string, master: Buffer): Promise<Keyring> {
    const ring = new Keyring(databaseUrl, master);
    await ring.#withDatabase(async (db) => {
      if (await ring.#load(db)) return;
      if ((await db.query('select from data_key limit 1')).rowCount) throw new KeyDoesNotFit();
      // What was sealed before there was a ring was sealed with the server's key itself, which stays what
      // everything is derived from.
      const key = randomBytes(32);
      await db.query('begin');
      await db.query('lock table data_key in exclusive mode');
      if (!(await ring.#load(db)))
        await db.query(
          'insert into data_key (id, master, sealed) values ($1, $2, $3)',
          ring.#rowOf(key, master, master),
        );
      await db.query('commit');
      if (!(await ring.#load(db))) throw new KeyDoesNotFit();
    });
    return ring;
  }

  /** What other secrets are derived from; the same for as long as the database lives. */
  get root(): Buffer {
    return this.#root!;
  }

  seal(value: Record<string, string>): Buffer {
    return Buffer.concat([MARK, nameOf(this.#newest!), seal(this.#newest!, value)]);
  }

  /** Opens what was sealed. Throws where its key is not to be had, or a byte was changed. */
  async unseal(sealed: Buffer): Promise<Record<string, string>> {
    if (!sealed.subarray(0, MARK.length).equals(MARK)) return unseal(this.root, sealed);
    const name = sealed.subarray(MARK.length, MARK.length + NAME_BYTES).toString('hex');
    if (!this.#keys.has(name)) await this.#withDatabase((db) => this.#load(db));
    const key = this.#keys.get(name);
    if (!key) throw new Error(`a secret is sealed with the key ${name}, which is not in the ring`);
    return unseal(key, sealed.subarray(MARK.length + NAME_BYTES));
  }

  /**
   * Changes both keys while servers run: what is sealed is sealed anew with a fresh key, and the ring with
   * `next`. Servers that run go on with the key they have until they are started again, then with either; the
   * one before that counts no more. Returns how many secrets were sealed anew.
   */
  async rotate(next: Buffer): Promise<number> {
    return this.#withDatabase(async (db) => {
      const key = randomBytes(32);
      await db.query('begin');
      await db.query('delete from data_key where master <> $1', [nameOf(this.master)]);
      for (const master of [this.master, next])
        for (const each of [...this.#keys.values(), key])
          await db.query(
            `
              insert into data_key (id, master, sealed, made_at)
              values ($1, $2, $3, clock_timestamp()) on conflict do nothing`,
            this.#rowOf(each, this.root, master),
          );
      await db.query('commit');
      await this.#load(db);
      let count = 0;
      for (const [table, id] of Object.entries(RESEALED)) count += await this.#resealAll(db, table, id);
      return count;
    });
  }

  async #resealAll(db: pg.Client, table: string, key: string): Promise<number> {
    let count = 0;
    let after = '';
    for (;;) {
      const { rows } = await db.query<{ id: string; secrets: Buffer }>(
        `
          select ${key}::text as id, secrets from ${table} where secrets is not null and ${key}::text > $1
          order by ${key}::text limit ${RESEALED_AT_ONCE}`,
        [after],
      );
      if (rows.length === 0) return count;
      for (const { id, secrets } of rows) {
        // One that was renewed meanwhile is sealed with the newest key, or is met by the next rotation.
        const { rowCount } = await db.query(
          `update ${table} set secrets = $3 where ${key}::text = $1 and secrets = $2`,
          [id, secrets, this.seal(await this.unseal(secrets))],
        );
        count += rowCount ?? 0;
      }
      after = rows.at(-1)!.id;
    }
  }

  #rowOf(key: Buffer, root: Buffer, master: Buffer): [Buffer, Buffer, Buffer] {
    return [
      nameOf(key),
      nameOf(master),
      seal(master, { key: key.toString('hex'), root: root.toString('hex') }),
    ];
  }

  /** Reads the keys that are sealed with ours. False where there are none. */
  async #load(db: pg.Client): Promise<boolean> {
    const { rows } = await db.query<Kept>(
      'select id, sealed from data_key where master = $1 order by made_at, id',
      [nameOf(this.master)],
    );
    for (const { id, sealed } of rows) {
      const kept = unseal(this.master, sealed);
      const key = Buffer.from(kept.key!, 'hex');
      this.#keys.set(id.toString('hex'), key);
      this.#newest = key;
      this.#root = Buffer.from(kept.root!, 'hex');
    }
    return rows.length > 0;
  }

  async #withDatabase<T>(work: (db: pg.Client) => Promise<T>): Promise<T> {
    const db = new pg.Client({ connectionString: this.databaseUrl, application_name: 'dart-loop keys' });
    db.on('error', () => undefined);
    await db.connect();
    try {
      return await work(db);
    } finally {
      await db.end();
    }
  }
}
