import type { AddressInfo } from 'node:net';
import type { Server } from 'node:http';
import fc from 'fast-check';
import { CHANNELS, CHANNEL_KINDS, type ChannelKind, type Outgoing, type Tap } from '@dart-loop/core';
import { saids } from '../../../packages/core/test/saids';
import { times } from '../../../packages/core/test/thorough';
import { graphAccess } from '../../standins/src/graph/access';
import { makeStandins, type Standins } from '../../standins/src/standins';
import { smsAccess } from '../../standins/src/sms';
import { makeAdapters, type Adapters } from '../src/channels';
import type { OpenLine, Sent } from '../src/channels/adapter';

/** For each channel. */
const MESSAGES = times(2_000, 10_000);

/** The stand-ins refuse what the platforms would refuse, and what the core renders is never refused. */
let standins: Standins;
let server: Server;
let adapters: Adapters;
const BOT = '7001200309:AAE-limits_0123456789abcdefghijklmn';
const WHO: Record<ChannelKind, string> = {
  messenger: '24100',
  instagram: '17800',
  whatsapp: '+447700900400',
  telegram: '61009',
  sms: '+447700900401',
};
const access = {
  messenger: graphAccess('messenger', '9001'),
  instagram: graphAccess('instagram', '9002'),
  whatsapp: graphAccess('whatsapp', '9003'),
};
const LINES: Record<ChannelKind, Pick<OpenLine, 'account' | 'secrets'>> = {
  messenger: { account: { id: '9001' }, secrets: { token: access.messenger.token } },
  instagram: { account: { id: '9002' }, secrets: { token: access.instagram.token } },
  whatsapp: { account: { id: '9003' }, secrets: { token: access.whatsapp.token } },
  telegram: { account: { botId: '7001200309' }, secrets: { token: BOT } },
  sms: { account: { number: '+447700900199' }, secrets: { ...smsAccess('+447700900199') } },
};
const line = (channel: ChannelKind): OpenLine => ({
  clientId: 1,
  id: 1,
  key: channel,
  name: channel,
  channel,
  ...LINES[channel],
  hookToken: 't',
  caps: { perDay: null, perPerson: null },
  timeZone: 'Europe/London',
  quiet: {},
});
let count = 0;
const send = (message: Outgoing): Promise<Sent> =>
  adapters
    .newOn(message.channel)
    .send(message, WHO[message.channel], line(message.channel), `limits-${++count}`, null);

beforeAll(async () => {
  standins = makeStandins();
  standins.telegram.limits = standins.sms.limits = standins.graph.limits = false;
  standins.telegram.keep = standins.sms.keep = standins.graph.keep = false;
  standins.graph.reports = standins.sms.reports = false;
  server = standins.app.listen(0, '127.0.0.1');
  // Messages are made for longer than a connection is kept open by itself.
  server.keepAliveTimeout = 180_000;
  await new Promise((resolve) => server.once('listening', resolve));
  const address = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
  adapters = makeAdapters({
    standins: null,
    graph: `${address}/graph`,
    telegram: address,
    smsGateway: `${address}/sms`,
    key: Buffer.alloc(32),
  });
  // Accounts come into being when they are first asked; then somebody writes, and each window is open.
  for (const kind of ['messenger', 'instagram', 'whatsapp'] as const) {
    standins.graph.come(kind, LINES[kind].account.id!);
    // Nobody takes what they write: it is enough that they have.
    void standins.graph.act(`${kind}:${LINES[kind].account.id}`, WHO[kind], {
      do: 'write',
      name: 'Mira',
      text: 'hello',
    });
  }
  await adapters.newOn('telegram').test(line('telegram'), 'http://127.0.0.1:9/x');
  await adapters.newOn('sms').test(line('sms'), 'http://127.0.0.1:9/x');
  void standins.telegram.write('7001200309', WHO.telegram, 'Mira', 'hello');
});
afterAll(() => {
  server.closeAllConnections();
  server.close();
});

test.each(CHANNEL_KINDS)(
  'on %s thousands of generated messages are all taken',
  async (channel) => {
    const messages: Outgoing[] = [];
    for (let seed = 1; messages.length < MESSAGES; seed++)
      messages.push(
        ...fc.sample(saids, { numRuns: 1_000, seed }).flatMap((said) => CHANNELS[channel].render(said)),
      );
    const refused: string[] = [];
    let next = 0;
    await Promise.all(
      Array.from({ length: 24 }, async () => {
        for (let at = next++; at < MESSAGES; at = next++) {
          const sent = await send(messages[at]!);
          if (sent.kind !== 'sent')
            refused.push(`${sent.failure.reason} ${JSON.stringify(messages[at]).slice(0, 300)}`);
        }
      }),
    );
    expect(refused.slice(0, 5)).toEqual([]);
  },
  180_000,
);

const taps = (count: number, label = (at: number) => `Choice ${at}`): Tap[] =>
  Array.from({ length: count }, (_, at) => ({ label: label(at), ref: `r${at}` }));
const links = (count: number): Tap[] =>
  Array.from({ length: count }, (_, at) => ({ label: `Page ${at}`, url: `https://pages.example/${at}` }));
const x = (length: number) => 'x'.repeat(length);

/** What each platform refuses, by the table of its limits: just beyond, and just within. */
const BEYOND: [string, Outgoing, Outgoing][] = [
  [
    'Messenger: a text',
    { channel: 'messenger', text: x(2_001), taps: [] },
    { channel: 'messenger', text: x(2_000), taps: [] },
  ],
  [
    'Messenger: quick replies',
    { channel: 'messenger', text: 'x', taps: taps(14), as: 'quick replies' },
    { channel: 'messenger', text: 'x', taps: taps(13), as: 'quick replies' },
  ],
  [
    'Messenger: the title of a quick reply',
    { channel: 'messenger', text: 'x', taps: taps(1, () => x(21)), as: 'quick replies' },
    { channel: 'messenger', text: 'x', taps: taps(1, () => x(20)), as: 'quick replies' },
  ],
  [
    'Messenger: the text above buttons',
    { channel: 'messenger', text: x(641), taps: links(1), as: 'link button' },
    { channel: 'messenger', text: x(640), taps: links(1), as: 'link button' },
  ],
  [
    'Messenger: buttons',
    { channel: 'messenger', text: 'x', taps: links(4), as: 'link button' },
    { channel: 'messenger', text: 'x', taps: links(3), as: 'link button' },
  ],
  [
    'Messenger: the title of a card',
    { channel: 'messenger', text: x(81), taps: links(1), as: 'card' },
    { channel: 'messenger', text: x(80), taps: links(1), as: 'card' },
  ],
  [
    'Instagram: a text in bytes',
    { channel: 'instagram', text: 'é'.repeat(501), taps: [] },
    { channel: 'instagram', text: 'é'.repeat(500), taps: [] },
  ],
  [
    'Instagram: quick replies',
    { channel: 'instagram', text: 'x', taps: taps(14), as: 'quick replies' },
    { channel: 'instagram', text: 'x', taps: taps(13), as: 'quick replies' },
  ],
  [
    'Instagram: a file',
    {
      channel: 'instagram',
      text: '',
      taps: [],
      media: { what: 'file', address: 'https://pages.example/a.pdf' },
    },
    {
      channel: 'instagram',
      text: '',
      taps: [],
      media: { what: 'image', address: 'https://pages.example/a.png' },
    },
  ],
  [
    'WhatsApp: a text',
    { channel: 'whatsapp', text: x(4_097), taps: [] },
    { channel: 'whatsapp', text: x(4_096), taps: [] },
  ],
  [
    'WhatsApp: reply buttons',
    { channel: 'whatsapp', text: 'x', taps: taps(4), as: 'buttons' },
    { channel: 'whatsapp', text: 'x', taps: taps(3), as: 'buttons' },
  ],
  [
    'WhatsApp: the body above buttons',
    { channel: 'whatsapp', text: x(1_025), taps: taps(1), as: 'buttons' },
    { channel: 'whatsapp', text: x(1_024), taps: taps(1), as: 'buttons' },
  ],
  [
    'WhatsApp: titles that are the same',
    { channel: 'whatsapp', text: 'x', taps: taps(2, () => 'Yes'), as: 'buttons' },
    { channel: 'whatsapp', text: 'x', taps: taps(2), as: 'buttons' },
  ],
  [
    'WhatsApp: rows of a list',
    { channel: 'whatsapp', text: 'x', taps: taps(11), as: 'list', opens: 'Choose' },
    { channel: 'whatsapp', text: 'x', taps: taps(10), as: 'list', opens: 'Choose' },
  ],
  [
    'WhatsApp: the title of a row',
    { channel: 'whatsapp', text: 'x', taps: taps(1, () => x(25)), as: 'list', opens: 'Choose' },
    { channel: 'whatsapp', text: 'x', taps: taps(1, () => x(24)), as: 'list', opens: 'Choose' },
  ],
  [
    'WhatsApp: the description of a row',
    {
      channel: 'whatsapp',
      text: 'x',
      taps: [{ label: 'a', ref: 'a', description: x(73) }],
      as: 'list',
      opens: 'Choose',
    },
    {
      channel: 'whatsapp',
      text: 'x',
      taps: [{ label: 'a', ref: 'a', description: x(72) }],
      as: 'list',
      opens: 'Choose',
    },
  ],
  [
    'WhatsApp: the button of a list',
    { channel: 'whatsapp', text: 'x', taps: taps(1), as: 'list', opens: x(21) },
    { channel: 'whatsapp', text: 'x', taps: taps(1), as: 'list', opens: x(20) },
  ],
  [
    'Telegram: a text',
    { channel: 'telegram', text: x(4_097), taps: [] },
    { channel: 'telegram', text: x(4_096), taps: [] },
  ],
  [
    'Telegram: what a button brings back',
    { channel: 'telegram', text: 'x', taps: [{ label: 'a', ref: x(65) }], as: 'keyboard' },
    { channel: 'telegram', text: 'x', taps: [{ label: 'a', ref: x(64) }], as: 'keyboard' },
  ],
  ['SMS: a text', { channel: 'sms', text: x(1_601), taps: [] }, { channel: 'sms', text: x(1_530), taps: [] }],
];
test.each(BEYOND)('%s beyond its limit is refused, and within it taken', async (_what, beyond, within) => {
  expect(await send(within)).toMatchObject({ kind: 'sent' });
  expect(await send(beyond)).toMatchObject({
    kind: 'failed',
    failure: { reason: expect.stringMatching(/refused/) as string },
  });
});
