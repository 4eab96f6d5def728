/** How a stand-in answers: the switch that tests and the curious turn. */
export const MOODS = ['well', '401', '403', '429', '500', 'garbage', 'slow', 'silent'] as const;
export type Mood = (typeof MOODS)[number];

/** Time as the stand-ins see it; the demo's loading winds it, otherwise it is the wall clock. */
export class StandinClock {
  #wound: number | null = null;
  now(): number {
    return this.#wound ?? Date.now();
  }
  wind(to: number | null): void {
    this.#wound = to;
  }
}

/** Counts what came within the last second, as a platform that limits rates does. */
export class RateLimit {
  #times: number[] = [];
  constructor(private readonly perSecond: number) {}
  /** Whether one more is within the limit; if so it is counted. */
  take(now: number): boolean {
    while (this.#times.length > 0 && this.#times[0]! <= now - 1_000) this.#times.shift();
    if (this.#times.length >= this.perSecond) return false;
    this.#times.push(now);
    return true;
  }
}
