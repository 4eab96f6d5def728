import type { Outgoing, Via } from '@dart-loop/core';
import type { Clock } from '../platform/clock';
import type { Db } from '../platform/db/pool';
import type { Adapter } from '../channels/adapter';
import { Pace } from '../platform/jobs/pace';
import { UnaskedCount } from './unaskedCount';

/**
 * Calls to the platform under way at once on one line; on a slow one no more than two seconds' worth, so that
 * answers need not wait behind others.
 */
const MOST_AT_ONCE = 16;
/** With room for the jitter between our clock and the platform's. */
const HOUR_MS = 3_605_000;
/**
 * Who goes first: whoever wrote and gets an answer, then whoever commented, then those that are written to
 * unasked.
 */
const RANKS = ['answer', 'to a comment', 'unasked'] as const;
type Rank = (typeof RANKS)[number];

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
  /** Whether this process holds the line's lock now; without it nothing more is begun. */
  mine = true;
  readonly pace: Pace;
  readonly mostAtOnce: number;
  /** The pace of private answers to comments, where the channel has one of their own. */
  readonly privatePace: Pace | null;
  /** Messages of each conversation, in order; the first may be under way. */
  readonly queues = new Map<string, QueuedRow[]>();
  readonly known = new Set<string>();
  /** Messages before which typing was shown already. */
  readonly typed = new Set<string>();
  readonly lastInConversation = new Map<string, number>();
  /**
   * Conversations whose next message may not go unasked now (a cap, quiet hours, frequency), until an answer
   * takes it along or the time is over.
   */
  readonly capped = new Set<string>();
  readonly unaskedToday: UnaskedCount;
  underWay = 0;
  /** Conversations with a message under way. */
  readonly sending = new Set<string>();
  /** Fails of the line in a row. */
  fails = 0;
  holdUntil = 0;
  /** When a message was last begun, in ms. */
  lastBegan = 0;
  /** Conversations ready to send, in turn. */
  readonly #turns: Record<Rank, string[]> = { answer: [], 'to a comment': [], unasked: [] };
  readonly #ranks = new Map<string, Rank>();
  /** Conversations with a message whose end is not written down, and whether they are to come up then. */
  readonly #unwritten = new Map<string, { comesUp: boolean }>();
  /**
   * Those whose next message is a private answer that has to wait for its pace, so that nobody else waits
   * with them.
   */
  readonly #aside: string[] = [];
  #asideWake = false;
  /** Since when somebody's turn has come; null while nobody's has. */
  #readySince: number | null = null;
  /** The places of those that are under way at that pace. */
  readonly #places = new Map<string, number>();

  /** `next`: called when somebody who stood aside may go. */
  constructor(
    readonly lineId: number,
    { perSecond, privateRepliesPerHour }: Adapter['rate'],
    private readonly clock: Clock,
    db: Db,
    private readonly next: (line: LineSender) => void,
  ) {
    this.mostAtOnce = Math.min(MOST_AT_ONCE, Math.max(2, 2 * perSecond));
    this.unaskedToday = new UnaskedCount(db, lineId);
    this.pace = new Pace(clock, perSecond);
    this.privatePace =
      privateRepliesPerHour === undefined ? null : new Pace(clock, privateRepliesPerHour, HOUR_MS);
  }

  /**
   * A conversation comes up again, in its rank; once its last message is written down, where it is not yet.
   * `soon`: before the others of it.
   */
  ready(conversationId: string, soon = false): void {
    const unwritten = this.#unwritten.get(conversationId);
    if (unwritten) {
      unwritten.comesUp = true;
      return;
    }
    const rank = this.#rankOf(conversationId);
    this.#ranks.set(conversationId, rank);
    this.#readySince ??= this.clock.now();
    if (soon) this.#turns[rank].unshift(conversationId);
    else this.#turns[rank].push(conversationId);
  }

  /**
   * What became of the conversation's message is not written down yet. Its next one waits for that, so that
   * whoever comes after a crash says at most one of them again.
   */
  unwritten(conversationId: string): void {
    this.#unwritten.set(conversationId, { comesUp: false });
  }

  /** It is written down. */
  written(conversationId: string): void {
    const unwritten = this.#unwritten.get(conversationId);
    this.#unwritten.delete(conversationId);
    if (unwritten?.comesUp) this.ready(conversationId);
  }

  /** More waits for the conversation than did: where that is an answer, it waits among those. */
  joined(conversationId: string): void {
    const waits = this.#ranks.get(conversationId);
    if (waits === undefined || waits === this.#rankOf(conversationId)) return;
    this.dropTurn(conversationId);
    this.ready(conversationId);
  }

  /**
   * Whose turn it is. A private answer to a comment takes its place in their pace here, or stands aside: it
   * must hold nobody up who could go.
   */
  takeTurn(): string | null {
    if (this.#aside.length > 0 && this.#mayGo(this.#aside[0]!)) return this.#aside.shift()!;
    for (const rank of RANKS)
      for (let id = this.#turns[rank].shift(); id !== undefined; id = this.#turns[rank].shift()) {
        this.#ranks.delete(id);
        if (this.#mayGo(id)) return id;
        this.#aside.push(id);
      }
    this.#readySince = null;
    this.#wakeAside();
    return null;
  }

  /** The conversation is not to come up. */
  dropTurn(conversationId: string): void {
    this.#ranks.delete(conversationId);
    const unwritten = this.#unwritten.get(conversationId);
    if (unwritten) unwritten.comesUp = false;
    for (const turns of [...Object.values(this.#turns), this.#aside]) {
      const turn = turns.indexOf(conversationId);
      if (turn >= 0) turns.splice(turn, 1);
    }
  }

  /** The conversation's message goes now: from here on its place counts, whatever becomes of it. */
  usePlace(conversationId: string): void {
    const place = this.#places.get(conversationId);
    if (place !== undefined) this.privatePace?.goes(place);
    this.#places.delete(conversationId);
  }

  /** The conversation's turn is over; a place that it did not use is free again. */
  giveBackPlace(conversationId: string): void {
    const unused = this.#places.get(conversationId);
    if (unused !== undefined) this.privatePace?.giveBack(unused);
    this.#places.delete(conversationId);
  }

  /**
   * Whether somebody's turn came before `since` (ms), nothing holds the line, and nothing was begun since.
   */
  standsStill(since: number): boolean {
    const isHeld =
      !this.mine ||
      this.holdUntil > since ||
      this.pace.nextAt() > this.clock.now() ||
      this.underWay >= this.mostAtOnce;
    return !isHeld && this.lastBegan < since && this.#readySince !== null && this.#readySince < since;
  }

  /** Whether nothing that waits for the conversation is an answer. */
  isUnasked(conversationId: string): boolean {
    return (this.queues.get(conversationId) ?? []).every((row) => row.unasked);
  }

  #rankOf(conversationId: string): Rank {
    if (this.isUnasked(conversationId)) return 'unasked';
    const ofComment = ({ unasked, via }: QueuedRow) =>
      unasked || via?.kind === 'public reply' || via?.kind === 'private reply';
    return (this.queues.get(conversationId) ?? []).every(ofComment) ? 'to a comment' : 'answer';
  }

  #mayGo(conversationId: string): boolean {
    if (!this.privatePace || this.queues.get(conversationId)?.[0]?.via?.kind !== 'private reply') return true;
    const place = this.privatePace.take();
    if (place !== null) this.#places.set(conversationId, place);
    return place !== null;
  }

  #wakeAside(): void {
    if (!this.privatePace || this.#aside.length === 0 || this.#asideWake) return;
    this.#asideWake = true;
    void this.clock.until(this.privatePace.nextAt()).then(() => {
      this.#asideWake = false;
      this.next(this);
    });
  }
}
