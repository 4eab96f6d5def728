import type { Logger } from 'pino';
import type { Failure } from '../channels/adapter';
import type { Clock } from '../platform/clock';
import { toJson } from '../platform/db/json';
import { passesByItself, type Db } from '../platform/db/pool';
import { OWN_FAULT } from './failures';
import type { QueuedRow } from './lineSender';

/** What became of a message; `queued`: it is tried again, and says why. */
export interface Result {
  row: QueuedRow;
  status: 'queued' | 'held' | 'sent' | 'failed';
  providerId: string | null;
  failure: Failure | null;
}

const MOST_AT_ONCE = 1_000;
const PAUSE_MS = 500;

/** Writes down what became of messages; what comes while one batch is being written goes with the next. */
export class Results {
  #waiting: Result[] = [];
  #writing = false;

  /** `written`: called with each batch that stands in the database. */
  constructor(
    private readonly db: Db,
    private readonly clock: Clock,
    private readonly log: Logger,
    private readonly written: (batch: readonly Result[]) => void,
  ) {}

  add(result: Result): void {
    this.#waiting.push(result);
    void this.#writeAll();
  }

  /** The last ones, when the process ends: one try. */
  async flush(): Promise<void> {
    await this.#writeBatch().catch((error: Error) =>
      this.log.error({ error: error.message }, 'results could not be written down at the end'),
    );
  }

  async #writeAll(): Promise<void> {
    if (this.#writing) return;
    this.#writing = true;
    await Promise.resolve();
    while (this.#waiting.length > 0)
      try {
        await this.#writeBatch();
      } catch (error) {
        this.log.error(
          { error: (error as Error).message },
          'results could not be written down; trying again',
        );
        await new Promise((resolve) => setTimeout(resolve, PAUSE_MS));
      }
    this.#writing = false;
  }

  /** Throws where some could not be written; those wait for the next batch. */
  async #writeBatch(): Promise<void> {
    const batch = this.#waiting.splice(0, MOST_AT_ONCE);
    if (batch.length === 0) return;
    try {
      await this.#write(batch);
    } catch (error) {
      if (passesByItself(error)) {
        this.#waiting.unshift(...batch);
        throw error;
      }
      return this.#writeEachAlone(batch);
    }
    this.written(batch);
  }

  /** Results that were refused in company, one by one, so that none takes others along. */
  async #writeEachAlone(batch: readonly Result[]): Promise<void> {
    const written: Result[] = [];
    let failed: unknown;
    for (const each of batch)
      try {
        await this.#writeAlone(each);
        written.push(each);
      } catch (error) {
        this.#waiting.push(each);
        failed = error;
      }
    this.written(written);
    if (failed !== undefined) throw failed;
  }

  /** Of a result that is refused alone, only what became of the message is kept. */
  async #writeAlone(result: Result): Promise<void> {
    try {
      await this.#write([result]);
    } catch (error) {
      if (passesByItself(error)) throw error;
      this.log.error(
        { message: result.row.id, error: (error as Error).message },
        'what a channel answered could not be kept',
      );
      const failure = result.failure && { ...OWN_FAULT, code: 'unreadable' };
      await this.#write([{ ...result, providerId: null, failure }]);
    }
  }

  async #write(batch: readonly Result[]): Promise<void> {
    await this.db.query({
      name: 'mark',
      text: `
             update message m
             set status = r.status, attempts = r.attempts, provider_id = r.provider_id, failure = r.failure,
               sent_at = case when r.status = 'sent' then $7 else m.sent_at end
             from unnest($1::int[], $2::uuid[], $3::text[], $4::int[], $5::text[], $6::jsonb[]) as r
               (client_id, id, status, attempts, provider_id, failure)
             where m.client_id = r.client_id and m.id = r.id and m.status = 'queued'`,
      values: [
        batch.map(({ row }) => row.client_id),
        batch.map(({ row }) => row.id),
        batch.map(({ status }) => status),
        batch.map(({ row, status }) => row.attempts + (status === 'queued' ? 0 : 1)),
        batch.map(({ providerId }) => providerId),
        batch.map(({ failure }) => (failure ? toJson(failure) : null)),
        new Date(this.clock.now()),
      ],
    });
  }
}
