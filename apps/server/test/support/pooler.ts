import { spawn, type ChildProcess } from 'node:child_process';
import { chmodSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { connect } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { PGBOUNCER, freePort, isRoot } from '../../../../cli/machine';

/** Debian's pgbouncer before the databases of the tests' cluster. */
export class Pooler {
  private constructor(
    private readonly child: ChildProcess,
    private readonly port: number,
    private readonly folder: string,
  ) {}

  /** `url`: any address of the cluster's for the role that the pooler signs in as. */
  static async start(url: string, mode: 'session' | 'transaction'): Promise<Pooler> {
    const { hostname, port, username, password } = new URL(url);
    const own = await freePort(0);
    const folder = mkdtempSync(join(tmpdir(), 'dart-loop-pooler-'));
    chmodSync(folder, 0o755);
    writeFileSync(join(folder, 'users.txt'), `"${username}" "${decodeURIComponent(password)}"\n`);
    writeFileSync(
      join(folder, 'pooler.ini'),
      `[databases]
* = host=${hostname} port=${port}
[pgbouncer]
listen_addr = 127.0.0.1
listen_port = ${own}
unix_socket_dir =
auth_type = scram-sha-256
auth_file = ${join(folder, 'users.txt')}
pool_mode = ${mode}
default_pool_size = ${mode === 'session' ? 24 : 4}
max_client_conn = 100
`,
    );
    const program = [PGBOUNCER, '-q', join(folder, 'pooler.ini')];
    // It does not run as root.
    const [name, ...args] = isRoot()
      ? ['setpriv', '--reuid=postgres', '--regid=postgres', '--clear-groups', ...program]
      : program;
    const child = spawn(name!, args, { stdio: ['ignore', 'ignore', 'pipe'] });
    let said = '';
    child.stderr!.on('data', (words: Buffer) => (said += words.toString()));
    for (let tries = 0; ; tries++) {
      if (child.exitCode !== null || tries === 200) throw new Error(`pgbouncer does not start: ${said}`);
      if (await opens(own)) return new Pooler(child, own, folder);
    }
  }

  /** The same address by way of the pooler. */
  before = (url: string): string => {
    const address = new URL(url);
    address.hostname = '127.0.0.1';
    address.port = String(this.port);
    return address.href;
  };

  stop(): Promise<void> {
    return new Promise((resolve) => {
      this.child.once('exit', () => {
        rmSync(this.folder, { recursive: true, force: true });
        resolve();
      });
      this.child.kill('SIGTERM');
    });
  }
}

/** Whether somebody listens at a port; waits a moment where nobody does. */
function opens(port: number): Promise<boolean> {
  return new Promise((resolve) => {
    const socket = connect(port, '127.0.0.1', () => {
      socket.end();
      resolve(true);
    });
    socket.on('error', () => setTimeout(() => resolve(false), 50));
  });
}
