import { existsSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { removeCluster } from '../cluster';
import { Stop, isAlive } from '../machine';
import { DATA } from '../places';

/** `./dartloop reset`: the next demo begins from nothing. */
export async function reset(): Promise<void> {
  const note = join(DATA, 'demo.running');
  if (existsSync(note) && isAlive((JSON.parse(readFileSync(note, 'utf8')) as { pid: number }).pid))
    throw new Stop('The demo is running. End it with Ctrl+C first.');
  removeCluster(join(DATA, 'demo'));
  console.log(
    'The demo is forgotten: its database, its stand-ins and its logs. ./dartloop demo makes them anew.',
  );
}
