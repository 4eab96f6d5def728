import { mkdirSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { NotStarted, readConfig } from '../apps/server/src/platform/config';
import { migrate } from '../apps/server/src/platform/db/migrate';
import { passwordsFrom, prepareRoles, urlOf } from '../apps/server/src/platform/db/roles';
import { openCluster } from './cluster';
import { ask } from './database';
import { Stop, needPackages } from './machine';
import { runningNote } from './running';
import type { Settings } from './settings';

/** The database of an agency's own installation, ready to be worked on. */
export interface Installation {
  owner: string;
  app: string;
  lane: string;
  /** The key that secrets are sealed with. */
  key: string;
  stop(): Promise<void>;
}

/** What a running `start` leaves for the other commands, readable by its user alone. */
interface Note {
  pid: number;
  owner: string;
  app: string;
  lane: string;
  key: string;
}
const noteOf = (settings: Settings) => join(settings.folder, 'running.json');

/** What runs in the folder now; null where nothing does. */
export const runningThere = (settings: Settings): Note | null => runningNote<Note>(noteOf(settings));

/** Says that this process runs the installation; the returned function takes it back. */
export function noteRunning(settings: Settings, { owner, app, lane, key }: Installation): () => void {
  const file = noteOf(settings);
  writeFileSync(file, JSON.stringify({ pid: process.pid, owner, app, lane, key } satisfies Note), {
    mode: 0o600,
  });
  return () => rmSync(file, { force: true });
}

/**
 * Opens the database: the operator's own, with our roles made in it, or the private cluster; either is
 * migrated to the newest state, under a lock. Where `start` runs on the private cluster, that one is used as
 * it stands.
 */
export async function openInstallation(
  settings: Settings,
  say: (words: string) => void,
): Promise<Installation> {
  mkdirSync(settings.folder, { recursive: true, mode: 0o700 });
  const stop = () => Promise.resolve();
  if (settings.database) {
    const owner = settings.database;
    try {
      const passwords = passwordsFrom(owner);
      await prepareRoles(owner, passwords);
      for (const name of await migrate(owner)) say(`migrated: ${name}`);
      return {
        owner,
        app: settings.server.DARTLOOP_APP_DATABASE ?? urlOf(owner, 'app', passwords.app),
        lane: settings.server.DARTLOOP_LANE_DATABASE ?? urlOf(owner, 'lane', passwords.lane),
        key: settings.server.DARTLOOP_KEY!,
        stop,
      };
    } catch (error) {
      throw new Stop(`The database cannot be used: ${databaseTrouble(error as Error)}`);
    }
  }
  const running = runningThere(settings);
  if (running) return { ...running, stop };
  needPackages({ browser: false }, say);
  const cluster = await openCluster(settings.folder);
  return {
    owner: cluster.owner,
    app: cluster.app,
    lane: cluster.lane,
    key: settings.server.DARTLOOP_KEY ?? cluster.key,
    stop: cluster.stop,
  };
}

/** PostgreSQL's own words, and what to do about the commonest of them. */
function databaseTrouble(error: Error & { code?: string }): string {
  const hint =
    {
      ECONNREFUSED: ' Nothing answers at that host and port.',
      ENOTFOUND: ' There is no host of that name.',
      '28P01': ' The password in DARTLOOP_DATABASE is not the owner’s.',
      '3D000': ' Make it first: create database … owner …;',
      '42501':
        ' The owner in DARTLOOP_DATABASE has to own the database and be allowed to make roles: alter role … createrole;',
    }[error.code ?? ''] ?? '';
  return `${error.message}.${hint}`;
}

/**
 * The environment that the server and the workers read; throws with every setting that is missing or wrong.
 */
export function environmentOf(
  settings: Settings,
  { app, lane, key }: Installation,
  built: { threads: string; web: string | null; standins?: string },
): Record<string, string> {
  const environment: Record<string, string> = {
    DARTLOOP_FILES: join(settings.folder, 'files'),
    DARTLOOP_PORT: '4600',
    ...settings.server,
    DARTLOOP_APP_DATABASE: app,
    DARTLOOP_LANE_DATABASE: lane,
    DARTLOOP_KEY: key,
    DARTLOOP_THREADS: built.threads,
    ...(built.web && { DARTLOOP_WEB: built.web }),
    ...(built.standins && { DARTLOOP_STANDINS: built.standins }),
  };
  try {
    const { address } = readConfig(environment);
    if (!address)
      throw new NotStarted(
        'DARTLOOP_ADDRESS is missing: the address that browsers and the platforms reach this server at, such as https://loop.example.org',
      );
  } catch (error) {
    throw error instanceof NotStarted ? new Stop(error.message) : error;
  }
  return environment;
}

/** Whether nobody has an account yet. */
export const isUnfounded = async (owner: string): Promise<boolean> =>
  (await ask(owner, 'select from account limit 1')).length === 0;
