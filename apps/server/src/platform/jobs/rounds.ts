import type { Logger } from 'pino';

/** Work that a process does again and again, each with a pause of its own. */
export class Rounds {
  #stopped = false;
  readonly #timers: NodeJS.Timeout[] = [];
  /** What is at work now. */
  readonly #working = new Set<Promise<void>>();

  constructor(private readonly log: Logger) {}

  /**
   * Does the work every `ms`; `failed` is logged where it fails. Work that takes longer than its pause, or
   * waits for the database, is not begun again beside itself.
   */
  every(ms: number, failed: string, work: () => Promise<unknown>): void {
    let working: Promise<void> | null = null;
    const once = () => {
      if (working || this.#stopped) return;
      const begun = work()
        .then(
          () => undefined,
          (error: Error) => void (this.#stopped || this.log.error({ error: error.message }, failed)),
        )
        .finally(() => {
          working = null;
          this.#working.delete(begun);
        });
      working = begun;
      this.#working.add(begun);
    };
    this.#timers.push(setInterval(once, ms));
  }

  get isStopped(): boolean {
    return this.#stopped;
  }

  /** Resolves when all that is at work now has ended. */
  async finished(): Promise<void> {
    await Promise.all(this.#working);
  }

  /** Begins nothing any more. */
  stop(): void {
    this.#stopped = true;
    for (const timer of this.#timers) clearInterval(timer);
  }
}
