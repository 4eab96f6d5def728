import { randomBytes } from 'node:crypto';
import { existsSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { Keyring } from '../../apps/server/src/platform/keyring';
import { keepNewKey, openCluster } from '../cluster';
import { Stop, isAlive } from '../machine';
import { DATA } from '../places';

/**
 * `./dartloop key rotate`: seals every secret anew with a fresh key, while the demo's server runs or when it
 * does not.
 */
export async function key(args: string[]): Promise<void> {
  if (args[0] !== 'rotate' || args.length > 1)
    throw new Stop('Say what is to be done with the key: ./dartloop key rotate');
  const folder = join(DATA, 'demo');
  if (!existsSync(join(folder, 'keys.json')))
    throw new Stop('There is no key here yet; ./dartloop demo makes one.');
  const note = join(DATA, 'demo.running');
  const running = existsSync(note)
    ? (JSON.parse(readFileSync(note, 'utf8')) as { pid: number; environment?: Record<string, string> })
    : null;
  const environment = running && isAlive(running.pid) ? running.environment : undefined;
  if (running && isAlive(running.pid) && !environment)
    throw new Stop('The demo is just starting. Try again when it has said its address.');
  const cluster = environment ? null : await openCluster(folder);
  try {
    const database = environment?.DARTLOOP_LANE_DATABASE ?? cluster!.lane;
    const now = environment?.DARTLOOP_KEY ?? cluster!.key;
    const next = randomBytes(32);
    const ring = await Keyring.open(database, Buffer.from(now, 'hex'));
    const count = await ring.rotate(next);
    keepNewKey(folder, next.toString('hex'));
    console.log(`${count} ${count === 1 ? 'secret is' : 'secrets are'} sealed with a fresh key.`);
    console.log(
      environment
        ? 'The server goes on with the key it has and starts with the new one next time. The old one counts until the next rotation.'
        : 'The next start uses the new key. The old one counts until the next rotation.',
    );
  } finally {
    await cluster?.stop();
  }
}
