import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { CHANNEL_KINDS, choiceRef, type ChannelKind } from '@dart-loop/core';
import { makeAdapters } from '../src/channels';
import type { HookReading, OpenLine, Received, StatusReport } from '../src/channels/adapter';

/** What the platforms send, one file per channel, and what is read out of it. */
interface Payload {
  what: string;
  body: object;
  reads: {
    received: Partial<Received>[];
    aside?: number;
    statuses?: Partial<StatusReport>[];
    others?: string[];
    leads?: object[];
  };
}
const ref = choiceRef({ runId: '01a20b8f-667f-7000-a147-df421ca054e2', stepId: 'hello', choiceId: 'yes' });
const payloads = (channel: ChannelKind) =>
  JSON.parse(
    readFileSync(join(__dirname, 'payloads', `${channel}.json`), 'utf8').replaceAll('@@REF@@', ref),
  ) as Payload[];

const ACCOUNTS: Record<ChannelKind, Record<string, string>> = {
  messenger: { id: '100220011', appId: '700100200300' },
  instagram: { id: '178410011', appId: '700100200300' },
  whatsapp: { id: '106540022', appId: '700100200300' },
  telegram: { botId: '7001200301' },
  sms: { number: '+447700900144' },
};
const adapters = makeAdapters({
  standins: null,
  telegram: 'http://127.0.0.1:9',
  smsGateway: null,
  graph: 'http://127.0.0.1:9',
  key: Buffer.alloc(32),
});
const lineOf = (channel: ChannelKind): OpenLine => ({
  clientId: 1,
  id: 1,
  key: channel,
  name: 'x',
  channel,
  account: ACCOUNTS[channel],
  secrets: { token: 't', appSecret: 's', key: 'k', signing: 's' },
  hookToken: 't',
  caps: { perDay: null, perPerson: null },
  timeZone: 'Europe/London',
  quiet: {},
});

const readIt = (channel: ChannelKind, body: string): HookReading =>
  adapters.newOn(channel).read({ header: () => undefined, body: Buffer.from(body) }, lineOf(channel));

describe.each(CHANNEL_KINDS)('%s', (channel) => {
  test.each(payloads(channel).map((payload) => [payload.what, payload] as const))(
    '%s',
    (_what, { body, reads }) => {
      const sent =
        channel === 'sms'
          ? new URLSearchParams(body as Record<string, string>).toString()
          : JSON.stringify(body);
      const reading = readIt(channel, sent);
      expect(reading.received).toMatchObject(reads.received);
      expect(reading.received).toHaveLength(reads.received.length);
      expect(reading.aside).toHaveLength(reads.aside ?? 0);
      for (const { reason } of reading.aside) expect(reason.length).toBeGreaterThan(20);
      expect(reading.statuses ?? []).toMatchObject(reads.statuses ?? []);
      expect(reading.statuses ?? []).toHaveLength(reads.statuses?.length ?? 0);
      expect(reading.others ?? []).toEqual(reads.others ?? []);
      expect(reading.leads ?? []).toEqual(reads.leads ?? []);
    },
  );

  test('what is no payload at all is put aside with a reason, and never thrown', () => {
    for (const body of ['', '{', 'null', '[]', '"x"', '{"object":"page"}', '{"entry":{}}', '\u0000'])
      expect(readIt(channel, body)).toMatchObject({
        received: [],
        aside: [{ reason: expect.any(String) as string }],
      });
  });
});
