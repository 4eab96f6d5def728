import { spawn, type ChildProcessWithoutNullStreams } from 'node:child_process';

/** What the sum takes on the two-core machine that figures are given for, while nothing else runs. */
const QUIET_MS = 30;
const EVERY_MS = 500;
/**
 * How often an answer is handed from process to process at most, as to the database and back: each time it
 * waits for its turn among all that runs.
 */
const HAND_OVERS = 30;

/**
 * A process that works out a fixed sum whenever it is told to, and says what that took. The sum is longer
 * than one turn of the processor: one that fits into a turn knows nothing of those who want it as well.
 */
const SUMMING = `
  process.stdin.on('data', () => {
    const at = performance.now();
    let total = 0;
    for (let n = 0; n < 15_000_000; n++) total = (total + n * 7) | 0;
    process.stdout.write(String(performance.now() - at));
  });`;

interface Sample {
  at: number;
  slowness: number;
  /** What the way to the other process and back took, in ms. */
  handOverMs: number;
}

/**
 * Tells how much slower this machine is just now than the one that figures are given for, by two things that
 * another process is timed at all the while: a fixed sum, and the way there and back. Where the sum takes
 * four times as long, because others want the machine, so may an answer; and it may wait for its turns.
 */
export class Yardstick {
  readonly #samples: Sample[] = [];
  readonly #timer: NodeJS.Timeout;
  readonly #other: ChildProcessWithoutNullStreams;
  /** When it was told to; null while it is not at work. */
  #since: number | null = null;

  constructor() {
    this.#other = spawn(process.execPath, ['--eval', SUMMING]);
    this.#other.stdout.on('data', (told: Buffer) => {
      const at = this.#since ?? performance.now();
      this.#since = null;
      const sumMs = Number(told.toString('utf8'));
      this.#samples.push({
        at,
        slowness: sumMs / QUIET_MS,
        handOverMs: Math.max(0, performance.now() - at - sumMs),
      });
    });
    this.#take();
    this.#timer = setInterval(() => this.#take(), EVERY_MS);
  }

  /** What something that takes so many ms on a quiet machine may take now, since `performance.now()`. */
  allows(ms: number, moment: number): number {
    // The one before tells of the time in which it began; one that is not back is as slow as it is so far.
    const from = this.#samples.findLastIndex(({ at }) => at < moment);
    const samples = this.#samples.slice(Math.max(0, from));
    const soFar = this.#since === null ? 0 : (performance.now() - this.#since) / QUIET_MS;
    const slowness = Math.max(1, soFar, ...samples.map((each) => each.slowness));
    return ms * slowness + HAND_OVERS * Math.max(0, ...samples.map((each) => each.handOverMs));
  }

  /** Whether others want the machine. */
  isBusy(moment: number): boolean {
    return this.allows(1_000, moment) > 1_500;
  }

  stop(): void {
    clearInterval(this.#timer);
    this.#other.kill();
  }

  #take(): void {
    // What has not come back yet is timed from when it was told to.
    if (this.#since !== null) return;
    this.#since = performance.now();
    this.#other.stdin.write('.');
  }
}
