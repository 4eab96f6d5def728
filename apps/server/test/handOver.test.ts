import type { ConversationPage, InboxPage, PersonPage } from '@dart-loop/contract';
import type { Api } from '../../../cli/api';
import { Stage, until } from './support/stage';

let stage: Stage;
let operator: Api;
const CLIENT = '/clients/saltmarsh-ferries';
beforeAll(async () => {
  stage = await Stage.open({ limits: false });
  operator = await stage.as('operator');
  const file = `{ format: dart-loop/1, name: Desk, cues: [{ kind: keyword, words: [desk], match: exactly }], scenes: [{ id: one, name: One, steps: [{ kind: hand over, to: ticket desk, note: "{{ person.first_name }} has a question", text: One moment please. }, { kind: say, text: Anything else? Write DESK. }] }, { id: sorry, name: Sorry, steps: [{ kind: say, text: We call you back. }] }] }`;
  await stage.publish(file);
});
afterAll(() => stage.close());

async function conversation(who: string): Promise<{ path: string; page: () => Promise<ConversationPage> }> {
  const { id } = await until(
    () => stage.one<{ id: string } | undefined>('select id from conversation where address = $1', [who]),
    (found) => found !== undefined,
  ).then((found) => found!);
  const path = `${CLIENT}/conversations/${id}`;
  return { path, page: () => operator.get<ConversationPage>(path) };
}

test('a conversation is handed over, answered by hand, and handed back; the loop goes on after it', async () => {
  await stage.write('68001', 'desk', 'Linnet');
  await stage.hears('68001', 1);
  const { path, page } = await conversation('68001');
  expect(await page()).toMatchObject({
    shelf: 'waiting on us',
    held: { by: null, team: 'ticket desk', note: 'Linnet has a question' },
    loop: { name: 'Desk', scenes: [{ id: 'one' }, { id: 'sorry' }] },
  });
  const inbox = await operator.get<InboxPage>('/inbox?shelf=waiting');
  expect(inbox.rows.find((row) => row.who.startsWith('Linnet'))).toMatchObject({
    held: { by: null, team: 'ticket desk' },
  });

  await operator.post(`${path}/acts`, { do: 'write', text: 'Hello Linnet, Ines here.' });
  expect((await stage.hears('68001', 2))[1]).toBe('Hello Linnet, Ines here.');
  await stage.write('68001', 'sailings');
  const recorded = await until(page, (seen) =>
    seen.entries.some((entry) => entry.kind === 'in' && entry.words === 'sailings'),
  );
  expect(recorded.held?.by).toBe(
    (await operator.get<{ account: { name: string } }>('/session')).account.name,
  );
  expect(recorded.entries.findLast((entry) => entry.kind === 'out')).toMatchObject({
    by: recorded.held!.by,
    body: { text: 'Hello Linnet, Ines here.' },
  });
  expect(stage.heard('68001')).toHaveLength(2);

  await operator.post(`${path}/acts`, { do: 'hand back', how: 'resume' });
  expect((await stage.hears('68001', 3))[2]).toBe('Anything else? Write DESK.');
  expect(await page()).toMatchObject({ shelf: 'settled', held: null });
});

test('handed back from a scene, or settled', async () => {
  await stage.write('68002', 'desk');
  await stage.hears('68002', 1);
  const { path, page } = await conversation('68002');
  await operator.post(`${path}/acts`, { do: 'hand back', how: { scene: 'sorry' } });
  expect((await stage.hears('68002', 2))[1]).toBe('We call you back.');
  await stage.write('68002', 'is anybody there');
  await until(page, (seen) => seen.shelf === 'waiting on us');
  await operator.post(`${path}/acts`, { do: 'hand back', how: 'end' });
  await until(page, (seen) => seen.shelf === 'settled');
});

test('stepping into a running loop holds it still; STOP works even then, is in the ledger, and nothing is sent after it', async () => {
  await stage.write('68003', 'sailings');
  await stage.hears('68003', 1);
  const { path, page } = await conversation('68003');
  await operator.post(`${path}/acts`, { do: 'step in' });
  await until(page, (seen) => seen.held !== null);
  await stage.write('68003', 'stop');
  expect((await stage.hears('68003', 2))[1]).toContain('no more messages from Saltmarsh Ferries');
  await until(page, (seen) => seen.optedOut && seen.held === null);
  expect(await operator.raw('post', `${path}/acts`, { do: 'write', text: 'One more thing' })).toMatchObject({
    status: 409,
    body: { detail: expect.stringContaining('opted out') },
  });
  await stage.write('68003', 'sailings');
  await until(page, (seen) => seen.entries.filter((entry) => entry.kind === 'in').length === 3);
  expect(stage.heard('68003')).toHaveLength(2);
  expect(
    await stage.one(
      `
        select what, words, by from consent
        where conversation_id = (select id from conversation where address = '68003')`,
    ),
  ).toEqual({ what: 'opt-out', words: 'stop', by: null });
  const person = await operator.get<PersonPage>(`${CLIENT}/people/${(await page()).person!.id}`);
  expect(person.identities).toMatchObject([{ channel: 'telegram', optedOut: true }]);
  expect(person.timeline).toContainEqual(
    expect.objectContaining({
      words: expect.stringMatching(/^opted out of @/),
      by: expect.objectContaining({ words: 'the person, who wrote “stop”' }),
    }),
  );
  for (const role of ['dartloop_app', 'dartloop_lane'])
    for (const change of ['update consent set words = words', 'delete from consent'])
      await expect(
        stage.db
          .query(`begin; set local role ${role}; ${change}; commit`)
          .finally(() => stage.db.query('rollback')),
      ).rejects.toThrow(/permission denied/);
});

test('what staff write is checked, and only those who may answer can', async () => {
  await stage.write('68004', 'hello');
  const { path } = await conversation('68004');
  expect(await operator.raw('post', `${path}/acts`, { do: 'write', text: '  ' })).toMatchObject({
    status: 400,
  });
  expect(await operator.raw('post', `${path}/acts`, { do: 'dance' })).toMatchObject({ status: 400 });
  expect(await (await stage.as('client')).raw('post', `${path}/acts`, { do: 'step in' })).toMatchObject({
    status: 403,
  });
});
