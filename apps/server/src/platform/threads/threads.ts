import { MessageChannel } from 'node:worker_threads';
import { Piscina } from 'piscina';
import type { ReadRow, RowsAsked } from '../../people/rows';
import type * as jobs from './jobs';

type Jobs = typeof jobs;
type Job = Exclude<keyof Jobs, 'readRows'>;
type AskedOf<J extends Job> = Parameters<Jobs[J]>[0]['asked'];
type AnswerOf<J extends Job> = Awaited<ReturnType<Jobs[J]>>;

/** Threads that work at once, and what one may take of memory. */
const MOST_THREADS = 2;
const MOST_MEGABYTES = 512;
/** Jobs that wait for a thread. */
const MOST_WAITING = 200;
const IDLE_MS = 60_000;
/** How long the thread that has sources in mind keeps them while nobody asks. */
const KEEPS_MS = 900_000;
/** How long one job may take, and one piece of a file. */
const PATIENCE_MS = 5_000;
const PATIENCE_FOR_PIECE_MS = 20_000;
/** However long threads take to start, and jobs before one. */
const LONGEST_MS = 60_000;
const LOOK_MS = 50;
/** How long a file waits for those before it. */
const WAITS_FOR_FILES_MS = 3_600_000;

/** What was asked took longer, or more memory, than one may have. */
export class TooHeavy extends Error {}

function pool(file: string, { threads = MOST_THREADS, idleMs = IDLE_MS } = {}): Piscina {
  return new Piscina({
    filename: file,
    execArgv: [],
    minThreads: 0,
    maxThreads: threads,
    maxQueue: MOST_WAITING,
    idleTimeout: idleMs,
    resourceLimits: { maxOldGenerationSizeMb: MOST_MEGABYTES },
  });
}

/**
 * Works out what is heavy in threads of their own, each job with a limit on its time and memory. One for a
 * process; files have theirs, as they take long.
 */
export class Threads {
  #short: Piscina | null = null;
  #files: Piscina | null = null;
  #answers: Piscina | null = null;

  /** `file`: the bundle of `jobs.ts`. */
  constructor(readonly file: string) {}

  /** Runs a job. Throws {@link TooHeavy} where it takes longer than it may or more memory. */
  run<J extends Job>(name: J, asked: AskedOf<J>, patienceMs = PATIENCE_MS): Promise<AnswerOf<J>> {
    this.#short ??= pool(this.file);
    return this.#runIn(this.#short, name, asked, patienceMs);
  }

  /** As {@link run}, in the one thread that keeps in mind what it was told before. */
  answer<J extends Job>(name: J, asked: AskedOf<J>, patienceMs = PATIENCE_MS): Promise<AnswerOf<J>> {
    this.#answers ??= pool(this.file, { threads: 1, idleMs: KEEPS_MS });
    return this.#runIn(this.#answers, name, asked, patienceMs);
  }

  async #runIn<J extends Job>(
    threads: Piscina,
    name: J,
    asked: AskedOf<J>,
    patienceMs: number,
  ): Promise<AnswerOf<J>> {
    const ended = new AbortController();
    const began = new Int32Array(new SharedArrayBuffer(4));
    const work = threads.run({ asked, began }, { name, signal: ended.signal }) as Promise<AnswerOf<J>>;
    // Its time counts from when it begins: a thread that has to be started, and jobs before it, are none of
    // its doing.
    let sinceMs: number | null = null;
    const asking = performance.now();
    const watch = setInterval(() => {
      const now = performance.now();
      if (Atomics.load(began, 0) === 1) sinceMs ??= now;
      if (now - (sinceMs ?? Infinity) > patienceMs || now - asking > LONGEST_MS) ended.abort();
    }, LOOK_MS);
    try {
      return await work;
    } catch (error) {
      throw heavy(error, patienceMs);
    } finally {
      clearInterval(watch);
    }
  }

  /** The rows of a file of people, piece by piece, read in a thread while this one goes on. */
  async *rows(asked: RowsAsked, pieces: AsyncIterable<Uint8Array>): AsyncIterable<ReadRow[]> {
    this.#files ??= pool(this.file);
    const { port1: ours, port2: theirs } = new MessageChannel();
    const ended = new AbortController();
    const work = this.#files.run(
      { asked, port: theirs },
      { name: 'readRows', signal: ended.signal, transferList: [theirs] },
    );
    // Whoever waits for the next rows hears of its end.
    const over = work.then(
      () => new Promise<never>(() => undefined),
      (error: unknown) => {
        throw heavy(error, PATIENCE_FOR_PIECE_MS);
      },
    );
    over.catch(() => undefined);
    const hear = (patienceMs: number): Promise<jobs.RowsOut> => {
      const answer = new Promise<jobs.RowsOut>((resolve) => ours.once('message', resolve));
      const patience = setTimeout(() => ended.abort(), patienceMs);
      return Promise.race([answer, over]).finally(() => clearTimeout(patience));
    };
    const ask = async (bytes: Uint8Array | null): Promise<ReadRow[]> => {
      const heard = hear(PATIENCE_FOR_PIECE_MS);
      ours.postMessage({ bytes } satisfies jobs.RowsIn);
      const out = await heard;
      if ('failed' in out) throw new TooHeavy(out.failed);
      return 'rows' in out ? out.rows : [];
    };
    try {
      // That it is there; files before it may take long.
      await hear(WAITS_FOR_FILES_MS);
      for await (const bytes of pieces) {
        const rows = await ask(bytes);
        if (rows.length > 0) yield rows;
      }
      const last = await ask(null);
      if (last.length > 0) yield last;
    } finally {
      ours.close();
    }
  }

  async stop(): Promise<void> {
    await Promise.all([this.#short, this.#files, this.#answers].map((each) => each?.destroy()));
    this.#short = this.#files = this.#answers = null;
  }
}

function heavy(error: unknown, patienceMs: number): unknown {
  const { name, code } = error as { name?: string; code?: string };
  if (name === 'AbortError')
    return new TooHeavy(`It takes longer than ${patienceMs / 1_000} s to work out, and was stopped.`);
  if (code === 'ERR_WORKER_OUT_OF_MEMORY')
    return new TooHeavy('It takes more memory than it may have, and was stopped.');
  return error;
}
