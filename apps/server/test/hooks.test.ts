import { createHmac } from 'node:crypto';
import { BOT, NUMBER, Stage, until } from './support/stage';

let stage: Stage;
beforeAll(async () => void (stage = await Stage.open()));
afterAll(() => stage.close());

const bot = () => stage.standins.telegram.bot(BOT)!;
const send = (delivery: { url: string; headers: Record<string, string>; body: string }) =>
  fetch(delivery.url, { method: 'POST', headers: delivery.headers, body: delivery.body });
const message = (who: number, text: string) => {
  stage.standins.telegram.meet(bot(), who);
  return stage.standins.telegram.update(bot(), {
    message: {
      message_id: 1,
      date: Math.floor(Date.now() / 1_000),
      chat: { id: who, type: 'private' },
      from: { id: who, is_bot: false, first_name: 'Mira' },
      text,
    },
  });
};
const counts = () =>
  stage.one<{ events: number; aside: number }>(
    'select (select count(*) from event)::int as events, (select count(*) from aside)::int as aside',
  );

describe('a request that is not the platform’s', () => {
  test('a wrong or missing Telegram secret is 401, and nothing is stored', async () => {
    const before = await counts();
    const delivery = message(61001, 'sailings');
    expect(
      (
        await send({
          ...delivery,
          headers: { ...delivery.headers, 'x-telegram-bot-api-secret-token': 'wrong' },
        })
      ).status,
    ).toBe(401);
    expect((await send({ ...delivery, headers: { 'content-type': 'application/json' } })).status).toBe(401);
    expect(await counts()).toEqual(before);
    // The update’s number is used by the one that comes next.
    expect((await send(delivery)).status).toBe(200);
  });
  test('a wrong SMS signature is 401, a changed body too', async () => {
    const before = await counts();
    const delivery = stage.standins.sms.incoming(
      stage.standins.sms.numbers.get(NUMBER)!,
      '+447700900201',
      'sailings',
    );
    expect(
      (
        await send({
          ...delivery,
          headers: {
            ...delivery.headers,
            'x-signature-256': `sha256=${createHmac('sha256', 'guess').update(delivery.body).digest('hex')}`,
          },
        })
      ).status,
    ).toBe(401);
    expect((await send({ ...delivery, body: delivery.body.replace('sailings', 'SAILINGS') })).status).toBe(
      401,
    );
    expect(await counts()).toEqual(before);
  });
  test('an unknown address is 404, another method too, and a body too large is 413', async () => {
    const delivery = message(61002, 'sailings');
    expect((await send({ ...delivery, url: delivery.url.slice(0, -5) + 'xxxxx' })).status).toBe(404);
    expect((await fetch(delivery.url)).status).toBe(404);
    expect((await send({ ...delivery, body: 'x'.repeat(1_000_001) })).status).toBe(413);
    expect((await send(delivery)).status).toBe(200);
  });
});

test('a crowd that writes before the server has looked a line up is taken, and guesses of addresses are not', async () => {
  const deliveries = Array.from({ length: 120 }, (_, at) =>
    message(62_000 + at, 'nothing that starts a loop'),
  );
  const guess = (at: number) => `${stage.server.address}/hooks/${String(at).padStart(43, 'z')}`;
  // A line that is changed is forgotten, so that the server knows no more of the lines than when it starts.
  const lines = '/clients/saltmarsh-ferries/lines';
  const [line] = await stage.api.get<{ id: number }[]>(lines);
  await stage.api.raw('put', `${lines}/${line!.id}/caps`, { perDay: null, perPerson: null });
  const statuses = await Promise.all(
    deliveries.flatMap((delivery, at) => [
      send({ ...delivery, url: guess(at) }).then(({ status }) => `guess ${status}`),
      send(delivery).then(({ status }) => `known ${status}`),
    ]),
  );
  expect(new Set(statuses)).toEqual(new Set(['guess 404', 'known 200']));
});

test('a body of ten megabytes and a flood of wrong requests leave the server answering and the store clean', async () => {
  const before = await counts();
  const lines = await stage.api.get<{ webhook: string; channel: string }[]>(
    '/clients/saltmarsh-ferries/lines',
  );
  const { webhook } = lines.find((each) => each.channel === 'whatsapp')!;
  const signed = stage.standins.graph.signed('whatsapp', []);
  const large = await fetch(webhook, {
    method: 'POST',
    headers: signed.headers,
    body: 'x'.repeat(10_000_000),
  }).catch(() => null);
  // The server answers before it has read it all; a client that is still writing may see its connection
  // closed instead.
  expect([413, undefined]).toContain(large?.status);
  const wrong = await Promise.all(
    Array.from({ length: 1_000 }, (_, at) =>
      fetch(webhook, {
        method: 'POST',
        headers:
          at % 2 === 0
            ? { ...signed.headers, 'x-hub-signature-256': `sha256=${'0'.repeat(64)}` }
            : { 'content-type': 'text/plain' },
        body: signed.body,
      }).then((answer) => answer.status),
    ),
  );
  expect(new Set(wrong)).toEqual(new Set([401]));
  expect((await fetch(`${stage.server.address}/healthz`)).status).toBe(200);
  expect(await counts()).toEqual(before);
  await stage.write('61010', 'sailings');
  expect(await stage.hears('61010', 1)).toHaveLength(1);
});

test('what is signed but not understood is kept aside and counted on the line', async () => {
  const before = await counts();
  const poll = stage.standins.telegram.update(bot(), { poll: { id: '1', question: 'Which boat?' } });
  expect((await send(poll)).status).toBe(200);
  expect((await send({ ...poll, body: 'not json' })).status).toBe(200);
  expect(await counts()).toMatchObject({ events: before.events, aside: before.aside + 2 });
  const [line] = await stage.api.get<{ aside: number }[]>('/clients/saltmarsh-ferries/lines');
  expect(line!.aside).toBe(before.aside + 2);
  // The poll took a number; the line must not wait for it for ever.
  await stage.write('61003', 'sailings');
  await until(
    () => stage.heard('61003'),
    (heard) => heard.length === 1,
  );
});

test('the same update three times, at once and later, is one event and one answer', async () => {
  const delivery = message(61004, 'sailings');
  const answers = await Promise.all([send(delivery), send(delivery)]);
  expect(answers.map((answer) => answer.status)).toEqual([200, 200]);
  await until(
    () => stage.heard('61004'),
    (heard) => heard.length === 1,
  );
  expect((await send(delivery)).status).toBe(200);
  await stage.write('61004', 'sailings');
  await until(
    () => stage.heard('61004'),
    (heard) => heard.length === 2,
  );
  const { count } = await stage.one<{ count: number }>(
    `
      select count(*)::int as count from event e join conversation c on c.client_id = e.client_id
        and c.id = e.conversation_id where c.address = '61004'`,
  );
  expect(count).toBe(2);
});

test('the same SMS three times is one answer', async () => {
  const account = stage.standins.sms.numbers.get(NUMBER)!;
  const delivery = stage.standins.sms.incoming(account, '+447700900202', 'sailings');
  for (let time = 0; time < 3; time++) expect((await send(delivery)).status).toBe(200);
  await until(
    () => stage.heard('+447700900202'),
    (heard) => heard.length === 1,
  );
  await stage.write('+447700900202', 'b');
  const heard = await until(
    () => stage.heard('+447700900202'),
    (each) => each.length === 2,
  );
  expect(heard[1]).toBe('Fine. Write SAILINGS whenever you like.');
});

test('two updates of one conversation that arrive in the wrong order are answered in the right one', async () => {
  const first = message(61005, 'sailings');
  const second = message(61005, 'not today');
  const later = send(second);
  // It is there, and waits for the one that was counted before it.
  await until(
    () => stage.one<{ waits: number }>('select count(*)::int as waits from pending where ready_at > now()'),
    ({ waits }) => waits > 0,
  );
  expect((await send(first)).status).toBe(200);
  expect((await later).status).toBe(200);
  const heard = await until(
    () => stage.heard('61005'),
    (each) => each.length === 2,
  );
  expect(heard[0]).toContain('Hello Mira. This is Saltmarsh Ferries.');
  expect(heard[1]).toBe('Fine. Write SAILINGS whenever you like.');
});

test('an update whose predecessor never comes is answered all the same, after a moment', async () => {
  message(61006, 'lost on the way');
  await send(message(61007, 'sailings'));
  await until(
    () => stage.heard('61007'),
    (heard) => heard.length === 1,
  );
});
