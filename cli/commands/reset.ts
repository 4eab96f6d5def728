import { join } from 'node:path';
import { removeCluster } from '../cluster';
import { Stop } from '../machine';
import { DATA } from '../places';
import { runningDemo } from '../running';

/** `./dartloop reset`: the next demo begins from nothing. */
export async function reset(): Promise<void> {
  if (runningDemo()) throw new Stop('The demo is running. End it with Ctrl+C first.');
  removeCluster(join(DATA, 'demo'));
  console.log(
    'The demo is forgotten: its database, its stand-ins and its logs. ./dartloop demo makes them anew.',
  );
}
