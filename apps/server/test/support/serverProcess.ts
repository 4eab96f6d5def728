import { fork, type ChildProcess } from 'node:child_process';
import { openSync } from 'node:fs';
import { join } from 'node:path';
import type { FaultPoint } from '../../src/platform/fault';
import { cluster, type Stage } from './stage';
import { demoSignIns } from '../../../../cli/demo/world';

/**
 * The bundled server in a process of its own, at the address that the stage's server had, so that it can be
 * killed and started again.
 */
export class ServerProcess {
  child: ChildProcess | null = null;
  constructor(
    private readonly stage: Stage,
    private readonly more: Record<string, string> = {},
    /** `worker`: the message path alone. */
    private readonly args: string[] = [],
  ) {}

  async start(): Promise<void> {
    const log = openSync(join(cluster().folder, 'server-process.log'), 'a');
    const { databases, standinsAddress, config } = this.stage;
    const child = fork(cluster().server, this.args, {
      stdio: ['ignore', log, log, 'ipc'],
      env: {
        PATH: process.env.PATH,
        DARTLOOP_APP_DATABASE: databases.app,
        DARTLOOP_LANE_DATABASE: databases.lane,
        DARTLOOP_KEY: config.key.toString('hex'),
        DARTLOOP_PORT: new URL(this.stage.server.address).port,
        DARTLOOP_ADDRESS: this.stage.server.address,
        DARTLOOP_GRAPH: `${standinsAddress}/graph`,
        DARTLOOP_TELEGRAM: standinsAddress,
        DARTLOOP_SMS_GATEWAY: `${standinsAddress}/sms`,
        DARTLOOP_STANDINS: standinsAddress,
        DARTLOOP_DEMO_SIGN_INS: JSON.stringify(demoSignIns()),
        DARTLOOP_LOG: 'warn',
        ...this.more,
      },
    });
    this.child = child;
    await new Promise((resolve, reject) => {
      child.once('message', resolve);
      child.once('exit', () => reject(new Error('the server ended before it was ready')));
    });
  }

  /** Has it kill itself at a numbered point from here on. */
  async arm(fault: FaultPoint): Promise<void> {
    const heard = new Promise((resolve) => this.child!.once('message', resolve));
    this.child!.send({ fault });
    await heard;
  }

  /** Whether the very process that was started is still there. */
  get isThere(): boolean {
    return this.child !== null && this.child.exitCode === null && this.child.signalCode === null;
  }

  /** Resolves with the signal once it is gone. */
  gone(): Promise<NodeJS.Signals | null> {
    const { child } = this;
    return child && this.isThere
      ? new Promise((resolve) => child.once('exit', (_code, signal) => resolve(signal)))
      : Promise.resolve(child?.signalCode ?? null);
  }

  async kill(): Promise<void> {
    const ended = this.gone();
    this.child?.kill('SIGKILL');
    await ended;
  }
}
