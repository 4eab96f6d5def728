import { spawn, type ChildProcess } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { parse } from 'yaml';
import { freePort } from '../../../cli/machine';
import { ROOT } from '../../../cli/places';
import { smsAdapter } from '../src/channels/sms';
import type { Outgoing } from '@dart-loop/core';
import type { HookReading, OpenLine } from '../src/channels/adapter';

const NUMBER = '+447700900144';
const PERSON = '+447700900900';
const [KEY, SIGNING] = ['a-key-of-our-own-1', 'a-secret-of-our-own'];

let folder: string;
let bridge: ChildProcess;
let bridgeAddress: string;
/** What the provider was asked to send, and how it answers next. */
const sent: { sender: string; recipient: string; text: string }[] = [];
let carrierAnswers: { status: number; body: object; after?: string } | null = null;
/** What came to our webhook. */
const heard: { isOurs: boolean; reading: HookReading }[] = [];
let carrier: Server;
let webhook: Server;
const adapter = () => smsAdapter(bridgeAddress);
const line = {
  id: 1,
  clientId: 1,
  channel: 'sms',
  account: { number: NUMBER },
  secrets: { key: KEY, signing: SIGNING },
} as unknown as OpenLine;
const addressOf = (server: Server) => `http://127.0.0.1:${(server.address() as AddressInfo).port}`;

const listening = async (
  hear: (
    body: string,
    header: (name: string) => string | undefined,
  ) => [number, object, Record<string, string>?],
) => {
  const server = createServer((request, response) => {
    const parts: Buffer[] = [];
    request.on('data', (part: Buffer) => parts.push(part));
    request.on('end', () => {
      const header = (name: string) => request.headers[name] as string | undefined;
      const [status, said, headers = {}] = hear(Buffer.concat(parts).toString(), header);
      response
        .writeHead(status, { 'content-type': 'application/json', ...headers })
        .end(JSON.stringify(said));
    });
  }).listen(0, '127.0.0.1');
  await new Promise((resolve) => server.once('listening', resolve));
  return server;
};

beforeAll(async () => {
  folder = mkdtempSync(join(tmpdir(), 'bridge-'));
  carrier = await listening((body, header) => {
    if (header('x-api-key') !== 'theirs') return [401, {}];
    if (carrierAnswers) {
      const { status, body: said, after } = carrierAnswers;
      return after ? [status, said, { 'retry-after': after }] : [status, said];
    }
    sent.push(JSON.parse(body) as (typeof sent)[number]);
    return [200, { messageId: `c-${sent.length}` }];
  });
  webhook = await listening((body, header) => {
    const request = { header, body: Buffer.from(body) };
    heard.push({ isOurs: adapter().verify(request, line), reading: adapter().read(request, line) });
    return [200, {}];
  });
  const port = await freePort(0);
  bridgeAddress = `http://127.0.0.1:${port}`;
  bridge = spawn(process.execPath, [join(ROOT, 'docs/gateway-bridge.mjs')], {
    env: {
      BRIDGE_PORT: String(port),
      BRIDGE_KEY: KEY,
      BRIDGE_SIGNING: SIGNING,
      BRIDGE_STATE: join(folder, 'state.json'),
      CARRIER: addressOf(carrier),
      CARRIER_KEY: 'theirs',
    },
    stdio: ['ignore', 'pipe', 'inherit'],
  });
  await new Promise((resolve) => bridge.stdout!.once('data', resolve));
});
afterAll(async () => {
  const gone = new Promise((resolve) => bridge.once('exit', resolve));
  bridge.kill();
  await gone;
  for (const server of [carrier, webhook]) {
    server.closeAllConnections();
    server.close();
  }
  rmSync(folder, { recursive: true });
});

const send = (text: string, key: string) =>
  adapter().send({ channel: 'sms', text } as Outgoing, PERSON, line, key, null);
const tell = (path: string, body: object) =>
  fetch(`${bridgeAddress}${path}`, { method: 'POST', body: JSON.stringify(body) });

test('the bridge of the documentation connects a number, carries messages both ways, and tells what became of them', async () => {
  const typed = { number: '+44 7700 900144', key: KEY, signing: SIGNING };
  const connect = (more: object) => adapter().connect({ ...typed, ...more }, 'token', addressOf(webhook));
  expect(await connect({ key: 'a-key-of-somebody' })).toMatchObject({ ok: false, field: 'key' });
  expect(await connect({})).toMatchObject({ ok: true, account: { number: NUMBER } });
  expect(await adapter().test(line, addressOf(webhook))).toBeNull();

  expect(await send('Good morning.', 'one')).toEqual({ kind: 'sent', providerId: 'c-1' });
  // Asked for again after a crash of ours: answered as before, and sent no second time.
  expect(await send('Good morning.', 'one')).toEqual({ kind: 'sent', providerId: 'c-1' });
  expect(sent).toEqual([{ sender: NUMBER, recipient: PERSON, text: 'Good morning.' }]);

  const told = {
    messageId: 'p-1',
    sender: PERSON,
    recipient: NUMBER,
    text: 'Hello – ça va?',
    at: '2026-11-30T10:00:00Z',
  };
  expect((await tell('/carrier/incoming', told)).status).toBe(200);
  expect(
    (
      await tell('/carrier/reports', {
        messageId: 'c-1',
        sender: NUMBER,
        recipient: PERSON,
        state: 'arrived',
      })
    ).status,
  ).toBe(200);
  expect(heard.map(({ isOurs }) => isOurs)).toEqual([true, true]);
  expect(heard[0]!.reading.received).toMatchObject([
    {
      providerId: 'p-1',
      address: PERSON,
      at: Date.parse(told.at),
      incoming: { kind: 'text', text: told.text },
    },
  ]);
  expect(heard[1]!.reading.statuses).toMatchObject([{ status: 'delivered', address: PERSON, ids: ['c-1'] }]);
});

test('what the provider refuses is refused with its sentence; what is too fast waits; an unknown number is told again later', async () => {
  carrierAnswers = { status: 400, body: { reason: 'no_such_number', text: 'Nobody has that number.' } };
  expect(await send('x', 'two')).toMatchObject({ kind: 'failed', failure: { code: 'no_such_number' } });
  carrierAnswers = { status: 429, body: { reason: 'rate', text: 'Slower.' }, after: '3' };
  expect(await send('x', 'three')).toMatchObject({ failure: { code: '429' } });
  carrierAnswers = null;
  const told = {
    messageId: 'p-2',
    sender: PERSON,
    recipient: '+447700900999',
    text: 'x',
    at: '2026-11-30T10:00:00Z',
  };
  expect((await tell('/carrier/incoming', told)).status).toBe(404);
  await adapter().disconnect(line);
  expect((await tell('/carrier/incoming', { ...told, recipient: NUMBER })).status).toBe(404);
});

test('the OpenAPI document names the paths that the adapter calls, and what it reads', () => {
  const page = parse(readFileSync(join(ROOT, 'docs/gateway.openapi.yaml'), 'utf8')) as {
    paths: Record<string, unknown>;
    webhooks: Record<string, unknown>;
  };
  expect(Object.keys(page.paths)).toEqual(['/numbers', '/messages']);
  const source = readFileSync(join(ROOT, 'apps/server/src/channels/sms.ts'), 'utf8');
  const called = new Set([...source.matchAll(/'(\/[a-z]+)'/g)].map(([, path]) => path));
  expect([...called].sort()).toEqual(Object.keys(page.paths).sort());
  const read = new Set([...source.matchAll(/form\.get\('([A-Za-z0-9]+)'\)/g)].map(([, name]) => name!));
  const named = JSON.stringify(page.webhooks);
  expect([...read].filter((name) => !named.includes(`"${name}"`))).toEqual([]);
});
