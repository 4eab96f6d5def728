import { spawnSync } from 'node:child_process';
import { existsSync, mkdirSync, readdirSync, writeFileSync } from 'node:fs';
import { createServer } from 'node:net';
import { join } from 'node:path';

/** What was given cannot be used: printed as it is, and the command ends with status 2. */
export class Unusable extends Error {}

/** A reason to stop that is the user's to settle: printed as it is, without a stack. */
export class Stop extends Error {}

export const isRoot = () => process.getuid?.() === 0;

/** The folder of the newest PostgreSQL server programs that Debian has installed, or null. */
export function postgresPrograms(): string | null {
  const base = '/usr/lib/postgresql';
  const versions = existsSync(base)
    ? readdirSync(base).filter((version) => existsSync(join(base, version, 'bin', 'postgres')))
    : [];
  const newest = versions.sort((a, b) => Number(b) - Number(a))[0];
  return newest ? join(base, newest, 'bin') : null;
}

/**
 * Debian's Chromium: the one without windows, which takes a third less of the machine, where it is
 * installed.
 */
export function chromium(): string | null {
  return ['/usr/bin/chromium-headless-shell', '/usr/bin/chromium'].find((path) => existsSync(path)) ?? null;
}

export const PGBOUNCER = '/usr/sbin/pgbouncer';

/** Installs the Debian packages that are missing; an ordinary user is told the one line to run. */
export function needPackages(
  wanted: { browser: boolean; pooler?: boolean },
  say: (words: string) => void,
): void {
  const missing = [
    ...(postgresPrograms() ? [] : ['postgresql']),
    ...(wanted.browser && !chromium() ? ['chromium-headless-shell'] : []),
    ...(wanted.pooler && !existsSync(PGBOUNCER) ? ['pgbouncer'] : []),
  ];
  if (missing.length === 0) return;
  const line = `apt-get install -y --no-install-recommends ${missing.join(' ')}`;
  if (!isRoot())
    throw new Stop(
      `Debian's ${missing.join(' and ')} ${missing.length === 1 ? 'is' : 'are'} missing. Run this once, then try again:\n\n  sudo ${line}\n`,
    );
  say(`installing Debian's ${missing.join(' and ')}`);
  // Only the programs are wanted; Debian's own cluster would be one more server on this machine.
  const common = '/etc/postgresql-common';
  if (missing.includes('postgresql') && !existsSync(join(common, 'createcluster.conf'))) {
    mkdirSync(common, { recursive: true });
    writeFileSync(join(common, 'createcluster.conf'), 'create_main_cluster = false\n');
  }
  const apt = (...args: string[]) =>
    spawnSync('apt-get', args, {
      env: { ...process.env, DEBIAN_FRONTEND: 'noninteractive' },
      encoding: 'utf8',
    });
  apt('update');
  const installed = apt(
    'install',
    '-y',
    '--no-install-recommends',
    '-o',
    'Dpkg::Options::=--force-confold',
    ...missing,
  );
  if (installed.status !== 0)
    throw new Stop(
      `Debian's packages could not be installed. apt-get says:\n${(installed.stderr || installed.stdout).slice(-2_000)}`,
    );
}

/**
 * Ports that outgoing connections are not given by themselves: below the range that Linux takes those from.
 */
const OWN_PORTS = { from: 20_000, to: 32_000 };

/** A port that is ours from the moment it was chosen until whoever is to listen there is started. */
export interface TakenPort {
  port: number;
  /** Lets go of it, just before it is listened at. */
  release(): Promise<void>;
}

/**
 * Takes the first port from `wished` on that nothing listens at on loopback; any one when `wished` is 0. It
 * is held meanwhile, so that nobody else takes it while the world is loaded; and it is none of those that
 * connections are given, as one of those may be taken by somebody who merely knocks at it.
 */
export async function takePort(wished: number): Promise<TakenPort> {
  const first = wished || OWN_PORTS.from + Math.floor(Math.random() * (OWN_PORTS.to - OWN_PORTS.from - 200));
  for (let port = first; port < first + 200; port++) {
    const holder = createServer((socket) => socket.destroy());
    const isOurs = await new Promise<boolean>((resolve) => {
      holder.once('error', () => resolve(false));
      holder.listen(port, '127.0.0.1', () => resolve(true));
    });
    // Closing what is closed already is no error here.
    if (isOurs) return { port, release: () => new Promise((resolve) => holder.close(() => resolve())) };
  }
  throw new Stop(`No free port was found between ${first} and ${first + 200}.`);
}

/** The same for whoever listens there at once. */
export async function freePort(wished: number): Promise<number> {
  const taken = await takePort(wished);
  await taken.release();
  return taken.port;
}

export function isAlive(pid: number): boolean {
  try {
    process.kill(pid, 0);
    return true;
  } catch (error) {
    return (error as NodeJS.ErrnoException).code === 'EPERM';
  }
}

export const sleep = (ms: number) => new Promise<void>((resolve) => setTimeout(resolve, ms));
