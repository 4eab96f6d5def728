import { withClients, type Connection, type Db } from './db/pool';
import { Problem } from './problem';

/** Files that one account may have under way, whatever the process. */
const MOST_OF_ACCOUNT = 2;
/** The first number of the advisory locks that count them. */
const TRANSFER_LOCK = 7_713;

/**
 * Long files go in and out with connections of their own, a few at a time, so that whoever sends or reads
 * slowly holds up nobody's requests.
 */
export class Transfers {
  readonly #underWay = new Map<number, number>();
  constructor(private readonly db: Db) {}

  /**
   * Runs `work` in a transaction that sees these clients. Throws before anything is done where the account
   * has enough under way.
   */
  async run<T>(
    accountId: number,
    clientIds: readonly number[],
    work: (db: Connection) => Promise<T>,
  ): Promise<T> {
    const underWay = this.#underWay.get(accountId) ?? 0;
    if (underWay >= MOST_OF_ACCOUNT) throw enough();
    this.#underWay.set(accountId, underWay + 1);
    try {
      return await withClients(this.db, clientIds, async (db) => {
        // Other processes count as well; the lock goes with the transaction.
        const { rows } = await db.query<{ free: boolean }>(
          'select pg_try_advisory_xact_lock($1, $2) or pg_try_advisory_xact_lock($1, $2 + 1) as free',
          [TRANSFER_LOCK, accountId * MOST_OF_ACCOUNT],
        );
        if (!rows[0]!.free) throw enough();
        return work(db);
      });
    } finally {
      const left = this.#underWay.get(accountId)! - 1;
      if (left > 0) this.#underWay.set(accountId, left);
      else this.#underWay.delete(accountId);
    }
  }
}

const enough = () =>
  new Problem(
    429,
    'Two files are under way',
    `${MOST_OF_ACCOUNT} files of this account are on their way in or out. Wait until one of them is finished.`,
  );
