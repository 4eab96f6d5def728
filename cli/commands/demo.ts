import { rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import type { LineRow, Session } from '@dart-loop/contract';
import { Api } from '../api';
import { DATA } from '../places';
import { Stop, needPackages } from '../machine';
import { DEMO_NOTE, runningDemo } from '../running';
import { startStack } from '../stack';
import { demoSignIns } from '../demo/world';

const PORT = 4600;

/** `./dartloop demo`: everything, with the demo world, on one address, until Ctrl+C. */
export async function demo(): Promise<void> {
  const folder = join(DATA, 'demo');
  const running = runningDemo();
  if (running)
    throw new Stop(
      `The demo is running already${running.address ? ` at ${running.address}` : ''} (process ${running.pid}). End it with Ctrl+C there before you start another.`,
    );
  writeFileSync(DEMO_NOTE, JSON.stringify({ pid: process.pid, address: '' }), { mode: 0o600 });
  const start = Date.now();
  const step = (words: string) =>
    console.log(`${((Date.now() - start) / 1_000).toFixed(1).padStart(6)} s  ${words}`);
  const ended = endSignal();
  try {
    step('Packages');
    needPackages({ browser: false }, step);
    const starting = startStack({ folder, wishedPort: PORT, world: true, web: true, step });
    // Ctrl+C while it starts: what was started is stopped before we go.
    const first = await Promise.race([starting, ended.then(() => null)]);
    const stack = first ?? (await starting.catch(() => null));
    if (!stack) return;
    try {
      if (first) {
        await pointWebhooks(stack.address);
        writeFileSync(
          DEMO_NOTE,
          JSON.stringify({ pid: process.pid, address: stack.address, environment: stack.environment }),
          { mode: 0o600 },
        );
        const signIns = demoSignIns();
        const width = Math.max(...signIns.map(({ email }) => email.length));
        console.log(
          `\nDart Loop is open at ${stack.address}\n\nSign in with one tap, or with the password ${signIns[0]!.password}:`,
        );
        for (const account of signIns)
          console.log(`  ${account.role.padEnd(9)} ${account.email.padEnd(width)}  ${account.name}`);
        console.log(`\nThe test phone is under More. Logs are in .data/demo. Ctrl+C ends everything.`);
        await ended;
      }
      console.log('\nStopping …');
    } finally {
      await stack.stop();
    }
  } finally {
    rmSync(DEMO_NOTE, { force: true });
  }
}

/**
 * The address may be another than last time: every line's webhook is pointed here again, as its test does.
 */
async function pointWebhooks(address: string): Promise<void> {
  const api = await Api.signIn(address, 'owner');
  const { clients } = await api.get<Session>('/session');
  for (const client of clients)
    for (const line of await api.get<LineRow[]>(`/clients/${client.slug}/lines`))
      await api.post(`/clients/${client.slug}/lines/${line.id}/test`, {});
}

/** Resolves at Ctrl+C or a kind kill. */
export function endSignal(): Promise<void> {
  return new Promise((resolve) => {
    for (const signal of ['SIGINT', 'SIGTERM', 'SIGHUP'] as const) process.on(signal, () => resolve());
  });
}
