import { fork, type ChildProcess } from 'node:child_process';
import { openSync } from 'node:fs';

export interface Child {
  /** What it said it listens at, where it does. */
  address: string;
  process: ChildProcess;
  stop(): Promise<void>;
}

/**
 * Starts one of our processes and waits for it to say that it is ready. It ends by itself when this process is gone
 * (its channel closes), and at `stop`, kindly first.
 */
export async function startChild(
  script: string,
  args: string[],
  environment: Record<string, string>,
  logFile: string,
  nodeArgs: string[] = [],
): Promise<Child> {
  const log = openSync(logFile, 'a');
  // In a session of its own: Ctrl+C reaches it through us, in the right order.
  const child = fork(script, args, {
    env: { ...cleanEnvironment(), ...environment },
    stdio: ['ignore', log, log, 'ipc'],
    detached: true,
    execArgv: ['--enable-source-maps', ...nodeArgs],
  });
  const address = await new Promise<string>((resolve, reject) => {
    child.once('message', (message) => resolve((message as { address: string | null }).address ?? ''));
    child.once('exit', (code, signal) => reject(new Error(`it ended before it was ready (${signal ?? code}); see ${logFile}`)));
    child.once('error', reject);
  });
  return { address, process: child, stop: () => stopChild(child) };
}

async function stopChild(child: ChildProcess): Promise<void> {
  if (child.exitCode !== null || child.signalCode !== null) return;
  const gone = new Promise((resolve) => child.once('exit', resolve));
  child.kill('SIGTERM');
  const hard = setTimeout(() => child.kill('SIGKILL'), 10_000);
  await gone;
  clearTimeout(hard);
}

/** The machine's environment without what would lead our processes astray. */
function cleanEnvironment(): NodeJS.ProcessEnv {
  return Object.fromEntries(Object.entries(process.env).filter(([name]) => name !== 'NODE_OPTIONS' && !name.startsWith('DARTLOOP_')));
}
