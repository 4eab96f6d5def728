import type { LoopSurroundings } from '@dart-loop/contract';
import { BOT, Stage, until } from './support/stage';

let stage: Stage;
beforeAll(async () => void (stage = await Stage.open({ limits: false })));
afterAll(() => stage.close());

let number = 0;
/** Publishes a loop that a word of its own starts, and has somebody write the word. Gives who wrote. */
async function run(steps: string): Promise<string> {
  const word = `errand ${++number}`;
  const file = `{ format: dart-loop/1, name: Errand ${number}, cues: [{ kind: keyword, words: [${word}], match: exactly }], scenes: [{ name: One, steps: [${steps}, { kind: say, text: Well done. }] }, { id: sorry, name: Sorry, steps: [{ kind: say, text: By hand then. }] }] }`;
  await stage.publish(file);
  const who = String(73_000 + number);
  await stage.write(who, word, 'Tamsin');
  return who;
}
const sendOut = (host: string) => run(`{ kind: send out, address: "https://${host}/x", failed: sorry }`);
const said = (who: string) => stage.hears(who, 1);
const errand = (where: string) =>
  stage.one<{ status: string; attempts: number; answer: { status: number | null; reason?: string } }>(
    `select status, attempts, answer from errand where body::text like '%${where}%'`,
  );
const tries = (host: string) => stage.standins.outside.requests.filter((request) => request.host === host);

describe('what another system’s answer means', () => {
  test.each([
    [200, 'Well done.', 'done', 1],
    [204, 'Well done.', 'done', 1],
    [301, 'By hand then.', 'failed', 1],
    [400, 'By hand then.', 'failed', 1],
    [401, 'By hand then.', 'failed', 1],
    [404, 'By hand then.', 'failed', 1],
    [422, 'By hand then.', 'failed', 1],
  ])('%d: at once', async (status, words, ends, attempts) => {
    const host = `s${status}.example`;
    stage.standins.outside.answer({
      host,
      status,
      body: {},
      headers: status === 301 ? { location: 'https://elsewhere.example/x' } : {},
      slowMs: 0,
    });
    expect(await said(await sendOut(host))).toEqual([words]);
    expect(await errand(host)).toMatchObject({ status: ends, attempts });
    expect(tries(host)).toHaveLength(1);
    expect(tries('elsewhere.example')).toHaveLength(0);
  });
  test.each([408, 409, 425, 500, 502, 503])('%d: may pass, and is tried again', async (status) => {
    const host = `t${status}.example`;
    stage.standins.outside.answer({ host, status, body: {}, headers: {}, slowMs: 0, times: 1 });
    expect(await said(await sendOut(host))).toEqual(['Well done.']);
    expect(await errand(host)).toMatchObject({ status: 'done', attempts: 2 });
    expect(new Set(tries(host).map((request) => request.headers['webhook-id'])).size).toBe(1);
  });
  test('429: not before the time that it names', async () => {
    stage.standins.outside.answer({
      host: 'busy.example',
      status: 429,
      body: {},
      headers: { 'retry-after': '3' },
      slowMs: 0,
      times: 1,
    });
    expect(await said(await sendOut('busy.example'))).toEqual(['Well done.']);
    const [first, second] = tries('busy.example');
    expect(second!.at - first!.at).toBeGreaterThanOrEqual(2_900);
  });
  test('an answer that is not JSON is well received and fills nothing', async () => {
    stage.standins.outside.answer({
      host: 'html.example',
      status: 200,
      raw: '<html>thanks',
      body: {},
      headers: {},
      slowMs: 0,
    });
    const who = await run(
      '{ kind: send out, address: "https://html.example/x", reply: [{ from: id, field: crm_id }] }',
    );
    expect(await said(who)).toEqual(['Well done.']);
    const { notes } = await stage.one<{ notes: { code: string; reason?: string }[] }>(
      `
        select notes from decision d join conversation c on c.id = d.conversation_id
        where c.address = '${who}' and d.notes::text like '%delivered%'`,
    );
    expect(notes).toContainEqual({
      code: 'field not set',
      field: 'crm_id',
      reason: 'the answer has no text or number at “id”',
    });
  });
  test('when it fails for good after all tries, the exit is taken', async () => {
    stage.standins.outside.answer({ host: 'down.example', status: 500, body: {}, headers: {}, slowMs: 0 });
    const who = await sendOut('down.example');
    await until(
      () => tries('down.example').length,
      (count) => count >= 1,
    );
    // The pauses grow to minutes; here the last try is due at once.
    await until(
      async () =>
        stage.db
          .query(
            `
              update errand set attempts = 7, next_at = now()
              where status = 'waiting' and body::text like '%down.example%'
                and next_at < now() + interval '20 seconds' returning 1`,
          )
          .then((result) => result.rowCount),
      (count) => count === 1,
    );
    expect(await said(who)).toEqual(['By hand then.']);
    expect(await errand('down.example')).toMatchObject({
      status: 'failed',
      answer: { status: 500, reason: 'it was answered 500' },
    });
    // The checks of every loop know of it.
    const loops = await stage.api.get<{ id: string }[]>('/clients/saltmarsh-ferries/loops');
    const known = await stage.api.get<LoopSurroundings>(
      `/clients/saltmarsh-ferries/loops/${loops[0]!.id}/surroundings`,
    );
    expect(known.failing).toMatchObject({ 'https://down.example/x': 'it was answered 500' });
  });
});

test('a run that gives way while it waits for an answer is not taken up again by it', async () => {
  stage.standins.outside.answer({ host: 'slow.example', status: 200, body: {}, headers: {}, slowMs: 1_500 });
  const who = await sendOut('slow.example');
  await until(
    () => tries('slow.example').length,
    (count) => count === 1,
  );
  await stage.write(who, 'sailings');
  expect((await said(who))[0]).toContain('Want a message when a sailing is moved');
  await until(
    () => errand('slow.example'),
    ({ status }) => status === 'done',
  );
  await until(
    () => stage.one<{ left: number }>('select count(*)::int as left from pending'),
    ({ left }) => left === 0,
  );
  expect(stage.heard(who)).toHaveLength(1);
});

test('a client whose system hangs holds up no other client', async () => {
  stage.standins.outside.answer({ host: 'hung.example', status: 200, body: {}, headers: {}, slowMs: 9_000 });
  const add = (slug: string, host: string, count: number) =>
    stage.db.query(
      `
        insert into errand (client_id, id, conversation_id, line_id, kind, body, by, status, next_at, made_at)
        select c.id, gen_random_uuid(), gen_random_uuid(), l.id, 'send out', $2, '{}', 'waiting', now(), now()
        from client c join lateral (select id from line where client_id = c.id limit 1) l on true,
          generate_series(1, $3) where slug = $1`,
      [slug, { address: `https://${host}/x`, body: {} }, count],
    );
  await add('saltmarsh-ferries', 'hung.example', 100);
  await add('northgate-climbing', 'theirs.example', 1);
  stage.standins.outside.answer({ host: 'wakes.example', status: 200, body: {}, headers: {}, slowMs: 0 });
  await sendOut('wakes.example');
  await until(
    () => tries('theirs.example').length,
    (count) => count === 1,
  );
  expect(tries('hung.example').length).toBeLessThanOrEqual(12);
  await stage.db.query("delete from errand where body ->> 'address' = 'https://hung.example/x'");
});

describe('an alert', () => {
  test('that is refused for good is marked with the reason, and the run has gone on long since', async () => {
    stage.standins.mail.refuse = 550;
    const who = await run(
      '{ kind: alert, by: email, to: [gone@saltmarshferries.example], text: "{{ person.first_name }} waits" }',
    );
    expect(await said(who)).toEqual(['Well done.']);
    const ended = await until(
      () => errand('gone@'),
      ({ status }) => status !== 'waiting',
    );
    expect(ended).toMatchObject({
      status: 'failed',
      attempts: 1,
      answer: { status: 550, reason: 'the mail server refused it (550)' },
    });
    stage.standins.mail.refuse = null;
  });
  test('to a Telegram chat that never wrote says so', async () => {
    await said(await run('{ kind: alert, by: telegram, to: ["999999"], text: x }'));
    const ended = await until(
      () => errand('999999'),
      ({ status }) => status !== 'waiting',
    );
    expect(ended).toMatchObject({
      status: 'failed',
      answer: { reason: expect.stringContaining('has never written to it') },
    });
    expect(stage.standins.telegram.look(BOT, '999999')).toEqual([]);
  });
  test('never holds what a mail header could be made of', async () => {
    const who = String(73_900);
    await stage.write(who, 'hello', 'Eve\r\nBcc: all@example.org');
    const file =
      '{ format: dart-loop/1, name: Header, cues: [{ kind: keyword, words: [header], match: exactly }], scenes: [{ name: One, steps: [{ kind: alert, by: email, to: [desk@saltmarshferries.example], subject: "From {{ person.first_name }}", text: x }, { kind: say, text: Told. }] }] }';
    await stage.publish(file);
    await stage.write(who, 'header');
    await said(who);
    const mail = await until(
      () => stage.standins.mail.mails.find((each) => each.to.includes('desk@saltmarshferries.example')),
      (found) => found !== undefined,
    );
    expect(mail!.to).toEqual(['desk@saltmarshferries.example']);
    expect(mail!.raw).not.toMatch(/^Bcc:/im);
  });
});
