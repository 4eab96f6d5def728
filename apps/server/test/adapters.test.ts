import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { CHANNELS } from '@dart-loop/core';
import type { Adapter, OpenLine, Sent } from '../src/channels/adapter';
import { smsAdapter, smsSignature } from '../src/channels/sms';
import { telegramAdapter } from '../src/channels/telegram';

/** A platform that answers what the test says, and remembers what it was asked. */
let platform: Server;
let address: string;
let answer: { status: number; headers?: Record<string, string>; body: string };
const asked: { url: string; headers: Record<string, unknown>; body: unknown }[] = [];
beforeAll(async () => {
  platform = createServer((request, response) => {
    let body = '';
    request.on('data', (piece) => (body += piece));
    request.on('end', () => {
      asked.push({ url: request.url!, headers: request.headers, body: JSON.parse(body) });
      response.writeHead(answer.status, answer.headers).end(answer.body);
    });
  });
  await new Promise<void>((resolve) => platform.listen(0, '127.0.0.1', resolve));
  address = `http://127.0.0.1:${(platform.address() as AddressInfo).port}`;
});
afterAll(() => {
  platform.closeAllConnections();
  platform.close();
});
beforeEach(() => void asked.splice(0));

const hookRequest = (body: string, headers: Record<string, string> = {}) => ({
  header: (name: string) => headers[name],
  body: Buffer.from(body),
});
const line = (channel: 'telegram' | 'sms'): OpenLine => ({
  clientId: 1,
  id: 1,
  key: channel,
  name: 'x',
  channel,
  account: { number: '+447700900144' },
  secrets: { token: '7001200301:abc', key: 'k', signing: 's' },
  hookToken: 't',
  caps: { perDay: null, perPerson: null },
  timeZone: 'Europe/London',
  quiet: {},
});

describe('Telegram', () => {
  const telegram = (): Adapter => telegramAdapter(address, Buffer.alloc(32));
  const from = {
    id: 61,
    is_bot: false,
    first_name: 'Mira',
    last_name: 'Leask',
    username: 'mira',
    language_code: 'en',
  };
  const chat = { id: 61, type: 'private' };
  const read = (update: object) =>
    telegram().read(hookRequest(JSON.stringify({ update_id: 9, ...update })), line('telegram'));

  test('a tap is acknowledged afterwards, so that its button stops turning', async () => {
    answer = { status: 200, body: '{"ok":true,"result":true}' };
    const reading = read({
      callback_query: { id: '77', from, data: 'other', message: { message_id: 5, date: 1, chat } },
    });
    expect(reading.received[0]!.incoming).toEqual({ kind: 'other', what: 'button of another program' });
    for (const task of reading.afterwards!) await task();
    expect(asked).toMatchObject([
      { url: '/bot7001200301:abc/answerCallbackQuery', body: { callback_query_id: '77' } },
    ]);
  });
  test('its secret is compared whole', () => {
    const adapter = telegram();
    expect(
      adapter.verify(hookRequest('{}', { 'x-telegram-bot-api-secret-token': '' }), line('telegram')),
    ).toBe(false);
  });

  const send = (): Promise<Sent> =>
    telegram().send(
      { channel: 'telegram', text: 'Alerts?', taps: [{ label: 'Yes', ref: 'c' }] },
      '61',
      line('telegram'),
      'key',
      null,
    );
  test('a message goes out in Telegram’s format', async () => {
    answer = { status: 200, body: '{"ok":true,"result":{"message_id":12}}' };
    expect(await send()).toEqual({ kind: 'sent', providerId: '12' });
    expect(asked[0]!.body).toEqual({
      chat_id: 61,
      text: 'Alerts?',
      reply_markup: { inline_keyboard: [[{ text: 'Yes', callback_data: 'c' }]] },
    });
  });
  test('a picture goes out with its caption, a link as a button, and typing is shown', async () => {
    answer = { status: 200, body: '{"ok":true,"result":{"message_id":12}}' };
    const [message] = CHANNELS.telegram.render({
      text: 'The new timetable.',
      choices: [],
      media: { what: 'image', address: 'https://saltmarshferries.example/timetable.png' },
      link: { label: 'Book', address: 'https://saltmarshferries.example/book' },
      typing: 2,
    });
    await telegram().send(message!, '61', line('telegram'), 'key', null);
    await telegram().typing!('61', line('telegram'));
    expect(asked.map((each) => [each.url.split('/').at(-1), each.body])).toEqual([
      [
        'sendPhoto',
        {
          chat_id: 61,
          photo: 'https://saltmarshferries.example/timetable.png',
          caption: 'The new timetable.',
          reply_markup: {
            inline_keyboard: [[{ text: 'Book', url: 'https://saltmarshferries.example/book' }]],
          },
        },
      ],
      ['sendChatAction', { chat_id: 61, action: 'typing' }],
    ]);
  });
  test.each([
    [
      401,
      '{"ok":false,"error_code":401,"description":"Unauthorized"}',
      { kind: 'again', holds: 'line', lineFails: true, failure: { code: '401' } },
    ],
    [
      429,
      '{"ok":false,"error_code":429,"description":"Too Many Requests","parameters":{"retry_after":7}}',
      { kind: 'again', holds: 'line', lineFails: false, afterMs: 7_000 },
    ],
    [
      403,
      '{"ok":false,"error_code":403,"description":"Forbidden: bot was blocked by the user"}',
      { kind: 'failed', failure: { code: '403' } },
    ],
    [
      400,
      '{"ok":false,"error_code":400,"description":"Bad Request: chat not found"}',
      { kind: 'failed', failure: { code: '400' } },
    ],
    [502, '<html>', { kind: 'again', lineFails: true, failure: { code: '502' } }],
    [200, '<html>', { kind: 'again', lineFails: true, failure: { code: 'unreadable' } }],
  ])('%d %s', async (status, body, expected) => {
    answer = { status, body };
    expect(await send()).toMatchObject(expected);
  });
  test('nobody there is a failing line, not a thrown error', async () => {
    const silent = telegramAdapter('http://127.0.0.1:9', Buffer.alloc(32));
    expect(
      await silent.send({ channel: 'telegram', text: 'x', taps: [] }, '61', line('telegram'), 'key', null),
    ).toMatchObject({
      kind: 'again',
      lineFails: true,
      failure: { code: 'silence' },
    });
  });
});

describe('SMS', () => {
  const sms = () => smsAdapter(address);
  const form = (fields: Record<string, string>) =>
    new URLSearchParams({
      Id: 'a1',
      From: '+447700900201',
      To: '+447700900144',
      Body: 'sailings',
      MediaCount: '0',
      SentAt: '2026-11-24T09:00:00.000Z',
      ...fields,
    }).toString();
  test('the signature is over the raw body', () => {
    const body = form({});
    expect(sms().verify(hookRequest(body, { 'x-signature-256': smsSignature('s', body) }), line('sms'))).toBe(
      true,
    );
    expect(
      sms().verify(hookRequest(`${body}&x=1`, { 'x-signature-256': smsSignature('s', body) }), line('sms')),
    ).toBe(false);
    expect(sms().verify(hookRequest(body), line('sms'))).toBe(false);
  });

  const send = (): Promise<Sent> =>
    sms().send(
      { channel: 'sms', text: 'Hello', taps: [], parts: 1 },
      '+447700900201',
      line('sms'),
      'message-id',
      null,
    );
  test('a message goes out with its id as the idempotency key', async () => {
    answer = { status: 202, body: '{"id":"g1"}' };
    expect(await send()).toEqual({ kind: 'sent', providerId: 'g1' });
    expect(asked[0]).toMatchObject({
      url: '/messages',
      headers: { authorization: 'Bearer k', 'idempotency-key': 'message-id' },
      body: { from: '+447700900144', to: '+447700900201', body: 'Hello' },
    });
  });
  test.each([
    [
      401,
      {},
      '{"error":{"code":"unauthorized","message":"no"}}',
      { kind: 'again', lineFails: true, failure: { code: 'unauthorized' } },
    ],
    [
      429,
      { 'retry-after': '3' },
      '{"error":{"code":"rate","message":"slow down"}}',
      { kind: 'again', lineFails: false, afterMs: 3_000 },
    ],
    [
      403,
      {},
      '{"error":{"code":"opted_out","message":"no"}}',
      { kind: 'failed', failure: { code: 'opted_out' } },
    ],
    [
      400,
      {},
      '{"error":{"code":"invalid_number","message":"no"}}',
      { kind: 'failed', failure: { code: 'invalid_number' } },
    ],
    [500, {}, 'oh', { kind: 'again', lineFails: true, failure: { code: '500' } }],
    [200, {}, 'oh', { kind: 'again', lineFails: true, failure: { code: 'unreadable' } }],
  ])('%d %j %s', async (status, headers, body, expected) => {
    answer = { status, headers, body };
    expect(await send()).toMatchObject(expected);
  });
});
