import { spawn } from 'node:child_process';
import { join } from 'node:path';
import { context } from 'esbuild';
import { serverBundle } from '../build';
import { makeFonts } from '../webFiles';
import { freePort, needPackages } from '../machine';
import { DATA, ROOT } from '../places';
import { startStack } from '../stack';
import { endSignal } from './demo';

/**
 * `./dartloop dev`: the demo's world in a database of its own; edits of the server restart it, edits of the
 * web show at once.
 */
export async function dev(): Promise<void> {
  needPackages({ browser: false }, console.log);
  const folder = join(DATA, 'dev');
  await makeFonts(join(ROOT, 'apps/web'));
  const stack = await startStack({ folder, wishedPort: 4700, world: true, web: false, step: console.log });
  let restarting: Promise<void> = Promise.resolve();
  let first = true;
  const options = serverBundle();
  const watching = await context({
    ...options,
    plugins: [
      ...(options.plugins ?? []),
      {
        name: 'restart the server',
        setup(build) {
          build.onEnd((result) => {
            if (result.errors.length > 0 || first) {
              first = false;
              return;
            }
            restarting = restarting.then(async () => {
              await stack.restart();
              console.log('The server runs with your edit.');
            });
            restarting.catch((error: Error) => console.error(`The server did not start: ${error.message}`));
          });
        },
      },
    ],
  });
  await watching.watch();
  const port = await freePort(4710);
  const environment: NodeJS.ProcessEnv = {
    ...process.env,
    EXPO_OFFLINE: '1',
    EXPO_NO_TELEMETRY: '1',
    EXPO_NO_DEPENDENCY_VALIDATION: '1',
    BROWSER: 'none',
    DARTLOOP_BACKEND: stack.address,
  };
  delete environment.CI;
  const web = spawn(
    process.execPath,
    [join(ROOT, 'node_modules/expo/bin/cli'), 'start', '--web', '--offline', '--port', String(port)],
    {
      cwd: join(ROOT, 'apps/web'),
      stdio: ['ignore', 'inherit', 'inherit'],
      env: environment,
    },
  );
  console.log(
    `\nThe web app, as you edit it: http://localhost:${port}\nServer log: ${join(folder, 'server.log')}. Ctrl+C ends everything.\n`,
  );
  await Promise.race([endSignal(), new Promise((resolve) => web.once('exit', resolve))]);
  web.kill('SIGTERM');
  await watching.dispose();
  await restarting.catch(() => undefined);
  await stack.stop();
}
