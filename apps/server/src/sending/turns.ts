import type { Via } from '@dart-loop/core';
import type { Clock } from '../platform/clock';
import type { Pace } from '../platform/jobs/pace';

/**
 * Who goes first: whoever wrote and gets an answer, then whoever commented, then those that are written to
 * unasked.
 */
const RANKS = ['answer', 'to a comment', 'unasked'] as const;
type Rank = (typeof RANKS)[number];

/** What a turn depends on, of each message that waits. */
export interface Waiting {
  via: Via | null;
  unasked: boolean;
}

/** Whose turn it is on one line, among its conversations with something to send. */
export class Turns {
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
  #readySince: number | null = null;
  /** The places of those that are under way at that pace. */
  readonly #places = new Map<string, number>();

  /**
   * `waiting`: what waits for a conversation, in order. `wake`: called when somebody who stood aside may go.
   */
  constructor(
    private readonly waiting: (conversationId: string) => readonly Waiting[],
    private readonly privatePace: Pace | null,
    private readonly clock: Clock,
    private readonly wake: () => void,
  ) {}

  /** Since when somebody's turn has come, in ms; null while nobody's has. */
  get readySince(): number | null {
    return this.#readySince;
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
    this.drop(conversationId);
    this.ready(conversationId);
  }

  /**
   * Whose turn it is. A private answer to a comment takes its place in their pace here, or stands aside: it
   * must hold nobody up who could go.
   */
  take(): string | null {
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
  drop(conversationId: string): void {
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

  #rankOf(conversationId: string): Rank {
    const waiting = this.waiting(conversationId);
    if (waiting.every(({ unasked }) => unasked)) return 'unasked';
    const ofComment = ({ unasked, via }: Waiting) =>
      unasked || via?.kind === 'public reply' || via?.kind === 'private reply';
    return waiting.every(ofComment) ? 'to a comment' : 'answer';
  }

  #mayGo(conversationId: string): boolean {
    if (!this.privatePace || this.waiting(conversationId)[0]?.via?.kind !== 'private reply') return true;
    const place = this.privatePace.take();
    if (place !== null) this.#places.set(conversationId, place);
    return place !== null;
  }

  #wakeAside(): void {
    if (!this.privatePace || this.#aside.length === 0 || this.#asideWake) return;
    this.#asideWake = true;
    void this.clock.until(this.privatePace.nextAt()).then(() => {
      this.#asideWake = false;
      this.wake();
    });
  }
}
