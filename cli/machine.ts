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
  const versions = existsSync(base) ? readdirSync(base).filter((version) => existsSync(join(base, version, 'bin', 'postgres'))) : [];
  const newest = versions.sort((a, b) => Number(b) - Number(a))[0];
  return newest ? join(base, newest, 'bin') : null;
}

export function chromium(): string | null {
  return ['/usr/bin/chromium', '/usr/bin/chromium-browser'].find((path) => existsSync(path)) ?? null;
}

/** Installs the Debian packages that are missing; an ordinary user is told the one line to run. */
export function needPackages(wanted: { browser: boolean }, say: (words: string) => void): void {
  const missing = [...(postgresPrograms() ? [] : ['postgresql']), ...(wanted.browser && !chromium() ? ['chromium'] : [])];
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
    spawnSync('apt-get', args, { env: { ...process.env, DEBIAN_FRONTEND: 'noninteractive' }, encoding: 'utf8' });
  apt('update');
  const installed = apt('install', '-y', '--no-install-recommends', '-o', 'Dpkg::Options::=--force-confold', ...missing);
  if (installed.status !== 0)
    throw new Stop(`Debian's packages could not be installed. apt-get says:\n${(installed.stderr || installed.stdout).slice(-2_000)}`);
}

/** The first port from `wished` on that nothing listens at on loopback; any free one when `wished` is 0. */
export async function freePort(wished: number): Promise<number> {
  for (let port = wished; port < wished + 200; port++) {
    const free = await new Promise<number | null>((resolve) => {
      const server = createServer();
      server.once('error', () => resolve(null));
      server.listen(port, '127.0.0.1', () => {
        const address = server.address();
        server.close(() => resolve(typeof address === 'object' && address ? address.port : null));
      });
    });
    if (free !== null) return free;
  }
  throw new Stop(`No free port was found between ${wished} and ${wished + 200}.`);
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
