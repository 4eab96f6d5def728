import { createHmac } from 'node:crypto';
import { join } from 'node:path';
import { firstRunCode } from '../../apps/server/src/accounts/firstRun';
import { Keyring } from '../../apps/server/src/platform/keyring';
import { buildServers, buildWeb } from '../build';
import { keepRunning, startChild } from '../children';
import { environmentOf, isUnfounded, noteRunning, openInstallation, runningThere } from '../installation';
import { Stop } from '../machine';
import { readSettings } from '../settings';
import { keepStandins } from '../standins';
import { endSignal } from './demo';

/**
 * `./dartloop start`: an agency's own installation, until it is told to end: the database brought up to date,
 * the server, and as many workers as the settings say. A process that dies is brought back.
 */
export async function start(args: string[]): Promise<void> {
  if (args.length > 0) throw new Stop('start takes no arguments; what it needs stands in dartloop.env.');
  const settings = readSettings();
  const already = runningThere(settings);
  if (already) throw new Stop(`Dart Loop runs already from ${settings.folder} (process ${already.pid}).`);
  const say = (words: string) => console.log(words);
  const ended = endSignal();
  const started: { stop(): Promise<void> }[] = [];
  let forget = () => undefined as void;
  try {
    say(
      settings.database
        ? 'Database: yours, brought up to date'
        : 'Database: a private one, brought up to date',
    );
    const installation = await openInstallation(settings, say);
    started.push(installation);
    const built = await buildServers();
    const web = await buildWeb(say);
    const standins = settings.testPhone
      ? await keepStandins(built.standins, settings.folder, say, standinSecret(installation.key))
      : null;
    if (standins) started.push(standins);
    const environment = environmentOf(settings, installation, {
      threads: built.threads,
      web,
      standins: standins?.address,
    });
    forget = noteRunning(settings, installation);
    const process = (name: string, args: string[], number = 0) =>
      keepRunning(
        name === 'server' ? 'the server' : name,
        () =>
          startChild(
            built.server,
            args,
            ofProcess(environment, number),
            join(settings.folder, `${name}.log`),
          ),
        say,
      );
    started.push(await process('server', []));
    for (let number = 1; number <= settings.workers; number++)
      started.push(await process(`worker-${number}`, ['worker'], number));
    say(`Dart Loop is open at ${environment.DARTLOOP_ADDRESS}; logs are in ${settings.folder}`);
    if (await isUnfounded(installation.owner)) {
      const ring = await Keyring.open(installation.lane, Buffer.from(installation.key, 'hex'));
      say(`Nobody has an account yet. Found the agency there with the code ${firstRunCode(ring.root)}`);
    }
    await ended;
    say('Stopping …');
  } finally {
    for (const each of started.reverse()) await each.stop();
    forget();
  }
}

/** Of the installation's own key, so that nobody else can sign for its stand-ins. */
const standinSecret = (key: string) => createHmac('sha256', key).update('stand-ins').digest('hex');

/**
 * Each process tells its figures at a port of its own: the server at the one that was set, workers behind it.
 */
function ofProcess(environment: Record<string, string>, number: number): Record<string, string> {
  const port = Number(environment.DARTLOOP_METRICS_PORT);
  return port > 0 ? { ...environment, DARTLOOP_METRICS_PORT: String(port + number) } : environment;
}
