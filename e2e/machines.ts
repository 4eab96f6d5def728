import { join } from 'node:path';
import { startProxy } from '../apps/server/test/support/proxy';
import { buildServers } from '../cli/build';
import { startChild, type Child } from '../cli/children';
import { freePort } from '../cli/machine';
import type { Stack } from '../cli/stack';

/** So often one of the four processes is killed. */
const KILL_MS = 5_000;

/** Two servers and two workers in the place of a stack's one server. */
export interface Machines {
  /** How often one of them was killed so far. */
  readonly killed: number;
  stop(): Promise<void>;
}

/**
 * Puts two servers behind a proxy at the stack's address, and two workers beside them. Every five seconds one
 * of the four is killed, without any warning, and started again.
 */
export async function startMachines(stack: Stack, folder: string): Promise<Machines> {
  const { server } = await buildServers();
  const ports = [await freePort(0), await freePort(0)];
  await stack.stopServer();
  const starts = [
    ...ports.map((port) => () => start([], { DARTLOOP_PORT: String(port) })),
    ...[1, 2].map(() => () => start(['worker'], {})),
  ];
  function start(args: string[], more: Record<string, string>): Promise<Child> {
    return startChild(server, args, { ...stack.environment, ...more }, join(folder, 'server.log'));
  }
  const children: Child[] = [];
  for (const each of starts) children.push(await each());
  const proxy = await startProxy(Number(new URL(stack.address).port), ports);
  let killed = 0;
  let isOver = false;
  let timer: NodeJS.Timeout;
  let killing = Promise.resolve();
  const kill = async (): Promise<void> => {
    const at = killed % children.length;
    const child = children[at]!.process;
    const gone = new Promise((resolve) => child.once('exit', resolve));
    child.kill('SIGKILL');
    killed++;
    await gone;
    children[at] = await starts[at]!();
  };
  const next = () => {
    timer = setTimeout(() => {
      killing = kill().then(() => {
        if (!isOver) next();
      });
    }, KILL_MS);
  };
  next();
  return {
    get killed() {
      return killed;
    },
    async stop() {
      isOver = true;
      clearTimeout(timer);
      await killing;
      await proxy.stop();
      for (const child of children) await child.stop();
    },
  };
}
