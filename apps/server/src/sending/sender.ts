import type { Logger } from 'pino';
import { quietUntil } from '@dart-loop/core';
import type { Clock } from '../platform/clock';
import { isDatabaseAway, type Db } from '../platform/db/pool';
import type { Adapters } from '../channels';
import type { Failure, OpenLine, Sent } from '../channels/adapter';
import { faultPoint } from '../platform/fault';
import type { Lines } from '../lines/lines';
import { CAPPED, givenUp, OFTEN, OWN_FAULT, QUIET_HOURS, WINDOW_SHUT } from './failures';
import { Gate } from './gate';
import { LineLocks } from './lineLocks';
import { LineNotes } from './lineNotes';
import { LineSender, type QueuedRow } from './lineSender';
import { growingPause } from '../platform/jobs/pace';
import { Results, type Result } from './results';
import type { Metrics } from '../platform/metrics';
import { madeAt } from '../platform/ids';

/**
 * Tries of one message before it is given up: with growing pauses, some forty minutes. Holds of the whole
 * line do not count.
 */
const MOST_TRIES = 12;
const MOST_LOADED = 2_000;
/** How long the end waits for what is under way. */
const END_MS = 5_000;

/** What comes after a try of a message: its conversation's next one, or the same again after a pause. */
type Next =
  | { kind: 'next one' }
  | { kind: 'again'; afterMs: number }
  /** It was closed meanwhile, and the next one comes up. */
  | { kind: 'closed' }
  /** It is held back; whatever ends that brings it up again. */
  | { kind: 'held back' }
  /** The line was disconnected, and what was queued was closed with it. */
  | { kind: 'no line' };

/**
 * Sends what is queued: one sender per line among all processes, at the line's rate, in order within each
 * conversation, and with growing pauses when that may help. The row in the database is the job.
 */
export class Sender {
  readonly #lines = new Map<number, LineSender>();
  readonly #locks: LineLocks;
  readonly #gate: Gate;
  readonly #results: Results;
  readonly #notes: LineNotes;
  #loading = false;
  #loadAgain = false;
  #stopped = false;

  constructor(
    private readonly db: Db,
    private readonly clock: Clock,
    private readonly adapters: Adapters,
    private readonly lines: Lines,
    private readonly log: Logger,
    private readonly changed: (clientIds: number[]) => void,
    private readonly chance: () => number,
    private readonly metrics: Metrics,
  ) {
    this.#gate = new Gate(db, clock);
    this.#results = new Results(db, clock, log, (batch) => this.#written(batch));
    this.#notes = new LineNotes(db, clock, log, changed);
    this.#locks = new LineLocks(db, () => {
      for (const line of this.#lines.values()) line.lose();
    });
  }

  /**
   * Loads what is queued on the lines of this process. Called at the start, now and then, and after every
   * batch.
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
    for (const { id, channel, mine } of await this.#locks.take(this.ownLines())) {
      const line = this.#lines.get(id);
      if (!mine)
        line?.forgetAll(); // Another process has taken it: what was not begun here is loaded there.
      else if (line) line.take();
      else
        this.#lines.set(
          id,
          new LineSender(id, channel, this.adapters.newOn(channel).rate, this.clock, this.db, (each) =>
            this.#next(each),
          ),
        );
    }
  }

  /**
   * Whether messages that nothing holds have waited on a line since before `since`, and none was begun there
   * meanwhile.
   */
  standsStill(since: number): boolean {
    return [...this.#lines.values()].some((line) => line.standsStill(since));
  }

  /** The lines that this process sends for. */
  ownLines(): number[] {
    return [...this.#lines.values()].filter((line) => line.isMine).map((line) => line.lineId);
  }

  /** A line was connected again or renewed, or its caps were changed: what held it is over. */
  release(): void {
    this.lines.forget();
    for (const line of this.#lines.values()) line.release();
  }

  /** Writes down when each line last sent; called now and then, not per message. */
  noteSent(): Promise<void> {
    return this.#notes.writeSent();
  }

  async stop(): Promise<void> {
    this.#stopped = true;
    const start = Date.now();
    while ([...this.#lines.values()].some((line) => line.isBusy) && Date.now() - start < END_MS)
      await new Promise((resolve) => setTimeout(resolve, 20));
    await this.#results.flush();
    this.#locks.letGo();
    this.#lines.clear();
  }

  async #load(): Promise<void> {
    const lineIds = this.ownLines();
    if (lineIds.length === 0) return;
    const known = [...this.#lines.values()].flatMap((line) => line.knownIds);
    const { rows } = await this.db.query<QueuedRow>({
      name: 'load-queued',
      text: `
             select client_id, id, line_id, conversation_id, seq, attempts, address, body, via, go_until,
               unasked, zone from message
             where status = 'queued' and line_id = any($1::int[]) and id <> all($2::uuid[])
             order by conversation_id, seq limit ${MOST_LOADED}`,
      values: [lineIds, known],
    });
    for (const row of rows) this.#lines.get(row.line_id)?.add(row);
    for (const line of this.#lines.values()) this.#next(line);
  }

  /** Starts as many sendings as the line may have under way. */
  #next(line: LineSender): void {
    if (this.#stopped) return;
    for (let row = line.begin(); row !== null; row = line.begin()) void this.#send(line, row);
  }

  async #send(line: LineSender, row: QueuedRow): Promise<void> {
    const next = await this.#try(line, row).catch((error: Error) => this.#ownFault(line, row, error));
    if (next.kind === 'no line') line.forget(row);
    else if (next.kind === 'again') line.pause(row, next.afterMs);
    else if (next.kind !== 'held back') {
      if (next.kind === 'closed') line.drop(row);
      line.done(row);
    }
    line.end(row);
  }

  /** A database that is away is no fault of the message's; anything else counts as a try of it. */
  async #ownFault(line: LineSender, row: QueuedRow, error: Error): Promise<Next> {
    this.log.error({ message: row.id, error: error.message }, 'a message could not be handed to its channel');
    const open = isDatabaseAway(error) ? null : await this.lines.byId(line.lineId).catch(() => null);
    if (!open) return { kind: 'again', afterMs: growingPause(1, this.chance()) };
    return this.#settle(line, open, row, {
      kind: 'again',
      holds: 'conversation',
      afterMs: null,
      failure: OWN_FAULT,
      lineFails: false,
    });
  }

  async #try(line: LineSender, row: QueuedRow): Promise<Next> {
    const open = await this.lines.byId(line.lineId);
    if (!open) return { kind: 'no line' };
    const { rateOf } = this.adapters.of(open);
    if (rateOf) line.keepTo(rateOf(open.account));
    if (row.go_until && this.clock.now() > row.go_until.getTime())
      return this.#settle(line, open, row, { kind: 'outside window', failure: WINDOW_SHUT });
    if (!row.unasked || !line.isUnasked(row)) return this.#hand(line, open, row);
    // Nobody asked for it: it counts, unless it does not go after all.
    const now = this.clock.now();
    const quiet = row.zone === null ? null : quietUntil(open.channel, now, row.zone, open.quiet);
    if (quiet !== null) return this.#holdBack(line, row, quiet, QUIET_HOURS);
    const capped = await line.unaskedToday.take(open, row.conversation_id, now);
    if (capped !== null) return this.#holdBack(line, row, capped, CAPPED);
    let next: Next | null = null;
    try {
      next = await this.#hand(line, open, row);
      return next;
    } finally {
      if (next?.kind !== 'next one') line.unaskedToday.giveBack(row.conversation_id);
    }
  }

  /** Hands a message to its channel, after its typing, if the ledger lets it go at that moment. */
  async #hand(line: LineSender, open: OpenLine, row: QueuedRow): Promise<Next> {
    const adapter = this.adapters.of(open);
    const { typing } = row.body;
    if (typing && adapter.typing && line.takesTyping(row)) {
      // The pause is the conversation's alone: the line goes on with others meanwhile.
      await adapter.typing(row.address, open);
      return { kind: 'again', afterMs: typing * 1_000 };
    }
    await line.mayGo(row);
    const counts = row.unasked && line.isUnasked(row);
    const verdict = await this.#gate.ask({ client_id: row.client_id, id: row.id, counts });
    if (verdict.may === 'wait') return this.#holdBack(line, row, verdict.until, OFTEN);
    if (verdict.may === 'not') {
      this.changed([row.client_id]);
      return { kind: 'closed' };
    }
    faultPoint(7);
    line.goes(row);
    const sent = await adapter.send(row.body, row.address, open, row.id, row.via);
    faultPoint(8);
    return this.#settle(line, open, row, sent);
  }

  /** Writes down what became of a message, and says what comes next. */
  #settle(line: LineSender, open: OpenLine, row: QueuedRow, sent: Sent): Next {
    if (sent.kind === 'sent') {
      line.works();
      this.#notes.state(open, null);
      return this.#finish(line, { row, status: 'sent', providerId: sent.providerId, failure: null });
    }
    if (sent.kind === 'failed')
      return this.#finish(line, { row, status: 'failed', providerId: null, failure: sent.failure });
    if (sent.kind === 'outside window')
      return this.#finish(line, { row, status: 'held', providerId: null, failure: sent.failure });
    row.attempts++;
    if (sent.lineFails) this.#notes.state(open, sent.failure);
    if (sent.holds === 'line') {
      const pauseFor = (tries: number) => sent.afterMs ?? growingPause(tries, this.chance());
      const { pauseMs, isLines } = line.hold(row, pauseFor, !sent.lineFails);
      if (isLines) this.#saysWhy(row, sent.failure);
      return { kind: 'again', afterMs: pauseMs };
    }
    if (row.attempts >= MOST_TRIES)
      return this.#finish(line, {
        row,
        status: 'failed',
        providerId: null,
        failure: givenUp(row.attempts, sent.failure),
      });
    this.#saysWhy(row, sent.failure);
    return { kind: 'again', afterMs: sent.afterMs ?? growingPause(row.attempts, this.chance()) };
  }

  #finish(line: LineSender, result: Result): Next {
    line.unwritten(result.row);
    this.#results.add(result);
    return { kind: 'next one' };
  }

  #holdBack(line: LineSender, row: QueuedRow, until: number, failure: Failure): Next {
    line.holdBack(row, until);
    this.#saysWhy(row, failure);
    return { kind: 'held back' };
  }

  /** It stays queued, with the reason why it waits. */
  #saysWhy(row: QueuedRow, failure: Failure): void {
    this.#results.add({ row, status: 'queued', providerId: null, failure });
  }

  #count({ id, line_id }: QueuedRow, { channel }: LineSender, result: Result['status']): void {
    this.metrics.sends.inc({ line: String(line_id), channel, result });
    if (result === 'sent')
      this.metrics.sending.observe({ channel }, Math.max(0, this.clock.now() - madeAt(id)) / 1_000);
  }

  #written(batch: readonly Result[]): void {
    const free = new Set<LineSender>();
    for (const { row, status } of batch) {
      if (status === 'sent') this.#notes.sent(row.line_id);
      const ofLine = this.#lines.get(row.line_id);
      if (ofLine) this.#count(row, ofLine, status);
      const line = status === 'queued' ? undefined : ofLine;
      if (!line) continue;
      line.written(row);
      free.add(line);
    }
    faultPoint(9);
    for (const line of free) this.#next(line);
    this.changed([...new Set(batch.map(({ row }) => row.client_id))]);
  }
}
