import type { ChannelKind, Outgoing, Via } from '@dart-loop/core';
import type { Clock } from '../platform/clock';
import type { Db } from '../platform/db/pool';
import type { Adapter } from '../channels/adapter';
import { Pace } from '../platform/jobs/pace';
import { Turns } from './turns';
import { UnaskedCount } from './unaskedCount';

/**
 * Calls to the platform under way at once on one line; on a slow one no more than two seconds' worth, so that
 * answers need not wait behind others.
 */
const MOST_AT_ONCE = 16;
/** With room for the jitter between our clock and the platform's. */
const HOUR_MS = 3_605_000;
/** Conversations whose last sending is remembered; past that the pause between two may be missed once. */
const MOST_REMEMBERED = 10_000;

export interface QueuedRow {
  client_id: number;
  id: string;
  line_id: number;
  conversation_id: string;
  seq: number;
  attempts: number;
  address: string;
  body: Outgoing;
  via: Via | null;
  go_until: Date | null;
  unasked: boolean;
  /** The zone of the person's clock, where nobody asked for the message. */
  zone: string | null;
}

/** One line's sending, while this process is its sender: what waits, and whose turn it is. */
export class LineSender {
  readonly unaskedToday: UnaskedCount;
  #rate: Adapter['rate'];
  #mostAtOnce: number;
  readonly #pace: Pace;
  /** The pace of private answers to comments, where the channel has one of their own. */
  readonly #privatePace: Pace | null;
  readonly #turns: Turns;
  /** Messages of each conversation, in order; the first may be under way. */
  readonly #queues = new Map<string, QueuedRow[]>();
  readonly #known = new Set<string>();
  /** Messages before which typing was shown already. */
  readonly #typed = new Set<string>();
  readonly #lastInConversation = new Map<string, number>();
  /**
   * Conversations whose next message may not go unasked now (a cap, quiet hours, frequency), until an answer
   * takes it along or the time is over.
   */
  readonly #heldBack = new Set<string>();
  /** Conversations with a message under way. */
  readonly #sending = new Set<string>();
  #mine = true;
  /** Fails of the line in a row. */
  #fails = 0;
  #holdUntil = 0;
  #lastBegan = 0;

  /** `next`: called when somebody may go who could not before. */
  constructor(
    readonly lineId: number,
    readonly channel: ChannelKind,
    rate: Adapter['rate'],
    private readonly clock: Clock,
    db: Db,
    private readonly next: (line: LineSender) => void,
  ) {
    const { perSecond, privateRepliesPerHour } = rate;
    this.#rate = rate;
    this.#mostAtOnce = mostAtOnce(perSecond);
    this.unaskedToday = new UnaskedCount(db, lineId);
    this.#pace = new Pace(clock, perSecond);
    this.#privatePace =
      privateRepliesPerHour === undefined ? null : new Pace(clock, privateRepliesPerHour, HOUR_MS);
    this.#turns = new Turns(
      (conversationId) => this.#waiting(conversationId),
      this.#privatePace,
      clock,
      () => next(this),
    );
  }

  /** The line is known to have a pace of its own. */
  keepTo(rate: Adapter['rate']): void {
    if (rate.perSecond === this.#rate.perSecond) return;
    this.#rate = rate;
    this.#mostAtOnce = mostAtOnce(rate.perSecond);
    this.#pace.change(rate.perSecond);
  }

  /** Whether this process holds the line's lock now; without it nothing more is begun. */
  get isMine(): boolean {
    return this.#mine;
  }

  take(): void {
    this.#mine = true;
    this.next(this);
  }

  /** What is under way is finished; nothing more is begun. */
  lose(): void {
    this.#mine = false;
  }

  get isBusy(): boolean {
    return this.#sending.size > 0;
  }

  /** Messages that are not to be loaded again. */
  get knownIds(): readonly string[] {
    return [...this.#known];
  }

  /** One more message waits. */
  add(row: QueuedRow): void {
    if (this.#known.has(row.id)) return;
    this.#known.add(row.id);
    const queue = this.#queues.get(row.conversation_id);
    if (!queue) {
      this.#queues.set(row.conversation_id, [row]);
      this.#turns.ready(row.conversation_id);
      return;
    }
    queue.push(row);
    if (!row.unasked && this.#heldBack.delete(row.conversation_id)) this.#turns.ready(row.conversation_id);
    else this.#turns.joined(row.conversation_id);
  }

  /** The message whose turn it is, under way from here on until `end`; null while none may be begun. */
  begin(): QueuedRow | null {
    const now = this.clock.now();
    if (!this.#mine || this.#sending.size >= this.#mostAtOnce || now < this.#holdUntil) return null;
    for (let id = this.#turns.take(); id !== null; id = this.#turns.take()) {
      const row = this.#waiting(id)[0];
      if (!row) {
        this.#turns.giveBackPlace(id);
        continue;
      }
      this.#lastBegan = now;
      this.#sending.add(id);
      return row;
    }
    return null;
  }

  /** It is no longer under way, whatever became of it. */
  end({ conversation_id: id }: QueuedRow): void {
    this.#turns.giveBackPlace(id);
    this.#sending.delete(id);
    this.next(this);
  }

  /** Whether typing is to be shown before the message now; true once. */
  takesTyping({ id }: QueuedRow): boolean {
    if (this.#typed.delete(id)) return false;
    this.#typed.add(id);
    return true;
  }

  /** Resolves when the line's pace and the pause within the conversation let the message go. */
  async mayGo({ conversation_id: id }: QueuedRow): Promise<void> {
    const last = this.#lastInConversation.get(id);
    if (last !== undefined) await this.clock.until(last + this.#rate.conversationPauseMs);
    await this.#pace.turn();
  }

  /** The message goes now: from here on it counts, whatever becomes of it. */
  goes({ conversation_id: id }: QueuedRow): void {
    this.#turns.usePlace(id);
  }

  /** The conversation's first message is done with; its next one comes up. */
  done({ conversation_id: id }: QueuedRow): void {
    this.#queues.get(id)?.shift();
    this.#lastInConversation.set(id, this.clock.now());
    if (this.#lastInConversation.size > MOST_REMEMBERED) this.#lastInConversation.clear();
    if (this.#waiting(id).length === 0) this.#queues.delete(id);
    else this.#turns.ready(id);
  }

  /** The message is of no more concern here: closed, or its end is written down. */
  drop({ id }: QueuedRow): void {
    this.#known.delete(id);
  }

  /** The same message is tried again after a pause. */
  pause({ conversation_id: id }: QueuedRow, ms: number): void {
    void this.clock.until(this.clock.now() + ms).then(() => {
      if (this.#waiting(id).length === 0) return;
      this.#turns.ready(id, true);
      this.next(this);
    });
  }

  /**
   * No unasked message may go to the conversation before `until` (ms): its wait, unless an answer comes that
   * takes them along.
   */
  holdBack({ conversation_id: id }: QueuedRow, until: number): void {
    this.#heldBack.add(id);
    void this.clock.until(until).then(() => {
      if (!this.#heldBack.delete(id)) return;
      this.#turns.ready(id);
      this.next(this);
    });
  }

  /** The platform took a message: the line is well. */
  works(): void {
    this.#fails = 0;
  }

  /**
   * The whole line waits, for a pause (ms) that may grow with its fails in a row. Where `mayBePrivate`, and
   * the message is a private answer with a pace of its own, those alone wait. Says for how long, and which.
   */
  hold(
    row: QueuedRow,
    pauseFor: (fails: number) => number,
    mayBePrivate: boolean,
  ): { pauseMs: number; isLines: boolean } {
    const now = this.clock.now();
    if (mayBePrivate && row.via?.kind === 'private reply' && this.#privatePace) {
      const pause = pauseFor(row.attempts);
      this.#privatePace.holdUntil(now + pause);
      return { pauseMs: pause, isLines: false };
    }
    if (now >= this.#holdUntil) this.#fails++;
    const pause = pauseFor(this.#fails);
    this.#holdUntil = Math.max(this.#holdUntil, now + pause);
    this.#pace.holdUntil(now + pause);
    return { pauseMs: pause, isLines: true };
  }

  /** What held the line, or its messages that nobody asked for, is over. */
  release(): void {
    this.#holdUntil = 0;
    this.#fails = 0;
    for (const id of this.#heldBack) this.#turns.ready(id);
    this.#heldBack.clear();
    this.next(this);
  }

  /** What became of the conversation's message is not written down yet: its next one waits for that. */
  unwritten({ conversation_id: id }: QueuedRow): void {
    this.#turns.unwritten(id);
  }

  /** It is written down. */
  written(row: QueuedRow): void {
    this.drop(row);
    this.#turns.written(row.conversation_id);
  }

  /** Lets go of all that was not begun here. */
  forgetAll(): void {
    for (const id of [...this.#queues.keys()]) this.#forget(id, this.#sending.has(id));
  }

  /** Lets go of a conversation's messages, the one that is under way among them. */
  forget({ conversation_id: id }: QueuedRow): void {
    this.#forget(id, false);
  }

  /**
   * Whether somebody's turn came before `since` (ms), nothing holds the line, and nothing was begun since.
   */
  standsStill(since: number): boolean {
    const isHeld =
      !this.#mine ||
      this.#holdUntil > since ||
      this.#pace.nextAt() > this.clock.now() ||
      this.#sending.size >= this.#mostAtOnce;
    const { readySince } = this.#turns;
    return !isHeld && this.#lastBegan < since && readySince !== null && readySince < since;
  }

  /** Whether nothing that waits for the conversation is an answer. */
  isUnasked({ conversation_id: id }: QueuedRow): boolean {
    return this.#waiting(id).every((row) => row.unasked);
  }

  #waiting(conversationId: string): readonly QueuedRow[] {
    return this.#queues.get(conversationId) ?? [];
  }

  #forget(id: string, butFirst: boolean): void {
    const queue = this.#queues.get(id) ?? [];
    const begun = butFirst ? queue.splice(0, 1) : [];
    for (const row of queue) this.#known.delete(row.id);
    if (begun.length > 0) this.#queues.set(id, begun);
    else this.#queues.delete(id);
    this.#heldBack.delete(id);
    this.#turns.drop(id);
  }
}

const mostAtOnce = (perSecond: number) => Math.min(MOST_AT_ONCE, Math.max(2, 2 * perSecond));
