/** What the sum takes on the two-core machine that figures are given for, while nothing else runs. */
const QUIET_MS = 6;
const EVERY_MS = 250;

/**
 * Tells how much slower this machine is just now than the one that figures are given for: a fixed sum is
 * timed all the while. Where it takes four times as long, because others want the machine, so may an answer.
 */
export class Yardstick {
  readonly #samples: { at: number; slowness: number }[] = [];
  readonly #timer: NodeJS.Timeout;

  constructor() {
    // The first time is slower than all others.
    sum();
    this.#take();
    this.#timer = setInterval(() => this.#take(), EVERY_MS);
  }

  /** How many times slower it was, at most, since a moment of `performance.now()`; at least 1. */
  since(moment: number): number {
    this.#take();
    return Math.max(1, ...this.#samples.filter(({ at }) => at >= moment).map(({ slowness }) => slowness));
  }

  stop(): void {
    clearInterval(this.#timer);
  }

  #take(): void {
    const at = performance.now();
    sum();
    this.#samples.push({ at, slowness: (performance.now() - at) / QUIET_MS });
  }
}

function sum(): number {
  let total = 0;
  for (let n = 0; n < 3_000_000; n++) total = (total + n * 7) | 0;
  return total;
}
