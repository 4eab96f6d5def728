import type { Logger } from 'pino';
import { CHANNELS, type ChannelKind } from '@dart-loop/core';
import type { HostedModels } from '../answers/hosted/hostedModels';
import type { Adapters } from '../channels';
import type { Answer } from '../platform/ask';
import type { Clock } from '../platform/clock';
import { asText, toJson } from '../platform/db/json';
import { isDatabaseAway, passesByItself, type Db } from '../platform/db/pool';
import { faultPoint } from '../platform/fault';
import type { Lines } from '../lines/lines';
import type { Mailer } from '../platform/mail';
import { mayPass, refusalWords, sendOutside, signingSecret } from '../platform/outside';
import { growingPause } from '../platform/jobs/pace';
import { Taking } from '../platform/jobs/taking';

/** Tries of one errand: at once, then with growing pauses, some ten minutes in all. */
const MOST_TRIES = 8;
const MOST_AT_ONCE = 64;
/** Of one client, so that whoever waits for a slow system of its own holds up nobody else. */
const MOST_OF_CLIENT = 12;
/** An errand that was taken is another's again after so long: its taker has died. */
const LEASE_MS = 30_000;

interface ErrandRow {
  client_id: number;
  id: string;
  conversation_id: string;
  line_id: number;
  kind: 'send out' | 'alert' | 'ask sources';
  run_id: string | null;
  turn: number | null;
  body:
    | { address: string; body: unknown }
    | { by: 'email' | 'sms' | 'telegram'; to: string; subject: string; text: string }
    | { question: string; before: string | null; channel: ChannelKind };
  attempts: number;
}

/** How one try went. `again`: it may help to try later, at the soonest after `afterMs`. */
type Tried =
  | { ok: true; body: unknown; status: number | null }
  | { ok: false; reason: string; again: boolean; afterMs: number | null; status: number | null };

/**
 * Does what was written down for other systems and for staff. Each errand is taken for half a minute, tried,
 * and marked; one whose taker dies is tried again with the same id, so that the other side can drop the
 * repeat. What a run waits for comes back to its conversation's lane.
 */
export class Errands {
  readonly #taking: Taking;
  constructor(
    private readonly db: Db,
    private readonly options: {
      clock: Clock;
      log: Logger;
      lines: Lines;
      adapters: Adapters;
      key: Buffer;
      standins: string | null;
      mailer: Mailer;
      models: HostedModels;
      chance: () => number;
      /** A run has its answer: the lane has something to do. */
      answered: () => void;
    },
  ) {
    this.#taking = new Taking(() => this.#look(), options.log, 'errands could not be taken');
  }

  /** Takes what is due; resolves once it is taken, not once it is done. */
  wake(): Promise<void> {
    return this.#taking.wake();
  }

  /** As {@link wake}, for those who do not wait for it. */
  wakeAndGoOn(): void {
    this.#taking.wakeAndGoOn();
  }

  async #look(): Promise<void> {
    const free = MOST_AT_ONCE - this.#taking.size;
    if (free <= 0) return;
    const now = this.options.clock.now();
    const busy = this.#taking.keys();
    const underWay = busy.map((client) => this.#taking.of(client));
    const { rows } = await this.db.query<ErrandRow>({
      name: 'take-errands',
      text: `
             update errand set attempts = attempts + 1, next_at = $2
             where (client_id, id) in (
               select due.client_id, due.id
               from (select distinct client_id from errand where status = 'waiting' and next_at <= $1) as c
               left join unnest($4::int[], $5::int[]) as busy (client_id, count) using (client_id)
               cross join lateral (
                 select e.client_id, e.id, e.next_at from errand e
                 where e.client_id = c.client_id and e.status = 'waiting' and e.next_at <= $1
                 order by e.next_at limit $6 - coalesce(busy.count, 0) for update skip locked
               ) as due order by due.next_at limit $3)
             returning client_id, id, conversation_id, line_id, kind, run_id, turn, body, attempts`,
      values: [new Date(now), new Date(now + LEASE_MS), free, busy, underWay, MOST_OF_CLIENT],
    });
    for (const row of rows) this.#taking.begin(row.client_id, this.#do(row));
  }

  /** Resolves when nothing is left that is due. */
  settled(): Promise<void> {
    return this.#taking.settled();
  }

  async stop(): Promise<void> {
    await this.#taking.stop();
    this.options.mailer.close();
  }

  async #do(row: ErrandRow): Promise<void> {
    try {
      const tried = await this.#try(row).catch((error: unknown): Tried => {
        if (isDatabaseAway(error)) throw error;
        this.options.log.error(
          { errand: row.id, error: (error as Error).stack },
          'an errand failed by a fault of ours',
        );
        return {
          ok: false,
          reason: 'the program met a fault of its own',
          again: true,
          afterMs: null,
          status: null,
        };
      });
      faultPoint(10);
      await this.#mark(row, tried).catch((error: unknown) => {
        if (passesByItself(error) || !tried.ok) throw error;
        // What was answered cannot be kept as it is: it is kept as text.
        this.options.log.error(
          { errand: row.id, error: (error as Error).message },
          'an answer could not be kept as it is',
        );
        return this.#mark(row, { ...tried, body: asText(tried.body) });
      });
    } catch (error) {
      // It is taken again when its half minute is over.
      this.options.log.error(
        { errand: row.id, error: (error as Error).message },
        'an errand could not be marked',
      );
    }
  }

  async #try(row: ErrandRow): Promise<Tried> {
    const { clock, key, standins } = this.options;
    if ('address' in row.body) {
      const secret = signingSecret(key, row.client_id);
      return outcomeOf(
        await sendOutside(
          { standins, secret, id: row.id, now: clock.now() },
          row.body.address,
          row.body.body,
        ),
      );
    }
    if ('question' in row.body) return this.#ask(row.client_id, row.conversation_id, row.body);
    const { by, to, subject, text } = row.body;
    return by === 'email' ? this.#mail(row.id, { to, subject, text }) : this.#message(row, { by, to, text });
  }

  /** What the client's sources say; it can be asked again, should it not come to an end. */
  async #ask(
    clientId: number,
    conversationId: string,
    asked: { question: string; before: string | null; channel: ChannelKind },
  ) {
    const question = { ...asked, message: asked.question };
    const body = await this.options.models.toSay(clientId, question, conversationId);
    return { ok: true as const, body, status: null };
  }

  async #mail(
    id: string,
    { to, subject, text }: { to: string; subject: string; text: string },
  ): Promise<Tried> {
    const mailed = await this.options.mailer.send({ id, to, subject: subject || text.slice(0, 60), text });
    return mailed.ok ? { ...mailed, body: null } : { ...mailed, afterMs: null };
  }

  /**
   * Over the client's own line of that channel: the one of the conversation, where it is one, else the first
   * connected.
   */
  async #message(
    row: ErrandRow,
    { by, to, text }: { by: 'sms' | 'telegram'; to: string; text: string },
  ): Promise<Tried> {
    const { lines, adapters } = this.options;
    const channel: ChannelKind = by;
    const { rows } = await this.db.query<{ id: number }>(
      `
        select id from line where client_id = $1 and channel = $2 and secrets is not null
        order by id <> $3, account ? 'trial', id limit 1`,
      [row.client_id, channel, row.line_id],
    );
    const line = rows[0] && (await lines.byId(rows[0].id));
    if (!line)
      return {
        ok: false,
        reason: `the client has no connected line on ${CHANNELS[channel].name}`,
        again: false,
        afterMs: null,
        status: null,
      };
    for (const outgoing of CHANNELS[channel].render({ text, choices: [] })) {
      const sent = await adapters.of(line).send(outgoing, to, line, row.id, null);
      if (sent.kind !== 'sent')
        return {
          ok: false,
          reason: sent.failure.reason,
          again: sent.kind === 'again',
          afterMs: sent.kind === 'again' ? sent.afterMs : null,
          status: null,
        };
    }
    return { ok: true, body: null, status: null };
  }

  async #mark(row: ErrandRow, tried: Tried): Promise<void> {
    const now = this.options.clock.now();
    const again = !tried.ok && tried.again && row.attempts < MOST_TRIES;
    const status = tried.ok ? 'done' : again ? 'waiting' : 'failed';
    const next =
      !tried.ok && again
        ? now + Math.max(tried.afterMs ?? 0, growingPause(row.attempts + 1, this.options.chance()))
        : now;
    const answer = tried.ok
      ? { status: tried.status, body: tried.body }
      : { status: tried.status, reason: tried.reason };
    const delivered = {
      kind: 'delivered',
      runId: row.run_id,
      turn: row.turn,
      ok: tried.ok,
      reason: tried.ok ? '' : tried.reason,
      body: tried.ok ? tried.body : null,
    };
    // The answer reaches the run in the statement that ends the errand: both, or neither.
    await this.db.query({
      name: 'mark-errand',
      text: `
             with marked as (
               update errand set status = $3, next_at = $4, ended_at = case when $3 = 'waiting' then null
                 else $5::timestamptz end, answer = $6
               where client_id = $1 and id = $2 and status = 'waiting'
               returning client_id, line_id, conversation_id, run_id
             )
             insert into pending (client_id, line_id, conversation_id, event_id, place, ready_at, happened_at,
               body)
             select client_id, line_id, conversation_id, null, null, $5, $5,
               jsonb_build_object('incoming', $7::jsonb) from marked
             where run_id is not null and $3 <> 'waiting'`,
      values: [
        row.client_id,
        row.id,
        status,
        new Date(next),
        new Date(now),
        toJson(answer),
        toJson(delivered),
      ],
    });
    if (!tried.ok)
      this.options.log.warn(
        { errand: row.id, kind: row.kind, status, attempts: row.attempts, reason: tried.reason },
        'an errand did not succeed',
      );
    if (status !== 'waiting' && row.run_id) this.options.answered();
  }
}

/**
 * What another system's answer means: 2xx is well; silence, 408, 409, 425, 429 and 5xx may pass; all else is
 * a refusal.
 */
function outcomeOf(answer: Answer): Tried {
  if (answer.kind === 'silence')
    return {
      ok: false,
      reason: answer.reason,
      again: answer.code !== 'forbidden',
      afterMs: null,
      status: null,
    };
  const { status } = answer;
  if (status >= 200 && status < 300) return { ok: true, body: answer.body, status };
  const after = Number(answer.headers['retry-after']);
  return {
    ok: false,
    reason: refusalWords(status),
    again: mayPass(status),
    afterMs: after > 0 ? Math.min(after, 600) * 1_000 : null,
    status,
  };
}
