import type { Logger } from 'pino';
import type { Failure, OpenLine } from '../channels/adapter';
import type { Clock } from '../platform/clock';
import { toJson } from '../platform/db/json';
import type { Db } from '../platform/db/pool';

/** What a line's row says of its sending: when it last sent, and since when it fails, with the reason. */
export class LineNotes {
  #lastSent = new Map<number, number>();
  #failures = new Map<number, Failure | null>();
  constructor(
    private readonly db: Db,
    private readonly clock: Clock,
    private readonly log: Logger,
    private readonly changed: (clientIds: number[]) => void,
  ) {}

  sent(lineId: number): void {
    this.#lastSent.set(lineId, this.clock.now());
  }

  /** Writes down when each line last sent; called now and then, not per message. */
  async writeSent(): Promise<void> {
    const sent = [...this.#lastSent];
    this.#lastSent.clear();
    if (sent.length === 0) return;
    await this.db.query(
      `
        update line set last_sent_at = greatest(last_sent_at, s.at)
        from unnest($1::int[], $2::timestamptz[]) as s (id, at) where line.id = s.id`,
      [sent.map(([id]) => id), sent.map(([, at]) => new Date(at))],
    );
  }

  /** The line's state is written only when it begins or ceases to fail, or fails otherwise. */
  state(line: OpenLine, failure: Failure | null): void {
    const known = this.#failures.get(line.id);
    if (known !== undefined && (known?.code ?? null) === (failure?.code ?? null)) return;
    this.#failures.set(line.id, failure);
    this.db
      .query(
        `
          update line set failing_since = case when $2::jsonb is null then null
            else coalesce(failing_since, $3) end, failure = $2 where id = $1`,
        [line.id, failure ? toJson(failure) : null, new Date(this.clock.now())],
      )
      .then(() => this.changed([line.clientId]))
      .catch((error: Error) =>
        this.log.error({ line: line.id, error: error.message }, 'the state of a line could not be written'),
      );
  }
}
