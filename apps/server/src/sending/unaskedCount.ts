import { instantOf, localTime, nextTime } from '@dart-loop/core';
import type { Db } from '../platform/db/pool';
import type { OpenLine } from '../channels/adapter';

/** What a line has sent today without being asked, counted against its caps. Days are the client's. */
export class UnaskedCount {
  #day = '';
  #sent = new Map<string, number>();
  #total = 0;
  #loading: Promise<void> | null = null;
  constructor(
    private readonly db: Db,
    private readonly lineId: number,
  ) {}

  /** Counts one more message; where a cap forbids it, when the caps begin anew (ms), else null. */
  async take({ caps, timeZone }: OpenLine, conversationId: string, now: number): Promise<number | null> {
    if (caps.perDay === null && caps.perPerson === null) return null;
    const { date } = localTime(now, timeZone);
    if (date !== this.#day) {
      // Those that ask at the same time wait for the same answer.
      this.#loading ??= this.#load(date, instantOf(date, '00:00', timeZone)).finally(
        () => (this.#loading = null),
      );
      await this.#loading;
    }
    const ofPerson = this.#sent.get(conversationId) ?? 0;
    if (this.#total >= (caps.perDay ?? Infinity) || ofPerson >= (caps.perPerson ?? Infinity))
      return nextTime(now, timeZone, '00:00');
    this.#sent.set(conversationId, ofPerson + 1);
    this.#total++;
    return null;
  }

  /** It did not go after all. */
  giveBack(conversationId: string): void {
    const ofPerson = this.#sent.get(conversationId);
    if (!ofPerson) return;
    this.#sent.set(conversationId, ofPerson - 1);
    this.#total--;
  }

  async #load(date: string, since: number): Promise<void> {
    const { rows } = await this.db.query<{ conversation_id: string; count: number }>(
      `
        select conversation_id, count(*)::int as count from message
        where line_id = $1 and unasked and sent_at >= $2 group by conversation_id`,
      [this.lineId, new Date(since)],
    );
    this.#day = date;
    this.#sent = new Map(rows.map((row) => [row.conversation_id, row.count]));
    this.#total = rows.reduce((sum, row) => sum + row.count, 0);
  }
}
