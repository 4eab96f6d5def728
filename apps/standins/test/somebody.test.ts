import type { Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { smsAccess } from '../src/sms';
import { makeStandins, type Standins } from '../src/standins';

/** Numbers kept for fiction: +44 7700 900 and three digits. */
const NUMBER = '+447700900144';
const TAKEN = Array.from({ length: 1_000 }, (_, at) => `+447700900${String(at).padStart(3, '0')}`);

let standins: Standins;
let server: Server;
beforeAll(async () => {
  standins = makeStandins();
  server = standins.app.listen(0, '127.0.0.1');
  await new Promise((resolve) => server.once('listening', resolve));
});
afterAll(() => new Promise((resolve) => server.close(resolve)));

async function ask<T>(path: string, body: object, headers: Record<string, string> = {}): Promise<T> {
  const response = await fetch(`http://127.0.0.1:${(server.address() as AddressInfo).port}${path}`, {
    method: 'POST',
    headers: { 'content-type': 'application/json', connection: 'close', ...headers },
    body: JSON.stringify(body),
  });
  return (await response.json()) as T;
}

test('somebody new is nobody who has written by any channel of numbers, and none of the lines', async () => {
  const { key } = smsAccess(NUMBER);
  await ask('/sms/numbers', { number: NUMBER, webhook: null }, { authorization: `Bearer ${key}` });
  const whatsapp = standins.graph.come('whatsapp', '106540011', '+44 7700 900146');
  for (const [at, number] of TAKEN.entries())
    if (at % 2 === 0) standins.graph.thread(whatsapp, number, 'Mira');
    else standins.sms.numbers.get(NUMBER)!.threads.set(number, { messages: [], delivery: Promise.resolve() });
  for (const [channel, line] of [
    ['sms', NUMBER],
    ['whatsapp', 'whatsapp:106540011'],
  ])
    for (let times = 0; times < 20; times++) {
      const { who } = await ask<{ who: string }>('/phone/somebody', { channel, line });
      expect(TAKEN).not.toContain(who);
    }
});

test('a line for trying out is on an account that nobody has', async () => {
  const { typed } = await ask<{ typed: Record<string, string> }>('/phone/line', {
    channel: 'sms',
    name: 'Tam',
  });
  expect(typed).toEqual({ number: expect.stringMatching(/^\+44/) as string, ...smsAccess(typed.number!) });
  expect(standins.sms.numbers.has(typed.number!)).toBe(false);
});
