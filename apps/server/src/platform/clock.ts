/** Where every part of the server takes its time from, so that the demo world and tests can wind it. */
export interface Clock {
  /** Milliseconds since 1970, UTC. */
  now(): number;
  /** Resolves once the clock has reached the moment, or at once when it has passed. */
  until(moment: number): Promise<void>;
}

export const wallClock: Clock = {
  now: () => Date.now(),
  until: (moment) =>
    new Promise((resolve) =>
      setTimeout(resolve, Math.min(Math.max(0, moment - Date.now()), 2 ** 31 - 1)).unref(),
    ),
};

/** A clock that stands still until it is wound. */
export class WoundClock implements Clock {
  #now: number;
  #waiting: { moment: number; resolve: () => void }[] = [];
  constructor(start: number) {
    this.#now = Math.ceil(start);
  }
  now = () => this.#now;
  until = (moment: number) =>
    moment <= this.#now
      ? Promise.resolve()
      : new Promise<void>((resolve) => this.#waiting.push({ moment, resolve }));
  /** Winds forward; moments on the way are reached in order. */
  wind(to: number): void {
    this.#now = Math.max(this.#now, Math.ceil(to));
    const due = this.#waiting.filter((each) => each.moment <= this.#now).sort((a, b) => a.moment - b.moment);
    this.#waiting = this.#waiting.filter((each) => each.moment > this.#now);
    for (const each of due) each.resolve();
  }
}

/** Before this no platform had webhooks; a time that is older is none. */
const FIRST_MS = Date.UTC(2010, 0);

/**
 * When something happened, in ms, by the platform's own time: never later than now; now, where what is said
 * is no time at all.
 */
export const happened = (at: number | null, now: number): number =>
  at !== null && at >= FIRST_MS && at <= now ? at : now;
