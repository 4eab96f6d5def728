import type { Logger } from 'pino';
import type { Clock } from '../clock';
import { isDatabaseAway } from '../db/pool';
import { growingPause } from './pace';

/** A minute, two, four … five hours. */
const restMs = (fails: number) => 60 * growingPause(fails, 0.5);

/**
 * Background work that goes through clients one after the other: one whose work fails rests for a while, so
 * that the others are not held up by it. Kept in memory; another process finds out for itself.
 */
export class Resting {
  #resting = new Map<string, { fails: number; until: number }>();
  constructor(
    private readonly clock: Clock,
    private readonly log: Logger,
  ) {}

  /** Those of `what` that rest now. */
  of(what: string): string[] {
    const now = this.clock.now();
    return [...this.#resting]
      .filter(([key, { until }]) => key.startsWith(`${what} `) && until > now)
      .map(([key]) => key.slice(what.length + 1));
  }

  /**
   * Does the work, unless it rests; null where it rests or fails. A database that is away is nobody's fault,
   * and is thrown on.
   */
  async try<T>(what: string, whose: string | number, work: () => Promise<T>): Promise<T | null> {
    const key = `${what} ${whose}`;
    const rest = this.#resting.get(key);
    if (rest && rest.until > this.clock.now()) return null;
    try {
      const done = await work();
      this.#resting.delete(key);
      return done;
    } catch (error) {
      if (isDatabaseAway(error)) throw error;
      const fails = (rest?.fails ?? 0) + 1;
      this.#resting.set(key, { fails, until: this.clock.now() + restMs(fails) });
      this.log.error(
        { what, whose, fails, error: (error as Error).message },
        'background work failed; it rests, and that of others goes on',
      );
      return null;
    }
  }
}
