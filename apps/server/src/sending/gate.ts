import type { Clock } from '../platform/clock';
import { toJson } from '../platform/db/json';
import type { Db } from '../platform/db/pool';

/** What the gate says of a message that is about to go. */
export type Verdict =
  | { may: 'go' }
  /** It is closed: by the ledger, for not being on the list it is for, or by somebody else meanwhile. */
  | { may: 'not' }
  /** Its person has had as many unasked messages as may be; not before `until` (ms). */
  | { may: 'wait'; until: number };

export interface Asked {
  client_id: number;
  id: string;
  /**
   * Whether it counts against how often the person is written to: nobody asked for it, and no answer takes it
   * along.
   */
  counts: boolean;
}

/** Asks the ledger and marks as going out in one statement, so that between the two nobody can opt out. */
const ASK = `
  with asked as materialized (
    select m.client_id, m.id, m.conversation_id, t.counts,
      case when m.about_consent then null
        else refusal(m.client_id, m.conversation_id, m.list, m.unasked) end as reason
    from message m join unnest($1::int[], $2::uuid[], $5::boolean[]) as t (client_id, id, counts)
      on t.client_id = m.client_id and t.id = m.id
    where m.status = 'queued'
  ), judged as (
    select a.client_id, a.id, a.reason, case when a.reason is null
      and a.counts then frequency_until(a.client_id, a.conversation_id, a.id, $3) end as until from asked a
  )
  update message m set
    going_out_at = case when j.reason is null and j.until is null then $3 end,
    status = case when j.reason is null then m.status else 'failed' end,
    failure = case when j.reason is null then m.failure else $4::jsonb -> j.reason end
  from judged j where m.client_id = j.client_id and m.id = j.id and m.status = 'queued'
  returning m.client_id, m.id, j.reason, j.until`;

const FAILURES = {
  'opted out': {
    code: 'opted out',
    reason: 'Not sent: the person has opted out.',
    remedy: 'Nothing is to be done. They can come back by writing START.',
  },
  'not on the list': {
    code: 'not on the list',
    reason: 'Not sent: the person is not on the list that this loop writes to.',
    remedy: 'Let the loop ask them to join the list first.',
  },
} as const;

/**
 * The last question before a message goes: what does the ledger say now? Messages that are about to go at the
 * same time are asked about together.
 */
export class Gate {
  #waiting: { asked: Asked; tell: (verdict: Verdict) => void; fail: (error: Error) => void }[] = [];
  #asking = false;
  constructor(
    private readonly db: Db,
    private readonly clock: Clock,
  ) {}

  ask(asked: Asked): Promise<Verdict> {
    return new Promise((tell, fail) => {
      this.#waiting.push({ asked, tell, fail });
      void this.#askAll();
    });
  }

  async #askAll(): Promise<void> {
    if (this.#asking) return;
    this.#asking = true;
    // Those that come up in the same moment go along.
    await Promise.resolve();
    while (this.#waiting.length > 0) {
      const batch = this.#waiting.splice(0, 500);
      try {
        const { rows } = await this.db.query<{
          client_id: number;
          id: string;
          reason: string | null;
          until: Date | null;
        }>({
          name: 'gate',
          text: ASK,
          values: [
            batch.map(({ asked }) => asked.client_id),
            batch.map(({ asked }) => asked.id),
            new Date(this.clock.now()),
            toJson(FAILURES),
            batch.map(({ asked }) => asked.counts),
          ],
        });
        const said = new Map(rows.map((row) => [`${row.client_id}|${row.id}`, row]));
        for (const { asked, tell } of batch) {
          const row = said.get(`${asked.client_id}|${asked.id}`);
          tell(
            !row || row.reason !== null
              ? { may: 'not' }
              : row.until
                ? { may: 'wait', until: row.until.getTime() }
                : { may: 'go' },
          );
        }
      } catch (error) {
        for (const { fail } of batch) fail(error as Error);
      }
    }
    this.#asking = false;
  }
}
