import type { Request } from 'express';
import type { Clock } from '../platform/clock';
import { toJson } from '../platform/db/json';
import type { Connection, Db } from '../platform/db/pool';
import { Problem } from '../platform/problem';
import { seal, unseal } from '../platform/secrets';

/** How long a press is remembered; whoever heard nothing asks again much sooner. */
const REMEMBERED_MS = 2 * 60_000;
/** Longer answers are not kept: whoever asks again is told to look. */
const LONGEST_ANSWER = 200_000;
const NAME = /^[\w-]{16,64}$/;

/** The same press came twice at once, and the other one is done. */
class DoneMeanwhile extends Error {}

/**
 * What was done at a press, and answered, by the name that the app gave it (`Idempotency-Key`). It is written
 * in the press's own transaction: where that was committed and its answer lost, the same press does nothing,
 * and is answered as it was.
 */
export class Presses {
  constructor(
    private readonly db: Db,
    private readonly clock: Clock,
    private readonly key: Buffer,
  ) {}

  /** Does the work of a request that changes something, or answers as before where it was done already. */
  async once(
    request: Request,
    accountId: number,
    work: (kept: (db: Connection, answer: unknown) => Promise<void>) => Promise<unknown>,
  ): Promise<unknown> {
    const name = request.get('idempotency-key') ?? '';
    if (request.method === 'GET' || !NAME.test(name)) return work(async () => undefined);
    const before = await this.#before(accountId, name);
    if (before) return before.answer;
    try {
      return await work((db, answer) => this.#keep(db, accountId, name, answer));
    } catch (error) {
      // Done meanwhile, what it was done to may be another, or gone: the answer is the one it had then.
      const done = await this.#before(accountId, name);
      if (done) return done.answer;
      throw error;
    }
  }

  /** Forgets what is remembered no longer. */
  async clear(): Promise<void> {
    await this.db.query('delete from press where at < $1', [new Date(this.clock.now() - REMEMBERED_MS)]);
  }

  async #keep(db: Connection, accountId: number, name: string, answer: unknown): Promise<void> {
    const json = toJson({ answer });
    const kept = json.length > LONGEST_ANSWER ? '' : json;
    const { rowCount } = await db.query(
      `
        insert into press (account_id, name, answer, at) values ($1, $2, $3, $4)
        on conflict do nothing`,
      [accountId, name, seal(this.key, { kept }), new Date(this.clock.now())],
    );
    if (rowCount === 0) throw new DoneMeanwhile();
  }

  async #before(accountId: number, name: string): Promise<{ answer?: unknown } | null> {
    const { rows } = await this.db.query<{ answer: Buffer }>(
      'select answer from press where account_id = $1 and name = $2 and at >= $3',
      [accountId, name, new Date(this.clock.now() - REMEMBERED_MS)],
    );
    if (!rows[0]) return null;
    const { kept } = unseal(this.key, rows[0].answer);
    if (!kept) throw new Problem(409, 'Done already', 'This was done already. Reload to see it.');
    return JSON.parse(kept) as { answer?: unknown };
  }
}
