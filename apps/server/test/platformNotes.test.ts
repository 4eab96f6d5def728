import type { LineRow, TodayPage } from '@dart-loop/contract';
import { graphAccess } from '../../standins/src/graph/access';
import { smsAccess } from '../../standins/src/sms';
import { Stage, until } from './support/stage';

/** What platforms say of a line beside whether it works. */
let stage: Stage;
beforeAll(async () => {
  stage = await Stage.open();
}, 60_000);
afterAll(() => stage.close());

const LINES = '/clients/orrery-picture-house/lines';
const linesOf = (client: string) => stage.api.get<LineRow[]>(`/clients/${client}/lines`);
const warnings = async () =>
  (await stage.api.get<TodayPage>('/today')).attention.map(({ words }) => words).join('\n');
async function lineOn(channel: LineRow['channel']): Promise<{ path: string; line: LineRow }> {
  for (const client of ['saltmarsh-ferries', 'orrery-picture-house', 'bramble-row-nursery']) {
    const line = (await linesOf(client)).find((each) => each.channel === channel);
    if (line) return { path: `/clients/${client}/lines`, line };
  }
  throw new Error(`no client has a line on ${channel}`);
}
const asked = async (channel: LineRow['channel']) => {
  const { path, line } = await lineOn(channel);
  return stage.api.post<LineRow>(`${path}/${line.id}/test`, {});
};

test('Telegram says what it could not deliver, and that it was made up for', async () => {
  const { line } = await lineOn('telegram');
  const bot = [...stage.standins.telegram.bots.values()].find(
    ({ webhook }) => webhook?.url === line.webhook,
  )!;
  expect((await asked('telegram')).notes).toEqual([]);
  bot.pending = 3;
  bot.lastError = { at: Math.floor(Date.now() / 1_000), words: 'Connection refused' };
  expect((await asked('telegram')).notes).toEqual([
    {
      code: 'undelivered',
      tone: 'warning',
      words:
        '3 updates wait to be delivered, and the last try failed. Telegram says: “Connection refused”. Telegram tries again by itself.',
      at: new Date(bot.lastError.at * 1_000).toISOString(),
    },
  ]);
  expect(await warnings()).toContain('3 updates wait to be delivered');
  bot.pending = 0;
  expect((await asked('telegram')).notes).toMatchObject([{ code: 'undelivered', tone: 'quiet' }]);
  expect(await warnings()).not.toContain('updates wait');
  bot.lastError = null;
});

test('a page that hands over less than loops hear is named, by itself too, and mended by renewing', async () => {
  const { path, line } = await lineOn('messenger');
  const { rows } = await stage.db.query<{ id: string }>(
    "select account ->> 'id' as id from line where id = $1",
    [line.id],
  );
  const account = stage.standins.graph.account('messenger', rows[0]!.id)!;
  account.fields = [
    'messages',
    'messaging_postbacks',
    'messaging_referrals',
    'message_deliveries',
    'message_reads',
    'message_echoes',
  ];
  const noted = await until(
    async () => (await stage.api.get<LineRow[]>(path)).find(({ id }) => id === line.id)!.notes,
    (notes) => notes.length > 0,
  );
  expect(noted[0]!.words).toBe(
    'The page does not hand over comments, lead forms: loops are told nothing of these. Renew the line, which asks for all of them again.',
  );
  expect(await warnings()).toContain('does not hand over comments');
  const { token } = graphAccess('messenger', account.id);
  await stage.api.post(path, { channel: 'messenger', renews: line.id, appId: '', appSecret: '', token });
  const tested = await stage.api.post<LineRow>(`${path}/${line.id}/test`, {});
  expect(tested.notes).toEqual([]);
});

test('WhatsApp says how good a number is, and how many people it may write to first', async () => {
  const account = [...stage.standins.graph.accounts.values()].filter(({ kind }) => kind === 'whatsapp');
  expect((await asked('whatsapp')).notes.map(({ words }) => words)).toEqual([
    'Quality is high.',
    'At most 1,000 people in 24 hours may be written to first.',
  ]);
  for (const each of account) Object.assign(each, { quality: 'RED', tier: 'TIER_UNLIMITED' });
  const notes = (await asked('whatsapp')).notes;
  expect(notes.map(({ tone }) => tone)).toEqual(['warning', 'quiet']);
  expect(notes[1]!.words).toBe('Any number of people may be written to first.');
  expect(await warnings()).toContain('Quality is low');
});

test('a platform that cannot be asked leaves what is known', async () => {
  for (const each of stage.standins.graph.accounts.values())
    if (each.kind === 'whatsapp') each.mood = 'down' as never;
  const { path, line } = await lineOn('whatsapp');
  await stage.api.post<LineRow>(`${path}/${line.id}/test`, {}).catch(() => undefined);
  expect((await lineOn('whatsapp')).line.notes).toHaveLength(2);
  for (const each of stage.standins.graph.accounts.values()) if (each.kind === 'whatsapp') each.mood = 'well';
});

test('the stand-in refuses to end the waiting of a tap that it does not know', async () => {
  const bot = [...stage.standins.telegram.bots.values()][0]!;
  const answer = await fetch(`${stage.standinsAddress}/bot${bot.token}/answerCallbackQuery`, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify({ callback_query_id: '12345' }),
  });
  expect(answer.status).toBe(400);
});

describe('kinds of numbers', () => {
  test('a short code is a line of its own, and sends at its pace', async () => {
    const number = '61234';
    const line = await stage.api.post<LineRow>(LINES, {
      channel: 'sms',
      number,
      numberKind: 'short code',
      ...smsAccess(number),
    });
    expect(line).toMatchObject({ name: number, known: { number, numberKind: 'short code' } });
    const loop = await stage.publish(
      `format: dart-loop/1
name: Short
lines: [${line.key}]
cues:
  - kind: keyword
    words: [SHORT]
    match: exactly
scenes:
  - name: Start
    steps:
      - kind: say
        text: Short indeed.
`,
      'orrery-picture-house',
    );
    expect(loop).toBeTruthy();
    const people = Array.from({ length: 20 }, (_, at) => `+4477009001${String(at).padStart(2, '0')}`);
    await Promise.all(people.map((who) => stage.standins.sms.write(number, who, 'SHORT')));
    await until(
      () => stage.standins.sms.sendings.filter(({ from }) => from === number),
      (sent) => sent.length === people.length,
    );
    const times = stage.standins.sms.sendings.flatMap(({ from, at }) => (from === number ? [at] : [])).sort();
    // A long code never sends two within a second.
    expect(times.some((at, index) => index > 0 && at - times[index - 1]! < 900)).toBe(true);
  });

  test('what is no short code is refused, and what is one is no ordinary number', async () => {
    const refused = (typed: object) =>
      stage.api.post(LINES, { channel: 'sms', key: 'k'.repeat(20), signing: 's'.repeat(20), ...typed });
    await expect(refused({ number: '+447700900155', numberKind: 'short code' })).rejects.toThrow(
      'A short code has 5 or 6 digits',
    );
    await expect(refused({ number: '61234' })).rejects.toThrow('That is not a number with its country code');
  });

  test('a line of which no kind is kept is a long code, and can be said to be another', async () => {
    const { path, line } = await lineOn('sms');
    expect(line.known.numberKind).toBe('long code');
    const renewed = await stage.api.post<LineRow>(path, {
      channel: 'sms',
      renews: line.id,
      number: '',
      numberKind: 'toll-free',
      key: '',
      signing: '',
    });
    expect(renewed.known.numberKind).toBe('toll-free');
  });
});
