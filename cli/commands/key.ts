import { randomBytes } from 'node:crypto';
import { existsSync } from 'node:fs';
import { join } from 'node:path';
import { counted } from '@dart-loop/core/language/counted';
import { Keyring } from '../../apps/server/src/platform/keyring';
import { keepNewKey, openCluster } from '../cluster';
import { openInstallation, type Installation } from '../installation';
import { Stop } from '../machine';
import { DATA } from '../places';
import { runningDemo } from '../running';
import { readSettings } from '../settings';

/**
 * `./dartloop key rotate`: seals every secret anew with a fresh key, while servers run or when they do not:
 * of the installation that the settings name, else of the demo.
 */
export async function key(args: string[]): Promise<void> {
  if (args[0] !== 'rotate' || args.length > 1)
    throw new Stop('Say what is to be done with the key: ./dartloop key rotate');
  const settings = readSettings();
  const isLive = settings.file !== null || settings.database !== null || existsSync(settings.folder);
  const installation = isLive
    ? await openInstallation(settings, (words) => console.log(words))
    : await openDemo();
  const keptBySettings = isLive && settings.server.DARTLOOP_KEY !== undefined;
  try {
    const next = randomBytes(32);
    const ring = await Keyring.open(installation.lane, Buffer.from(installation.key, 'hex'));
    const count = await ring.rotate(next);
    if (!keptBySettings) keepNewKey(isLive ? settings.folder : DEMO, next.toString('hex'));
    console.log(`${counted(count, 'secret is', 'secrets are')} sealed with a fresh key.`);
    console.log(
      keptBySettings
        ? `Put this into the settings of every machine before its next start:\n\n  DARTLOOP_KEY=${next.toString('hex')}\n`
        : 'The next start uses the new key.',
    );
    console.log('Servers that run go on with the key they have. The old one counts until the next rotation.');
  } finally {
    await installation.stop();
  }
}

const DEMO = join(DATA, 'demo');

async function openDemo(): Promise<Pick<Installation, 'lane' | 'key' | 'stop'>> {
  if (!existsSync(join(DEMO, 'keys.json')))
    throw new Stop('There is no key here yet; ./dartloop start or ./dartloop demo makes one.');
  const running = runningDemo();
  if (!running) return openCluster(DEMO);
  if (!running.environment)
    throw new Stop('The demo is just starting. Try again when it has said its address.');
  return {
    lane: running.environment.DARTLOOP_LANE_DATABASE!,
    key: running.environment.DARTLOOP_KEY!,
    stop: () => Promise.resolve(),
  };
}
