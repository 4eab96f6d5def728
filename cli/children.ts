import { fork, type ChildProcess } from 'node:child_process';
import { keepRotating, openLog } from './logs';
import { sleep } from './machine';

export interface Child {
  /** What it said it listens at, where it does. */
  address: string;
  process: ChildProcess;
  stop(): Promise<void>;
}

/**
 * Starts one of our processes and waits for it to say that it is ready. It ends by itself when this process
 * is gone (its channel closes), and at `stop`, kindly first.
 */
export async function startChild(
  script: string,
  args: string[],
  environment: Record<string, string>,
  logFile: string,
  nodeArgs: string[] = [],
): Promise<Child> {
  const log = openLog(logFile);
  // In a session of its own: Ctrl+C reaches it through us, in the right order.
  const child = fork(script, args, {
    env: { ...cleanEnvironment(), ...environment },
    stdio: ['ignore', log, log, 'ipc'],
    detached: true,
    execArgv: ['--enable-source-maps', ...nodeArgs],
  });
  child.once('exit', keepRotating(logFile));
  const address = await new Promise<string>((resolve, reject) => {
    child.once('message', (message) => resolve((message as { address: string | null }).address ?? ''));
    child.once('exit', (code, signal) =>
      reject(new Error(`it ended before it was ready (${signal ?? code}); see ${logFile}`)),
    );
    child.once('error', reject);
  });
  return {
    address,
    process: child,
    stop: () => stopChild(child, KIND_MS + Number(environment.DARTLOOP_DRAIN ?? 0) * 1_000),
  };
}

/** How long a process is given to end by itself. */
const KIND_MS = 10_000;

async function stopChild(child: ChildProcess, kindMs: number): Promise<void> {
  if (child.exitCode !== null || child.signalCode !== null) return;
  const gone = new Promise((resolve) => child.once('exit', resolve));
  child.kill('SIGTERM');
  const hard = setTimeout(() => child.kill('SIGKILL'), kindMs);
  await gone;
  clearTimeout(hard);
}

/** The machine's environment without what would lead our processes astray. */
function cleanEnvironment(): NodeJS.ProcessEnv {
  return Object.fromEntries(
    Object.entries(process.env).filter(([name]) => name !== 'NODE_OPTIONS' && !name.startsWith('DARTLOOP_')),
  );
}

/** Once it has run for so long, a death is a new trouble. */
const STEADY_MS = 60_000;
const LONGEST_PAUSE_MS = 60_000;

/** A child that is brought back when it dies. */
export interface Kept {
  /** The one that runs now, or ran last. */
  readonly child: Child;
  stop(): Promise<void>;
}

/**
 * Starts a child, and starts it again when it ends by itself: after a second, two, four … a minute, so that
 * one that cannot run does not take the machine.
 */
export async function keepRunning(
  name: string,
  start: () => Promise<Child>,
  say: (words: string) => void,
  /** Waits for so many ms. */
  pause: (ms: number) => Promise<unknown> = sleep,
): Promise<Kept> {
  let isOver = false;
  let fails = 0;
  let child = await start();
  const watch = () => {
    const since = Date.now();
    child.process.once('exit', (code, signal) => {
      if (isOver) return;
      fails = Date.now() - since > STEADY_MS ? 1 : fails + 1;
      say(`${name} has ended by itself (${signal ?? code}) and is brought back`);
      void bringBack();
    });
  };
  const bringBack = async (): Promise<void> => {
    while (!isOver) {
      await pause(Math.min(LONGEST_PAUSE_MS, 1_000 * 2 ** (fails - 1)));
      if (isOver) return;
      try {
        const next = await start();
        if (isOver) return await next.stop();
        child = next;
        say(`${name} runs again`);
        return watch();
      } catch (error) {
        fails++;
        say(`${name} could not be brought back yet: ${(error as Error).message}`);
      }
    }
  };
  watch();
  return {
    get child() {
      return child;
    },
    async stop() {
      isOver = true;
      await child.stop();
    },
  };
}
