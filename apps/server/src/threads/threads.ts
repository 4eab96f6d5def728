import { MessageChannel } from 'node:worker_threads';
import { Piscina } from 'piscina';
import type { ReadRow, RowsAsked } from '../people/rows';
import type * as jobs from './jobs';

type Jobs = typeof jobs;
type Job = Exclude<keyof Jobs, 'readRows'>;

/** Threads that work at once, and what one may take of memory. */
const MOST_THREADS = 2;
const MOST_MEGABYTES = 512;
/** Jobs that wait for a thread. */
const MOST_WAITING = 200;
const IDLE_MS = 60_000;
/** How long one job may take, and one piece of a file. */
const PATIENCE_MS = 5_000;
const PATIENCE_FOR_PIECE_MS = 20_000;

/** What was asked took longer, or more memory, than one may have. */
export class TooHeavy extends Error {}

function pool(file: string): Piscina {
  return new Piscina({
    filename: file,
    execArgv: [],
    minThreads: 0,
    maxThreads: MOST_THREADS,
    maxQueue: MOST_WAITING,
    idleTimeout: IDLE_MS,
    resourceLimits: { maxOldGenerationSizeMb: MOST_MEGABYTES },
  });
}

/** Works out what is heavy in threads of their own, each job with a limit on its time and memory. One for a process; files have theirs, as they take long. */
export class Threads {
  #short: Piscina | null = null;
  #files: Piscina | null = null;

  /** `file`: the bundle of `jobs.ts`. */
  constructor(private readonly file: string) {}

  /** Runs a job. Throws {@link TooHeavy} where it takes longer than it may or more memory. */
  async run<J extends Job>(name: J, asked: Parameters<Jobs[J]>[0], patienceMs = PATIENCE_MS): Promise<Awaited<ReturnType<Jobs[J]>>> {
    this.#short ??= pool(this.file);
    const ended = new AbortController();
    const work = this.#short.run(asked, { name, signal: ended.signal }) as Promise<Awaited<ReturnType<Jobs[J]>>>;
    // Those that wait before it may take their time as well.
    const before = Math.ceil(this.#short.queueSize / MOST_THREADS);
    const patience = setTimeout(() => ended.abort(), patienceMs * (1 + before));
    try {
      return await work;
    } catch (error) {
      throw heavy(error, patienceMs);
    } finally {
      clearTimeout(patience);
    }
  }

  /** The rows of a file of people, piece by piece, read in a thread while this one goes on. */
  async *rows(asked: RowsAsked, pieces: AsyncIterable<Uint8Array>): AsyncIterable<ReadRow[]> {
    this.#files ??= pool(this.file);
    const { port1: ours, port2: theirs } = new MessageChannel();
    const ended = new AbortController();
    const work = this.#files.run({ asked, port: theirs }, { name: 'readRows', signal: ended.signal, transferList: [theirs] });
    // Whoever waits for the next rows hears of its end.
    const over = work.then(
      () => new Promise<never>(() => undefined),
      (error: unknown) => {
        throw heavy(error, PATIENCE_FOR_PIECE_MS);
      },
    );
    over.catch(() => undefined);
    const ask = async (bytes: Uint8Array | null): Promise<ReadRow[]> => {
      const answer = new Promise<jobs.RowsOut>((resolve) => ours.once('message', resolve));
      const patience = setTimeout(() => ended.abort(), PATIENCE_FOR_PIECE_MS);
      ours.postMessage({ bytes } satisfies jobs.RowsIn);
      const out = await Promise.race([answer, over]).finally(() => clearTimeout(patience));
      if ('failed' in out) throw new TooHeavy(out.failed);
      return out.rows;
    };
    try {
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
    await Promise.all([this.#short?.destroy(), this.#files?.destroy()]);
    this.#short = this.#files = null;
  }
}

function heavy(error: unknown, patienceMs: number): unknown {
  const { name, code } = error as { name?: string; code?: string };
  if (name === 'AbortError') return new TooHeavy(`It takes longer than ${patienceMs / 1_000} s to work out, and was stopped.`);
  if (code === 'ERR_WORKER_OUT_OF_MEMORY') return new TooHeavy('It takes more memory than it may have, and was stopped.');
  return error;
}
