import type { LineRow, PhonePage, Session, TodayPage } from '@dart-loop/contract';
import { CHANNELS, type ChannelKind } from '@dart-loop/core';
import { Api } from '../../../cli/api';
import { startServer } from '../src/server';
import { Stage, until } from './support/stage';

/** Nobody listens there: where an installation's lines for trying out led to a platform, it would be seen. */
const PLATFORM = 'http://127.0.0.1:9';
const KINDS = Object.keys(CHANNELS) as ChannelKind[];
const CLIENT = '/clients/orrery-picture-house';
const LOOP = `
format: dart-loop/1
name: Who is there
cues: [{ kind: keyword, words: [doorbell], match: exactly }]
scenes:
  - id: welcome
    name: Welcome
    steps:
      - { kind: say, text: Come in. }
      - { kind: end }
`;

let stage: Stage;
/** Goes on as an installation of an agency's own: its platforms are elsewhere. */
async function restart(testPhone: boolean): Promise<void> {
  await stage.server.stop();
  stage.server = await startServer({
    ...stage.config,
    graph: PLATFORM,
    telegram: PLATFORM,
    smsGateway: PLATFORM,
    standins: testPhone ? stage.standinsAddress : null,
    everyLineStandsIn: false,
    // It would find every real line failing, which is not the matter here.
    watchSeconds: 3_600,
  });
  stage.api = await Api.signIn(stage.server.address, 'owner');
}
beforeAll(async () => {
  stage = await Stage.open();
  await stage.publish(LOOP, 'orrery-picture-house');
  await restart(true);
}, 60_000);
afterAll(() => stage.close());

const trialOn = (channel: ChannelKind) => stage.api.post<LineRow>(`${CLIENT}/lines/trial`, { channel });
async function doorbell(line: LineRow): Promise<{ line: number; who: string }> {
  const { who } = await stage.api.post<{ who: string }>(`${CLIENT}/test-phone/somebody`, { line: line.id });
  await stage.api.post(`${CLIENT}/test-phone`, {
    line: line.id,
    who,
    do: 'write',
    name: 'Tam',
    text: 'doorbell',
  });
  return { line: line.id, who };
}
const look = ({ line, who }: { line: number; who: string }) =>
  stage.api.get<PhonePage>(`${CLIENT}/test-phone?line=${line}&who=${encodeURIComponent(who)}`);

test.each(KINDS)('on %s a line for trying out is made, written to, and answers', async (channel) => {
  const line = await trialOn(channel);
  expect(line).toMatchObject({ channel, trial: true, state: 'never heard', failure: null });
  const somebody = await doorbell(line);
  const { messages } = await until(
    () => look(somebody),
    (page) => page.messages.length > 1,
  );
  expect(messages.map(({ from, text }) => [from, text])).toEqual([
    ['person', 'doorbell'],
    ['line', expect.stringContaining('Come in.')],
  ]);
  expect((await stage.api.post<LineRow>(`${CLIENT}/lines/${line.id}/test`, {})).failure).toBeNull();
});

test('the phone writes to no line of a platform', async () => {
  expect((await stage.api.get<Session>('/session')).testPhone).toBe('lines for trying out');
  const real = (await stage.api.get<LineRow[]>(`${CLIENT}/lines`)).find(({ trial }) => !trial)!;
  await expect(stage.api.post(`${CLIENT}/test-phone/somebody`, { line: real.id })).rejects.toThrow(
    /on the platform itself/,
  );
});

test('one that is renewed stays for trying out', async () => {
  const line = await trialOn('telegram');
  const renewed = await stage.api.post<LineRow>(`${CLIENT}/lines`, {
    channel: 'telegram',
    renews: line.id,
    token: '',
  });
  expect(renewed).toMatchObject({ id: line.id, trial: true });
});

test('where the test phone is off, they send nothing anywhere, say so, and go on once it is back', async () => {
  const line = await trialOn('sms');
  await restart(false);
  expect((await stage.api.get<Session>('/session')).testPhone).toBeNull();
  await expect(trialOn('sms')).rejects.toThrow(/The test phone is off|DARTLOOP_TEST_PHONE=yes/);
  // The stand-in still delivers to the webhook, as a platform would: to where the server is now.
  const number = [...stage.standins.sms.numbers.values()].find(({ webhook }) => webhook === line.webhook)!;
  number.webhook = `${stage.server.address}/hooks/${line.webhook.split('/').at(-1)}`;
  await stage.standins.sms.write(number.number, '+447700900321', 'doorbell');
  const row = () =>
    stage.api.get<LineRow[]>(`${CLIENT}/lines`).then((all) => all.find(({ id }) => id === line.id)!);
  expect(await until(row, ({ failure, held }) => failure !== null && held === 1)).toMatchObject({
    failure: { reason: 'This is a line for trying out, and the test phone is off.' },
  });
  const { attention } = await stage.api.get<TodayPage>('/today');
  expect(attention.map(({ words }) => words).join('\n')).toContain('the test phone is off');
  await restart(true);
  await stage.api.post(`${CLIENT}/lines/${line.id}/test`, {});
  await until(
    () => stage.standins.sms.look(number.number, '+447700900321').length,
    (count) => count === 2,
  );
});
