import { spawn } from 'node:child_process';
import { existsSync, mkdirSync, mkdtempSync, readFileSync, renameSync, rmSync, writeFileSync } from 'node:fs';
import { isAbsolute, join } from 'node:path';
import { passwordsFrom, prepareRoles } from '../../apps/server/src/platform/db/roles';
import { migrate } from '../../apps/server/src/platform/db/migrate';
import { openCluster } from '../cluster';
import { ask } from '../database';
import { openInstallation, runningThere } from '../installation';
import { Stop, postgresPrograms } from '../machine';
import { caller } from '../places';
import { readSettings, type Settings } from '../settings';

const DUMP = 'database.dump';
const FILES = 'files';
const ABOUT = 'about.json';

/**
 * `./dartloop backup [FILE]`: everything of an installation in one file, as it stood at one moment, also
 * while it runs. The key that opens its secrets is not in it.
 */
export async function backup(args: string[]): Promise<void> {
  if (args.length > 1) throw new Stop('backup takes one name at most: the file to be written.');
  const stamp = new Date().toISOString().slice(0, 16).replace(/[T:]/g, '-');
  const to = named(args[0] ?? `dartloop-${stamp}.tar`);
  if (existsSync(to)) throw new Stop(`${to} is there already; name another file.`);
  const settings = readSettings();
  await writeBackup(settings, to);
  console.log(
    `Everything is in ${to}, but for the key (DARTLOOP_KEY, or ${join(settings.folder, 'keys.json')}): keep that elsewhere. Without it no secret in the backup can be read.`,
  );
}

/** Writes the backup whole or not at all. */
export async function writeBackup(settings: Settings, to: string): Promise<void> {
  const installation = await openInstallation(settings, () => undefined);
  mkdirSync(settings.folder, { recursive: true });
  const work = mkdtempSync(join(settings.folder, 'backup-'));
  try {
    await program('pg_dump', ['--format=custom', `--file=${join(work, DUMP)}`, installation.owner]);
    const migrations = await ask<{ name: string }>(
      installation.owner,
      'select name from migration order by name',
    );
    const about = { madeAt: new Date().toISOString(), migrations: migrations.map(({ name }) => name) };
    writeFileSync(join(work, ABOUT), JSON.stringify(about));
    const files = filesOf(settings);
    const more = existsSync(files) ? ['-C', join(files, '..'), FILES] : [];
    await run('tar', ['-cf', `${to}.part`, '-C', work, DUMP, ABOUT, ...more]);
    renameSync(`${to}.part`, to);
  } finally {
    rmSync(work, { recursive: true, force: true });
    rmSync(`${to}.part`, { force: true });
    await installation.stop();
  }
}

/** `./dartloop restore FILE`: a backup into an empty database; one with anything in it is left alone. */
export async function restore(args: string[]): Promise<void> {
  if (args.length !== 1) throw new Stop('Name the backup: ./dartloop restore FILE');
  const madeAt = await readBackup(readSettings(), named(args[0]!));
  console.log(
    `The backup of ${madeAt} is restored. Start with ./dartloop start and the key that belonged to it.`,
  );
}

/** Reads a backup into the database of the settings: all of it or nothing. Returns when it was made. */
export async function readBackup(settings: Settings, from: string): Promise<string> {
  if (!existsSync(from)) throw new Stop(`${from} is not there.`);
  if (runningThere(settings)) throw new Stop('Dart Loop runs from there. End it first.');
  mkdirSync(settings.folder, { recursive: true, mode: 0o700 });
  const work = mkdtempSync(join(settings.folder, 'restore-'));
  const { owner, stop } = await emptyDatabase(settings);
  try {
    await run('tar', ['-xf', from, '-C', work]);
    if (!existsSync(join(work, DUMP)) || !existsSync(join(work, ABOUT)))
      throw new Stop(`${from} is no backup of Dart Loop.`);
    const about = JSON.parse(readFileSync(join(work, ABOUT), 'utf8')) as { madeAt: string };
    await program('pg_restore', [
      '--single-transaction',
      '--exit-on-error',
      '--no-owner',
      `--dbname=${owner}`,
      join(work, DUMP),
    ]);
    // One of an earlier release is brought up to this one.
    await migrate(owner);
    const files = filesOf(settings);
    if (existsSync(join(work, FILES)) && !existsSync(files)) renameSync(join(work, FILES), files);
    return about.madeAt;
  } finally {
    rmSync(work, { recursive: true, force: true });
    await stop();
  }
}

/** A database with our roles and nothing else; throws where there is something in it. */
async function emptyDatabase(settings: Settings): Promise<{ owner: string; stop: () => Promise<void> }> {
  if (!settings.database) {
    const cluster = await openCluster(settings.folder, { empty: true });
    await stopIfFull(cluster.owner).catch(async (error: unknown) => {
      await cluster.stop();
      throw error;
    });
    return cluster;
  }
  await prepareRoles(settings.database, passwordsFrom(settings.database));
  await stopIfFull(settings.database);
  return { owner: settings.database, stop: () => Promise.resolve() };
}

async function stopIfFull(owner: string): Promise<void> {
  const tables = await ask(owner, "select from pg_tables where schemaname = 'public' limit 1");
  if (tables.length > 0)
    throw new Stop(
      'The database has tables in it already. A backup is restored into an empty one, so that nothing is overwritten.',
    );
}

const named = (file: string) => (isAbsolute(file) ? file : join(caller(), file));
const filesOf = (settings: Settings) => settings.server.DARTLOOP_FILES ?? join(settings.folder, FILES);

function program(name: string, args: string[]): Promise<void> {
  const programs = postgresPrograms();
  if (!programs) throw new Stop(`Debian’s PostgreSQL is missing; ${name} is one of its programs.`);
  return run(join(programs, name), args);
}

/** Runs a program to its end; what it complained of is said where it failed. */
function run(command: string, args: string[]): Promise<void> {
  return new Promise((resolve, reject) => {
    const child = spawn(command, args, { stdio: ['ignore', 'ignore', 'pipe'] });
    let complaint = '';
    child.stderr.on('data', (part: Buffer) => (complaint = (complaint + part.toString()).slice(-4_000)));
    child.once('error', reject);
    child.once('exit', (code) =>
      code === 0
        ? resolve()
        : reject(new Stop(`${command.split('/').at(-1)} did not succeed: ${complaint.trim()}`)),
    );
  });
}
