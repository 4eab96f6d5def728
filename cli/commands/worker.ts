import { existsSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { buildServers } from '../build';
import { startChild } from '../children';
import { Stop, isAlive } from '../machine';
import { DATA } from '../places';
import { endSignal } from './demo';

/** `./dartloop worker`: one more process of the message path, sharing the running demo's database. */
export async function worker(): Promise<void> {
  const note = join(DATA, 'demo.running');
  const running = existsSync(note)
    ? (JSON.parse(readFileSync(note, 'utf8')) as { pid: number; environment?: Record<string, string> })
    : null;
  if (!running?.environment || !isAlive(running.pid))
    throw new Stop('No demo is running here. Start ./dartloop demo first; a worker shares its database.');
  const { server } = await buildServers();
  const child = await startChild(
    server,
    ['worker'],
    running.environment,
    join(DATA, 'demo', `worker-${process.pid}.log`),
  );
  console.log(
    'One more worker takes part in the message path. Ctrl+C ends it; what it had begun is taken over by the others.',
  );
  await Promise.race([endSignal(), new Promise((resolve) => child.process.once('exit', resolve))]);
  await child.stop();
}
