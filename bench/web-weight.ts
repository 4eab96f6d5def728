import { createServer, type Server } from 'node:http';
import { existsSync, readFileSync, statSync } from 'node:fs';
import type { AddressInfo } from 'node:net';
import { extname, join } from 'node:path';
import { gzipSync } from 'node:zlib';
import { chromium } from '@playwright/test';
import { exportWeb } from '../cli/build';
import { chromium as browserPath } from '../cli/machine';
import { ROOT } from '../cli/places';
import { startStack } from '../cli/stack';
import { print } from './figures';
import { signInDemo } from '../cli/browser';

/**
 * The gzipped JavaScript that a page loads, beside that of an empty Expo Router app exported the same way.
 */
export async function webWeight(folder: string): Promise<void> {
  const empty = join(folder, 'empty-app');
  await exportWeb(join(ROOT, 'bench/empty-app'), empty);
  const server = await serve(empty);
  const emptyBytes = await weigh([
    { address: `http://127.0.0.1:${(server.address() as AddressInfo).port}/`, shows: 'Nothing' },
  ]);
  server.close();
  const stack = await startStack({ folder: join(folder, 'web'), wishedPort: 0, world: true, web: true });
  try {
    const signIn = async (context: import('@playwright/test').BrowserContext) =>
      signInDemo(context.request, 'builder', stack.address);
    const today = await weigh([{ address: `${stack.address}/`, shows: 'yesterday' }], signIn);
    print(
      'JavaScript of the first page (Today), gzipped kB',
      today / 1_000,
      `an empty Expo Router app ${(emptyBytes / 1_000).toFixed(0)}; ratio ${(today / emptyBytes).toFixed(2)}; reach 1.60`,
    );
    for (const screen of SCREENS) {
      const times = await onSlowPhone({ ...screen, address: stack.address + screen.address }, signIn);
      print(
        `${screen.name} on a slow phone, first and again, ms`,
        times.first,
        `again ${times.again.toFixed(0)}; reach 4000 and 1500`,
      );
    }
  } finally {
    await stack.stop();
  }
}

const openBrowser = () =>
  chromium.launch({
    executablePath: browserPath()!,
    args: ['--no-sandbox', '--disable-gpu', '--disable-background-networking'],
  });

/** A slow phone on a slow network: 1.6 Mbit/s, 150 ms, a quarter of the CPU. */
const NETWORK = { offline: false, latency: 150, downloadThroughput: 200_000, uploadThroughput: 93_750 };
const CPU_RATE = 4;
const SCREENS = [
  { name: 'Today', address: '/', shows: 'yesterday' },
  { name: 'Inbox', address: '/inbox', shows: 'Settled' },
  { name: 'People', address: '/saltmarsh-ferries/people', shows: 'Quiet for a month' },
  { name: 'Loops', address: '/saltmarsh-ferries/loops', shows: 'Sailing alerts' },
];

/** Milliseconds until what the screen shows stands there: with nothing kept, and once more with all of it. */
async function onSlowPhone(
  { address, shows }: { address: string; shows: string },
  before: (context: import('@playwright/test').BrowserContext) => Promise<void>,
): Promise<{ first: number; again: number }> {
  const browser = await openBrowser();
  try {
    const context = await browser.newContext({ viewport: { width: 390, height: 844 } });
    await before(context);
    const page = await context.newPage();
    const session = await context.newCDPSession(page);
    await session.send('Network.enable');
    await session.send('Network.emulateNetworkConditions', NETWORK);
    await session.send('Emulation.setCPUThrottlingRate', { rate: CPU_RATE });
    const stands = async () => {
      const start = performance.now();
      await page.goto(address, { waitUntil: 'commit' });
      await page.getByText(shows).first().waitFor();
      return performance.now() - start;
    };
    const first = await stands();
    await page.goto('about:blank');
    return { first, again: await stands() };
  } finally {
    await browser.close();
  }
}

async function weigh(
  pages: { address: string; shows: string }[],
  before?: (context: import('@playwright/test').BrowserContext) => Promise<void>,
): Promise<number> {
  const browser = await openBrowser();
  try {
    const context = await browser.newContext();
    await before?.(context);
    const page = await context.newPage();
    const bodies: Promise<Buffer>[] = [];
    page.on('response', (response) => {
      if (response.request().resourceType() === 'script') bodies.push(response.body());
    });
    for (const { address, shows } of pages) {
      await page.goto(address);
      await page.getByText(shows).first().waitFor();
      await page.waitForTimeout(1_000);
    }
    return (await Promise.all(bodies)).reduce((sum, body) => sum + gzipSync(body).length, 0);
  } finally {
    await browser.close();
  }
}

/** Files as they are, and the page for everything else. */
function serve(folder: string): Promise<Server> {
  const types: Record<string, string> = {
    '.js': 'text/javascript',
    '.html': 'text/html',
    '.css': 'text/css',
  };
  const server = createServer((request, response) => {
    const wished = join(folder, decodeURIComponent((request.url ?? '/').split('?')[0]!));
    const file =
      wished.startsWith(folder) && existsSync(wished) && statSync(wished).isFile()
        ? wished
        : join(folder, 'index.html');
    response
      .writeHead(200, { 'content-type': types[extname(file)] ?? 'application/octet-stream' })
      .end(readFileSync(file));
  });
  return new Promise((resolve) => server.listen(0, '127.0.0.1', () => resolve(server)));
}
