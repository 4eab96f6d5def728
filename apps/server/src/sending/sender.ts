import type { Logger } from 'pino';
import type pg from 'pg';
import { quietUntil, type ChannelKind } from '@dart-loop/core';
import type { Clock } from '../platform/clock';
import { toJson } from '../platform/db/json';
import { isDatabaseAway, lostToAnother, type Db } from '../platform/db/pool';
import type { Adapters } from '../channels';
import type { Failure, OpenLine, Sent } from '../channels/adapter';
import { faultPoint } from '../platform/fault';
import type { Lines } from '../lines/lines';
import { LineSender, type QueuedRow } from './lineSender';
import { growingPause } from '../platform/jobs/pace';
import { Gate, type Verdict } from './gate';

/**
 * Tries of one message before it is given up: with growing pauses, some forty minutes. Holds of the whole
 * line do not count.
 */
const MOST_TRIES = 12;
/** The first number of the advisory lock that names one sender per line. */
export const SENDER_LOCK = 7_711;
const MOST_LOADED = 2_000;

interface Result {
  row: QueuedRow;
  status: 'queued' | 'held' | 'sent' | 'failed';
  providerId: string | null;
  failure: Failure | null;
}

const CAPPED: Failure = {
  code: 'cap',
  reason: 'A cap of the line is reached: no more messages that nobody asked for go out today.',
  remedy: 'It goes out after midnight, or at once when the person writes; the caps are on the line’s page.',
};

const QUIET_HOURS: Failure = {
  code: 'quiet hours',
  reason: 'Held back: it is too early or too late for the person.',
  remedy: 'It goes out when their quiet hours are over, or at once when they write.',
};

const OFTEN: Failure = {
  code: 'frequency',
  reason: 'Held back: the person has had as many messages as the client allows for a day or a week.',
  remedy: 'It goes out when that time is over, or at once when they write.',
};

const OWN_FAULT: Failure = {
  code: 'fault',
  reason: 'The program met a fault of its own when it handed the message to the channel.',
  remedy: 'It is tried again with growing pauses; if it fails each time, look at the step that sends it.',
};

const WINDOW_SHUT: Failure = {
  code: 'window shut',
  reason: 'Held back: the time in which the line may write to the person ended before it could be sent.',
  remedy: 'It goes out when the person writes again.',
};

/**
 * Sends what is queued: one sender per line among all processes (an advisory lock names it), at the line's
 * rate, in order within each conversation, and with growing pauses when that may help. The row in the
 * database is the job.
 */
export class Sender {
  #owned = new Map<number, LineSender>();
  #locks: pg.PoolClient | null = null;
  #results: Result[] = [];
  #marking: Promise<void> | null = null;
  #loading = false;
  #loadAgain = false;
  #stopped = false;
  #lastSent = new Map<number, number>();
  readonly #gate: Gate;
  #lineStates = new Map<number, { clientId: number; failure: Failure | null }>();

  constructor(
    private readonly db: Db,
    private readonly clock: Clock,
    private readonly adapters: Adapters,
    private readonly lines: Lines,
    private readonly log: Logger,
    private readonly changed: (clientIds: number[]) => void,
    private readonly chance: () => number,
  ) {
    this.#gate = new Gate(db, clock);
  }

  /**
   * Takes over the lines that nobody sends for, and loads what is queued. Called at the start, now and then,
   * and after every batch.
   */
  async wake(): Promise<void> {
    if (this.#stopped) return;
    if (this.#loading) {
      this.#loadAgain = true;
      return;
    }
    this.#loading = true;
    try {
      do {
        this.#loadAgain = false;
        await this.#load();
      } while (this.#loadAgain && !this.#stopped);
    } finally {
      this.#loading = false;
    }
  }

  /** Becomes the sender of every connected line that has none. */
  async takeLines(): Promise<void> {
    if (this.#stopped) return;
    try {
      this.#locks ??= await this.#openLocks();
      const { rows } = await this.#locks.query<{ id: number; channel: ChannelKind; mine: boolean }>(
        `
          select id, channel, pg_try_advisory_lock($1, id) as mine from line
          where secrets is not null and id <> all($2::int[])`,
        [SENDER_LOCK, this.ownLines()],
      );
      for (const row of rows) {
        const line = this.#owned.get(row.id);
        if (!row.mine) {
          // Another process has taken it: what was not begun here is loaded there.
          if (line) for (const conversationId of [...line.queues.keys()]) this.#forget(line, conversationId);
        } else if (line) {
          line.mine = true;
          this.#next(line);
        } else
          this.#owned.set(
            row.id,
            new LineSender(row.id, this.adapters[row.channel].rate, this.clock, this.db, (each) =>
              this.#next(each),
            ),
          );
      }
    } catch (error) {
      this.#loseLocks();
      throw error;
    }
  }

  /**
   * Whether messages that nothing holds have waited on a line since before `since`, and none was begun there
   * meanwhile.
   */
  standsStill(since: number): boolean {
    return [...this.#owned.values()].some((line) => line.standsStill(since));
  }

  /** The lines that this process sends for. */
  ownLines(): number[] {
    return [...this.#owned.values()].filter((line) => line.mine).map((line) => line.lineId);
  }

  async #openLocks(): Promise<pg.PoolClient> {
    const locks = await this.db.connect();
    locks.on('error', () => this.#loseLocks(locks));
    return locks;
  }

  /**
   * Locks die with their connection. What is under way is finished and marked; nothing more is begun until
   * the lock is had again.
   */
  #loseLocks(which = this.#locks): void {
    if (!which || which !== this.#locks) return;
    this.#locks = null;
    for (const line of this.#owned.values()) line.mine = false;
    which.release(true);
  }

  /** A line was connected again or renewed, or its caps were changed: what held it is over. */
  release(): void {
    this.lines.forget();
    for (const line of this.#owned.values()) {
      line.holdUntil = 0;
      line.fails = 0;
      for (const conversationId of line.capped) line.ready(conversationId);
      line.capped.clear();
      this.#next(line);
    }
  }

  /** Writes down when each line last sent; called now and then, not per message. */
  async noteSent(): Promise<void> {
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

  async stop(): Promise<void> {
    this.#stopped = true;
    const start = Date.now();
    while ([...this.#owned.values()].some((line) => line.underWay > 0) && Date.now() - start < 5_000)
      await new Promise((resolve) => setTimeout(resolve, 20));
    await this.#mark().catch((error: Error) =>
      this.log.error({ error: error.message }, 'results could not be marked at the end'),
    );
    this.#loseLocks();
    this.#owned.clear();
  }

  async #load(): Promise<void> {
    const lineIds = this.ownLines();
    if (lineIds.length === 0) return;
    const known = [...this.#owned.values()].flatMap((line) => [...line.known]);
    const { rows } = await this.db.query<QueuedRow>({
      name: 'load-queued',
      text: `
             select client_id, id, line_id, conversation_id, seq, attempts, address, body, via, go_until,
               unasked, zone from message
             where status = 'queued' and line_id = any($1::int[]) and id <> all($2::uuid[])
             order by conversation_id, seq limit ${MOST_LOADED}`,
      values: [lineIds, known],
    });
    for (const row of rows) {
      const line = this.#owned.get(row.line_id);
      if (!line || line.known.has(row.id)) continue;
      line.known.add(row.id);
      const queue = line.queues.get(row.conversation_id);
      if (!queue) {
        line.queues.set(row.conversation_id, [row]);
        line.ready(row.conversation_id);
      } else {
        queue.push(row);
        if (!row.unasked && line.capped.delete(row.conversation_id)) line.ready(row.conversation_id);
        else line.joined(row.conversation_id);
      }
    }
    for (const line of this.#owned.values()) this.#next(line);
  }

  /** Starts as many sendings as the line may have under way. */
  #next(line: LineSender): void {
    while (
      !this.#stopped &&
      line.mine &&
      line.underWay < line.mostAtOnce &&
      this.clock.now() >= line.holdUntil
    ) {
      const conversationId = line.takeTurn();
      if (conversationId === null) return;
      line.underWay++;
      line.lastBegan = this.clock.now();
      line.sending.add(conversationId);
      void this.#sendFirst(line, conversationId).finally(() => {
        line.giveBackPlace(conversationId);
        line.underWay--;
        line.sending.delete(conversationId);
        this.#next(line);
      });
    }
  }

  async #sendFirst(line: LineSender, conversationId: string): Promise<void> {
    const queue = line.queues.get(conversationId);
    const row = queue?.[0];
    if (!queue || !row) return;
    let pauseMs: number | null = null;
    let counted = false;
    try {
      const open = await this.lines.byId(line.lineId);
      if (!open) {
        // Disconnected: what was queued was closed with it.
        line.sending.delete(conversationId);
        this.#forget(line, conversationId);
        return;
      }
      if (row.go_until && this.clock.now() > row.go_until.getTime()) {
        // Its window has shut while it waited here.
        this.#settle(line, open, row, { kind: 'outside window', failure: WINDOW_SHUT });
        queue.shift();
        if (queue.length === 0) line.queues.delete(conversationId);
        else line.ready(conversationId);
        return;
      }
      if (row.unasked && line.isUnasked(conversationId)) {
        const now = this.clock.now();
        const quiet = row.zone === null ? null : quietUntil(open.channel, now, row.zone, open.quiet);
        if (quiet !== null) return this.#waitTill(line, row, quiet, QUIET_HOURS);
        const until = await line.unaskedToday.take(open, conversationId, now);
        if (until !== null) return this.#waitTill(line, row, until, CAPPED);
        counted = true;
      }
      const typing = !line.typed.has(row.id) ? row.body.typing : undefined;
      const adapter = this.adapters[open.channel];
      if (typing && adapter.typing) {
        // The pause is the conversation's alone: the line goes on with others meanwhile.
        line.typed.add(row.id);
        await adapter.typing(row.address, open);
        pauseMs = typing * 1_000;
      } else {
        line.typed.delete(row.id);
        const { sent, verdict } = await this.#call(line, open, row, conversationId);
        if (verdict.may === 'wait') {
          if (counted) line.unaskedToday.giveBack(conversationId);
          return this.#waitTill(line, row, verdict.until, OFTEN);
        }
        if (sent) pauseMs = this.#settle(line, open, row, sent);
        else {
          line.known.delete(row.id);
          this.changed([row.client_id]);
        }
        if (!sent && counted) line.unaskedToday.giveBack(conversationId);
      }
    } catch (error) {
      this.log.error(
        { message: row.id, error: (error as Error).message },
        'a message could not be handed to its channel',
      );
      // A database that is away is no fault of the message's; anything else counts as a try of it, so that it
      // cannot be tried for ever.
      const open = isDatabaseAway(error) ? null : await this.lines.byId(line.lineId).catch(() => null);
      pauseMs = open
        ? this.#settle(line, open, row, {
            kind: 'again',
            holds: 'conversation',
            afterMs: null,
            failure: OWN_FAULT,
            lineFails: false,
          })
        : growingPause(1, this.chance());
    }
    if (counted && pauseMs !== null) line.unaskedToday.giveBack(conversationId);
    if (pauseMs === null) {
      queue.shift();
      line.lastInConversation.set(conversationId, this.clock.now());
      if (line.lastInConversation.size > 10_000) line.lastInConversation.clear();
    }
    if (queue.length === 0) line.queues.delete(conversationId);
    else if (pauseMs === null) line.ready(conversationId);
    else {
      void this.clock.until(this.clock.now() + pauseMs).then(() => {
        line.ready(conversationId, true);
        this.#next(line);
      });
    }
  }

  /** No unasked message may go now: the conversation's wait, unless an answer comes that takes them along. */
  #waitTill(line: LineSender, row: QueuedRow, until: number, failure: Failure): void {
    const { conversation_id } = row;
    line.capped.add(conversation_id);
    this.#results.push({ row, status: 'queued', providerId: null, failure });
    void this.#markSoon();
    void this.clock.until(until).then(() => {
      if (!line.capped.delete(conversation_id)) return;
      line.ready(conversation_id);
      this.#next(line);
    });
  }

  /** Hands a message to its channel once its turn has come, if the ledger lets it go at that moment. */
  async #call(
    line: LineSender,
    open: OpenLine,
    row: QueuedRow,
    conversationId: string,
  ): Promise<{ sent: Sent | null; verdict: Verdict }> {
    const adapter = this.adapters[open.channel];
    const last = line.lastInConversation.get(conversationId);
    if (last !== undefined) await this.clock.until(last + adapter.rate.conversationPauseMs);
    await line.pace.turn();
    const verdict = await this.#gate.ask({
      client_id: row.client_id,
      id: row.id,
      counts: row.unasked && line.isUnasked(conversationId),
    });
    if (verdict.may !== 'go') return { sent: null, verdict };
    faultPoint(7);
    // From here on it counts, whatever becomes of it.
    line.usePlace(conversationId);
    const sent = await adapter.send(row.body, row.address, open, row.id, row.via);
    faultPoint(8);
    return { sent, verdict };
  }

  /**
   * Writes down what became of a message. Returns the pause before it is tried again, or null when it is
   * done.
   */
  #settle(line: LineSender, open: OpenLine, row: QueuedRow, sent: Sent): number | null {
    const now = this.clock.now();
    if (sent.kind === 'sent') {
      line.fails = 0;
      this.#noteLine(open, null);
      this.#finish(line, { row, status: 'sent', providerId: sent.providerId, failure: null });
      return null;
    }
    if (sent.kind === 'failed') {
      this.#finish(line, { row, status: 'failed', providerId: null, failure: sent.failure });
      return null;
    }
    if (sent.kind === 'outside window') {
      this.#finish(line, { row, status: 'held', providerId: null, failure: sent.failure });
      return null;
    }
    row.attempts++;
    if (sent.lineFails) this.#noteLine(open, sent.failure);
    if (sent.holds === 'line' && !sent.lineFails && row.via?.kind === 'private reply' && line.privatePace) {
      // Too many private answers: those alone wait.
      const pause = sent.afterMs ?? growingPause(row.attempts, this.chance());
      line.privatePace.holdUntil(now + pause);
      return pause;
    }
    if (sent.holds === 'line') {
      if (now >= line.holdUntil) line.fails++;
      const pause = sent.afterMs ?? growingPause(line.fails, this.chance());
      line.holdUntil = Math.max(line.holdUntil, now + pause);
      line.pace.holdUntil(now + pause);
      this.#results.push({ row, status: 'queued', providerId: null, failure: sent.failure });
      void this.#markSoon();
      return pause;
    }
    if (row.attempts >= MOST_TRIES) {
      this.#finish(line, {
        row,
        status: 'failed',
        providerId: null,
        failure: { ...sent.failure, reason: `Given up after ${row.attempts} tries. ${sent.failure.reason}` },
      });
      return null;
    }
    this.#results.push({ row, status: 'queued', providerId: null, failure: sent.failure });
    void this.#markSoon();
    return sent.afterMs ?? growingPause(row.attempts, this.chance());
  }

  #finish(line: LineSender, result: Result): void {
    line.unwritten(result.row.conversation_id);
    this.#results.push(result);
    void this.#markSoon();
  }

  /** Lets go of a conversation's messages, but for one that is under way. */
  #forget(line: LineSender, conversationId: string): void {
    const queue = line.queues.get(conversationId) ?? [];
    const begun = line.sending.has(conversationId) ? queue.splice(0, 1) : [];
    for (const row of queue) line.known.delete(row.id);
    if (begun.length > 0) line.queues.set(conversationId, begun);
    else line.queues.delete(conversationId);
    line.capped.delete(conversationId);
    line.dropTurn(conversationId);
  }

  /** The line's state changes only when it begins or ceases to fail. */
  #noteLine(open: OpenLine, failure: Failure | null): void {
    const known = this.#lineStates.get(open.id);
    if (known && (known.failure?.code ?? null) === (failure?.code ?? null)) return;
    this.#lineStates.set(open.id, { clientId: open.clientId, failure });
    this.db
      .query(
        `
          update line set failing_since = case when $2::jsonb is null then null
            else coalesce(failing_since, $3) end, failure = $2 where id = $1`,
        [open.id, failure ? toJson(failure) : null, new Date(this.clock.now())],
      )
      .then(() => this.changed([open.clientId]))
      .catch((error: Error) =>
        this.log.error({ line: open.id, error: error.message }, 'the state of a line could not be written'),
      );
  }

  /** Results that come while one batch is being marked go with the next. */
  async #markSoon(): Promise<void> {
    if (this.#marking) return;
    this.#marking = (async () => {
      await Promise.resolve();
      while (this.#results.length > 0) {
        try {
          await this.#mark();
        } catch (error) {
          this.log.error({ error: (error as Error).message }, 'results could not be marked; trying again');
          await new Promise((resolve) => setTimeout(resolve, 500));
        }
      }
    })().finally(() => (this.#marking = null));
    await this.#marking;
  }

  async #mark(): Promise<void> {
    const batch = this.#results.splice(0, 1_000);
    if (batch.length === 0) return;
    let written = batch;
    try {
      await this.#write(batch);
    } catch (error) {
      if (isDatabaseAway(error) || lostToAnother(error)) {
        this.#results.unshift(...batch);
        throw error;
      }
      written = await this.#writeAlone(batch);
    }
    const free = new Set<LineSender>();
    for (const { row, status } of written) {
      if (status === 'sent') this.#lastSent.set(row.line_id, this.clock.now());
      const line = status === 'queued' ? undefined : this.#owned.get(row.line_id);
      if (!line) continue;
      line.known.delete(row.id);
      line.written(row.conversation_id);
      free.add(line);
    }
    faultPoint(9);
    for (const line of free) this.#next(line);
    this.changed([...new Set(batch.map(({ row }) => row.client_id))]);
  }

  /**
   * Results that were refused in company are written one by one; of one that is refused alone only what
   * became of the message is kept. Gives those that are written; the others come with the next batch.
   */
  async #writeAlone(batch: Result[]): Promise<Result[]> {
    const written: Result[] = [];
    for (const each of batch)
      try {
        await this.#write([each]).catch((error: Error) => {
          if (isDatabaseAway(error)) throw error;
          this.log.error(
            { message: each.row.id, error: error.message },
            'what a channel answered could not be kept',
          );
          const failure = each.failure && { ...OWN_FAULT, code: 'unreadable' };
          return this.#write([{ ...each, providerId: null, failure }]);
        });
        written.push(each);
      } catch (error) {
        if (!isDatabaseAway(error)) throw error;
        this.#results.push(each);
      }
    return written;
  }

  async #write(batch: Result[]): Promise<void> {
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
