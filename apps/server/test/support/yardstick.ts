import { spawn, type ChildProcessWithoutNullStreams } from 'node:child_process';

/** What the sum takes on the two-core machine that figures are given for, while nothing else runs. */
const QUIET_MS = 6;
const EVERY_MS = 250;
/**
 * How often an answer is handed from process to process at most, as to the database and back: each time it
 * waits for its turn among all that runs.
 */
const HAND_OVERS = 30;

interface Sample {
  at: number;
  slowness: number;
  /** What one way to another process and back took, in ms. */
  handOverMs: number;
}

/**
 * Tells how much slower this machine is just now than the one that figures are given for, by two things that
 * are timed all the while: a fixed sum, and a word that another process sends back. Where the sum takes four
 * times as long, because others want the machine, so may an answer; and it may wait for its turns.
 */
export class Yardstick {
  readonly #samples: Sample[] = [];
  readonly #timer: NodeJS.Timeout;
  readonly #echo: ChildProcessWithoutNullStreams;
  #since = performance.now();
  #waits = false;

  constructor() {
    this.#echo = spawn('cat');
    this.#echo.stdout.on('data', () => {
      const at = this.#since;
      this.#waits = false;
      this.#samples.push({ at, slowness: timeOfSum(), handOverMs: performance.now() - at });
    });
    // The first time is slower than all others.
    sum();
    this.#take();
    this.#timer = setInterval(() => this.#take(), EVERY_MS);
  }

  /** What something that takes so many ms on a quiet machine may take now, since `performance.now()`. */
  allows(ms: number, moment: number): number {
    const now = { slowness: timeOfSum(), handOverMs: 0 };
    const samples = [now, ...this.#samples.filter(({ at }) => at >= moment)];
    const most = (of: (each: typeof now) => number) => Math.max(...samples.map(of));
    return (
      ms *
        Math.max(
          1,
          most(({ slowness }) => slowness),
        ) +
      HAND_OVERS * most((each) => each.handOverMs)
    );
  }

  /** Whether others want the machine. */
  isBusy(moment: number): boolean {
    return this.allows(1_000, moment) > 1_500;
  }

  stop(): void {
    clearInterval(this.#timer);
    this.#echo.kill();
  }

  #take(): void {
    // What has not come back yet is timed from when it was sent.
    if (this.#waits) return;
    this.#waits = true;
    this.#since = performance.now();
    this.#echo.stdin.write('.');
  }
}

/** How many times longer than on a quiet machine the sum takes. */
function timeOfSum(): number {
  const at = performance.now();
  sum();
  return (performance.now() - at) / QUIET_MS;
}

function sum(): number {
  let total = 0;
  for (let n = 0; n < 3_000_000; n++) total = (total + n * 7) | 0;
  return total;
}
