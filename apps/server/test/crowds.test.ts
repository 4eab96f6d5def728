import type { PeopleCount } from '@dart-loop/contract';
import type { ConversationPage, InboxPage, PeoplePage } from './support/stage';
import { startWorker } from '../src/server';
import { BOT, Stage, until } from './support/stage';

let stage: Stage;
beforeAll(async () => void (stage = await Stage.open()));
afterAll(() => stage.close());

const CLIENT = '/clients/saltmarsh-ferries';

test('three processes share the work: a crowd of 150 is answered once each, in order, on many lines of thought', async () => {
  stage.standins.telegram.limits = false;
  const workers = [await startWorker(stage.config), await startWorker(stage.config)];
  try {
    const people = Array.from({ length: 150 }, (_, at) => String(71_000 + at));
    await Promise.all(
      people.map(async (who) => {
        await stage.write(who, 'sailings', `Walker ${who}`);
        await stage.write(who, 'hm');
        await stage.write(who, 'not today');
      }),
    );
    await until(
      () => people.filter((who) => stage.heard(who).length === 2).length,
      (done) => done === people.length,
      90_000,
    );
    for (const who of people)
      expect(stage.heard(who).map((text) => text.slice(0, 5))).toEqual(['Hello', 'Fine.']);
    const { rows } = await stage.db.query<{ wrong: number }>(
      `
         select count(*)::int as wrong from (
         select conversation_id, count(*) as entries, max(seq) - min(seq) + 1 as places from
           (select conversation_id, seq from decision union all select conversation_id, seq
             from message) as log
         group by 1) as each where entries <> places or entries <> 5`,
    );
    expect(rows[0]!.wrong).toBe(0);
  } finally {
    for (const worker of workers) await worker.stop();
  }
});

test('people are paged by key, newest first, each once; and found by name, number and email', async () => {
  const seen: string[] = [];
  let after: string | null = null;
  do {
    const page: PeoplePage = await stage.api.get<PeoplePage>(
      `${CLIENT}/people?${after ? `after=${after}` : ''}`,
    );
    seen.push(...page.rows.map((row) => row.id));
    after = page.next;
  } while (after);
  expect(seen).toHaveLength(150);
  expect(new Set(seen).size).toBe(150);
  expect(await stage.api.get<PeopleCount>(`${CLIENT}/people/count`)).toMatchObject({ total: 150 });
  const found = async (q: string) =>
    (await stage.api.get<PeoplePage>(`${CLIENT}/people?q=${encodeURIComponent(q)}`)).rows.map(
      (row) => row.name,
    );
  expect(await found('walker 71007')).toEqual(['Walker 71007']);
  expect(await found('71008')).toEqual(['Walker 71008']);
  expect(await found('%')).toEqual([]);
  expect(await found("'; drop table person; --")).toEqual([]);
});

test('the inbox is paged by key too, and a long conversation backwards', async () => {
  const seen: string[] = [];
  let before: string | null = null;
  do {
    const page: InboxPage = await stage.api.get<InboxPage>(
      `/inbox?shelf=settled${before ? `&before=${before}` : ''}`,
    );
    expect(page.counts).toEqual({ waiting: 0, running: 0, settled: 150 });
    seen.push(...page.rows.map((row) => row.id));
    before = page.next;
  } while (before);
  expect(new Set(seen).size).toBe(150);

  const who = '72001';
  for (let time = 0; time < 45; time++) {
    await stage.write(who, 'sailings');
    await stage.write(who, 'b');
  }
  const { id } = await stage.one<{ id: string }>('select id from conversation where address = $1', [who]);
  await until(
    () => stage.one<{ seq: number }>('select seq from conversation where id = $1', [id]),
    ({ seq }) => seq === 180,
  );
  const places: number[] = [];
  let from: number | null = null;
  do {
    const page: ConversationPage = await stage.api.get<ConversationPage>(
      `${CLIENT}/conversations/${id}${from ? `?before=${from}` : ''}`,
    );
    places.unshift(...page.entries.filter((entry) => entry.kind !== 'in').map((entry) => entry.seq));
    from = page.before;
  } while (from);
  expect(places).toEqual(Array.from({ length: 180 }, (_, at) => at + 1));
});

test('the crowd of the stand-ins writes at its rate through the webhooks, and tells how long answers took', async () => {
  const response = await fetch(`${stage.standinsAddress}/crowd`, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify({
      bots: [BOT],
      numbers: [],
      people: 20,
      perSecond: 50,
      messages: 40,
      says: ['sailings', 'b'],
    }),
  });
  expect(response.status).toBe(200);
  const report = await until(
    async () =>
      (await (await fetch(`${stage.standinsAddress}/crowd`)).json()) as {
        done: boolean;
        sent: number;
        taken: number;
        seconds: number;
        latencies: number[];
      },
    (each) => each.done && each.latencies.length === 40,
  );
  expect(report).toMatchObject({ sent: 40, taken: 40 });
  expect(report.seconds).toBeGreaterThan(0.7);
});

test('a stand-in keeps the platform’s limits, when they are on', async () => {
  stage.standins.telegram.limits = true;
  const post = (path: string, body: object, headers = {}) =>
    fetch(stage.standinsAddress + path, {
      method: 'POST',
      headers: { 'content-type': 'application/json', ...headers },
      body: JSON.stringify(body),
    });
  const token = stage.standins.telegram.bot(BOT)!.token;
  const send = (body: object) => post(`/bot${token}/sendMessage`, { chat_id: 71_000, text: 'x', ...body });
  expect((await send({})).status).toBe(200);
  const again = await send({});
  expect(again.status).toBe(429);
  expect(await again.json()).toMatchObject({ parameters: { retry_after: 1 } });
  expect((await send({ text: 'x'.repeat(4_097) })).status).toBe(400);
  expect((await send({ chat_id: 5 })).status).toBe(403);
  expect(
    (await send({ reply_markup: { inline_keyboard: [[{ text: 'a', callback_data: 'x'.repeat(65) }]] } }))
      .status,
  ).toBe(400);
  expect((await post('/bot1:short/getMe', {})).status).toBe(404);
  expect((await post(`/bot${BOT}:${'z'.repeat(35)}/getMe`, {})).status).toBe(401);
  expect(
    (
      await post(
        '/sms/messages',
        { from: '+447700900144', to: '+447700900201', body: 'x' },
        { authorization: 'Bearer guess' },
      )
    ).status,
  ).toBe(401);
});
