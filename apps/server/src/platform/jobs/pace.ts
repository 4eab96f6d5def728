import type { Clock } from '../clock';

/** A second with room for the jitter between our clock and the platform's. */
const WINDOW_MS = 1_050;

/**
 * Lets through at most `most` in any second (or other window), whatever came before; a quiet line answers at
 * once.
 */
export class Pace {
  /** When each of the last `most` went or will go, oldest first. */
  #last: number[] = [];
  #holdUntil = 0;
  constructor(
    private readonly clock: Clock,
    private most: number,
    private readonly windowMs = WINDOW_MS,
  ) {}

  /** Resolves when one more may go. Callers go in the order they asked. */
  async turn(): Promise<void> {
    const now = this.clock.now();
    const at = this.nextAt();
    this.#note(at);
    if (at > now) await this.clock.until(at);
  }

  /**
   * A place for one that goes now, by the moment it stands for; null where none may go yet, and nothing is
   * taken.
   */
  take(): number | null {
    const now = this.clock.now();
    if (this.nextAt() > now) return null;
    this.#note(now);
    return now;
  }

  /** What had the place goes only now: its window begins now. */
  goes(place: number): void {
    this.giveBack(place);
    this.#note(this.clock.now());
  }

  /** What had the place did not go after all: it is free again. */
  giveBack(place: number): void {
    const at = this.#last.lastIndexOf(place);
    if (at >= 0) this.#last.splice(at, 1);
  }

  /** Lets through so many from now on. */
  change(most: number): void {
    this.most = most;
    this.#last = this.#last.slice(-most);
  }

  /** When one more may go, in ms: now, or later. */
  nextAt(): number {
    const oldest = this.#last.length < this.most ? 0 : this.#last[0]! + this.windowMs;
    return Math.max(this.clock.now(), oldest, this.#holdUntil, this.#last.at(-1) ?? 0);
  }

  #note(at: number): void {
    if (this.#last.length >= this.most) this.#last.shift();
    this.#last.push(at);
  }

  /** Nothing goes before this moment. */
  holdUntil(moment: number): void {
    this.#holdUntil = Math.max(this.#holdUntil, moment);
  }
}

/**
 * The pause before try number `tries` (from 1), growing from 1 s to 5 min, with a fifth of chance so that
 * many do not come back together.
 */
export function growingPause(tries: number, chance: number): number {
  const whole = Math.min(300_000, 1_000 * 2 ** Math.min(tries - 1, 20));
  return Math.round(whole * (0.9 + 0.2 * chance));
}
