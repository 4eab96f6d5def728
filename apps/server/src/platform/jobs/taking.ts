import type { Logger } from 'pino';

/** How long what is under way may take to end when the process stops. */
const PATIENCE_MS = 5_000;

/**
 * What errands, deliveries and tasks have in common: something wakes it, it looks for what is due, what it
 * takes is worked on beside other work, and as soon as one is over it looks again. Any number of processes do
 * so beside each other; what keeps them from taking the same is the query's own.
 */
export class Taking {
  readonly #underWay = new Map<string | number, number>();
  readonly #work = new Set<Promise<unknown>>();
  #looking: Promise<void> | null = null;
  #again = false;
  #stopped = false;

  constructor(
    /** Takes what is due, and gives it to {@link begin}. Resolves once it is taken, not once it is done. */
    private readonly look: () => Promise<void>,
    private readonly log: Logger,
    /** What is logged where it could not look. */
    private readonly failed: string,
  ) {}

  get isStopped(): boolean {
    return this.#stopped;
  }
  /** How many are under way. */
  get size(): number {
    return this.#work.size;
  }
  /** How many of `key` are under way. */
  of(key: string | number): number {
    return this.#underWay.get(key) ?? 0;
  }
  keys(): (string | number)[] {
    return [...this.#underWay.keys()];
  }

  /** Looks for what is due; one look at a time, and once more where it is woken meanwhile. */
  wake(): Promise<void> {
    this.#again = true;
    this.#looking ??= this.#lookWhileWoken().finally(() => {
      this.#looking = null;
    });
    return this.#looking;
  }
  async #lookWhileWoken(): Promise<void> {
    while (this.#again && !this.#stopped) {
      this.#again = false;
      await this.look();
    }
  }

  /** As {@link wake}, for those who do not wait for it: a failure is logged. */
  wakeAndGoOn(): void {
    void this.wake().catch(
      (error: Error) => this.#stopped || this.log.error({ error: error.message }, this.failed),
    );
  }

  /** Counts the work, which never throws, as under way for `key`; looks again when it is over. */
  begin(key: string | number, work: Promise<unknown>, looksAgain: (done: unknown) => boolean = () => true) {
    this.#underWay.set(key, this.of(key) + 1);
    const counted = work.then((done) => {
      this.#work.delete(counted);
      const left = this.of(key) - 1;
      if (left > 0) this.#underWay.set(key, left);
      else this.#underWay.delete(key);
      if (!this.#stopped && looksAgain(done)) this.wakeAndGoOn();
    });
    this.#work.add(counted);
  }

  /** Resolves when nothing is left that this process could do. */
  async settled(): Promise<void> {
    await this.wake();
    while (this.#looking || this.#work.size > 0) {
      await this.#looking;
      await Promise.all(this.#work);
    }
  }

  /** Takes nothing any more, and waits for what is under way, at most `patienceMs`. */
  async stop(patienceMs = PATIENCE_MS): Promise<void> {
    this.#stopped = true;
    let timer: NodeJS.Timeout | undefined;
    const over = new Promise((resolve) => {
      if (patienceMs < Infinity) timer = setTimeout(resolve, patienceMs);
    });
    await Promise.race([
      (this.#looking ?? Promise.resolve()).catch(() => undefined).then(() => Promise.all(this.#work)),
      over,
    ]);
    clearTimeout(timer);
  }
}
