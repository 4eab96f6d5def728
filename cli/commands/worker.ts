import { join } from 'node:path';
import { buildServers } from '../build';
import { keepRunning, startChild } from '../children';
import { environmentOf, openInstallation, runningThere } from '../installation';
import { Stop } from '../machine';
import { DATA } from '../places';
import { runningDemo } from '../running';
import { readSettings } from '../settings';
import { endSignal } from './demo';

/**
 * `./dartloop worker`: one more process of the message path: of the installation that the settings name, on
 * this machine or another; else of the demo that runs here.
 */
export async function worker(): Promise<void> {
  const { server, threads } = await buildServers();
  const { environment, folder } = await whereTo(threads);
  const child = await keepRunning(
    'the worker',
    () => startChild(server, ['worker'], environment, join(folder, `worker-${process.pid}.log`)),
    (words) => console.log(words),
  );
  console.log(
    'One more worker takes part in the message path. Ctrl+C ends it; what it had begun is taken over by the others.',
  );
  await endSignal();
  await child.stop();
}

async function whereTo(threads: string): Promise<{ environment: Record<string, string>; folder: string }> {
  const settings = readSettings();
  if (settings.database || runningThere(settings)) {
    const installation = await openInstallation(settings, (words) => console.log(words));
    return {
      environment: environmentOf(settings, installation, { threads, web: null }),
      folder: settings.folder,
    };
  }
  const running = runningDemo();
  if (!running?.environment)
    throw new Stop(
      'Nothing runs here that a worker could take part in. Start ./dartloop start or ./dartloop demo first, or name a database in dartloop.env.',
    );
  return { environment: running.environment, folder: join(DATA, 'demo') };
}
