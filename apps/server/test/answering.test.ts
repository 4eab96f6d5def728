import type {
  DraftsPage,
  SheetPage,
  SourcePageView,
  SourcesPage,
  TodayPage,
  UnansweredPage,
} from '@dart-loop/contract';
import { startServer } from '../src/server';
import { Stage, until } from './support/stage';

let stage: Stage;
beforeAll(async () => {
  stage = await Stage.open({ limits: false });
});
afterAll(() => stage.close());

const CLIENT = '/clients/saltmarsh-ferries';
const LOOP = `
format: dart-loop/1
name: Ask us
cues: [{ kind: keyword, words: [ask], match: first word }]
scenes:
  - id: one
    name: Questions
    steps:
      - kind: answer
        text: What would you like to know?
        notKnown: { text: I cannot say that. Somebody of ours can., times: 3, to: team }
        person: team
        noReply: { after: 1d, to: end }
      - { kind: say, text: See you on board. }
  - id: team
    name: Team
    steps: [{ kind: hand over, text: Somebody writes to you., giveUp: { after: 1d, to: end } }]
`;
const UNKNOWN = 'I cannot say that. Somebody of ours can.';
const NOTES = `# On board

## Dogs

Dogs are welcome on deck and travel free.

## Bicycles

A bicycle costs £2 on every boat.
`;
const DOGS = 'Dogs are welcome on deck and travel free.';
const open = () => stage.api.get<UnansweredPage>(`${CLIENT}/unanswered`).then(({ groups }) => groups);

/** Somebody who has begun the loop. */
async function begun(who: string, name: string): Promise<void> {
  await stage.write(who, 'ask', name);
  expect((await stage.hears(who, 1)).at(-1)).toBe('What would you like to know?');
}

test('what somebody asks on a line is answered from the sources, in their words, and used passages are counted', async () => {
  await stage.api.file(`${CLIENT}/sources/documents?name=board.md`, Buffer.from(NOTES));
  await stage.publish(LOOP);
  await begun('71001', 'Anna');
  await stage.write('71001', 'are dogs welcome on deck', 'Anna');
  expect((await stage.hears('71001', 2)).slice(1)).toEqual([DOGS]);
  await stage.write('71001', 'thanks', 'Anna');
  expect((await stage.hears('71001', 3)).slice(2)).toEqual(['See you on board.']);
  const { sources } = await stage.api.get<SourcesPage>(`${CLIENT}/sources`);
  const { id } = sources.find(({ name }) => name === 'board.md')!;
  const { pages } = await stage.api.get<SourcePageView>(`${CLIENT}/sources/${id}`);
  expect(pages[0]!.passages.map(({ headings, used }) => [headings.at(-1), used])).toEqual([
    ['Dogs', 1],
    ['Bicycles', 0],
  ]);
});

test('by SMS it is answered too', async () => {
  await stage.write('+447700900777', 'ask are dogs welcome on deck');
  expect((await stage.hears('+447700900777', 1)).at(-1)).toContain(DOGS);
});

test('what the sources do not say is collected, grouped, said on Today, and leaves once it is answered', async () => {
  await begun('71002', 'Bram');
  for (const [at, text] of ['who painted the funnel', 'who painted that funnel then'].entries()) {
    await stage.write('71002', text, 'Bram');
    expect((await stage.hears('71002', at + 2)).at(-1)).toBe(UNKNOWN);
  }
  await begun('71003', 'Cleo');
  await stage.write('71003', 'do you sell umbrellas', 'Cleo');
  expect((await stage.hears('71003', 2)).at(-1)).toBe(UNKNOWN);
  const groups = await open();
  expect(groups.map(({ wordings, count, why }) => [wordings, count, why])).toEqual([
    [['who painted that funnel then', 'who painted the funnel'], 2, 'not known'],
    [['do you sell umbrellas'], 1, 'not known'],
  ]);
  expect(groups[0]!.asked).toMatchObject([{ name: 'Bram', loop: 'Ask us' }, { name: 'Bram' }]);
  const today = await stage.api.get<TodayPage>('/today');
  expect(today.attention.find(({ id }) => id === 'unanswered-saltmarsh-ferries')).toMatchObject({
    words: 'The sources do not answer 3 questions. First: “who painted that funnel then”, asked 2 times.',
    action: { href: '/saltmarsh-ferries/answers/open' },
  });

  // One tap writes the pair, with every wording.
  const [funnel, umbrellas] = groups;
  await stage.api.post(`${CLIENT}/pairs`, {
    question: 'Who painted the funnel?',
    answer: 'The school of Harwick painted it in 2019.',
    wordings: funnel!.wordings,
    settles: funnel!.ids,
  });
  expect((await open()).map(({ question }) => question)).toEqual(['do you sell umbrellas']);
  await stage.write('71002', 'and who painted the funnel', 'Bram');
  expect((await stage.hears('71002', 4)).at(-1)).toBe('The school of Harwick painted it in 2019.');

  // What another source says from now on leaves by itself.
  await stage.api.post(`${CLIENT}/pairs`, {
    question: 'Do you sell umbrellas?',
    answer: 'Umbrellas are £6 at the desk.',
  });
  await until(open, (left) => left.length === 0);
  expect(umbrellas!.ids).toHaveLength(1);
});

test('loops that answer wait for the sheet, where the client wishes that', async () => {
  const sheet = () => stage.api.get<SheetPage>(`${CLIENT}/sheet`);
  const question = { question: 'who painted the funnel', contains: ['blue whale'], least: 'answer' };
  const { id } = await stage.api.post<{ id: string }>(`${CLIENT}/sheet/questions`, question);
  await until(sheet, ({ isStale, rows }) => !isStale && rows.every(({ came }) => came !== null));
  await stage.api.put(`${CLIENT}/sheet`, { gates: true });
  const second = LOOP.replace('name: Ask us', 'name: Ask more').replace('words: [ask]', 'words: [more]');
  await expect(stage.publish(second)).rejects.toThrow(
    /On the client’s sheet \d questions? do(?:es)? not come out as expected/,
  );
  await stage.api.put(`${CLIENT}/sheet`, { gates: false });
  await stage.publish(second.replace('name: Ask more', 'name: Ask still more'));
  await stage.api.raw('DELETE', `${CLIENT}/sheet/questions/${id}`);
});

test('what is none of our business is set aside; others may not, and see nothing of it', async () => {
  await begun('71004', 'Dilys');
  await stage.write('71004', 'can you marry us in Gretna', 'Dilys');
  await stage.hears('71004', 2);
  const [group] = await open();
  const operator = await stage.as('operator');
  const path = `${CLIENT}/unanswered`;
  expect((await operator.raw('GET', path)).status).toBe(403);
  expect((await operator.raw('POST', `${path}/not-ours`, { ids: group!.ids })).status).toBe(403);
  await stage.api.post(`${path}/not-ours`, { ids: group!.ids });
  expect(await open()).toEqual([]);
  expect((await stage.api.raw('POST', `${path}/not-ours`, { ids: group!.ids })).status).toBe(404);
});

test('messages that come at once get one answer each at the most, and every question is met', async () => {
  await begun('71005', 'Edda');
  await Promise.all([
    stage.write('71005', 'are dogs welcome on deck', 'Edda'),
    stage.write('71005', 'what does a bicycle cost', 'Edda'),
  ]);
  const heard = await until(
    () => stage.heard('71005').slice(1).join('\n'),
    (said) => said.includes('Dogs are welcome') && said.includes('£2'),
  );
  await stage.nothingLeft();
  expect(stage.heard('71005').slice(1).join('\n')).toBe(heard);
  expect(heard.match(/Dogs are welcome/g)).toHaveLength(1);
});

test('a person of the team who steps in is not talked over, and a wish for one is met', async () => {
  await begun('71006', 'Finn');
  await stage.write('71006', 'can I talk to a real person', 'Finn');
  expect((await stage.hears('71006', 2)).at(-1)).toBe('Somebody writes to you.');
  await stage.write('71006', 'are dogs welcome on deck', 'Finn');
  await stage.nothingLeft();
  expect(stage.heard('71006')).toHaveLength(2);
});

test('questions that could not be asked of the sources are said on Today', async () => {
  await stage.db.query(
    `
      insert into errand (client_id, id, conversation_id, line_id, kind, body, by, status, next_at, made_at, answer)
      select client_id, gen_random_uuid(), id, line_id, 'ask sources', '{"question": "are you open"}', '{}',
        'failed', now(), now(), '{"reason": "it took too long"}'
      from conversation where address = '71001'`,
  );
  const { attention } = await stage.api.get<TodayPage>('/today');
  expect(attention.map(({ words }) => words)).toContain(
    '1 question could not be asked of the sources since yesterday: it took too long.',
  );
});

test('who waits for a person of the team has drafts from the sources; nobody else has', async () => {
  await stage.write('71011', 'are dogs welcome on deck', 'Iris');
  const conversation = () =>
    stage.one<{ id: string; shelf: string }>("select id, shelf from conversation where address = '71011'");
  const { id } = await until(conversation, (found) => found?.shelf === 'waiting on us');
  const operator = await stage.as('operator');
  const drafts = () => operator.get<DraftsPage>(`${CLIENT}/conversations/${id}/drafts`);
  expect(await drafts()).toEqual({ drafts: [{ text: DOGS, from: 'On board, Dogs', isSure: true }] });
  await operator.post(`${CLIENT}/conversations/${id}/acts`, { do: 'write', text: 'Yes, they are.' });
  await stage.hears('71011', 1);
  expect(await drafts()).toEqual({ drafts: [] });
  await stage.write('71011', 'who invented the compass', 'Iris');
  await stage.nothingLeft();
  expect(await drafts()).toEqual({ drafts: [] });
  const looker = await stage.as('client');
  expect((await looker.raw('GET', `${CLIENT}/conversations/${id}/drafts`)).status).toBe(403);
});

test('who is erased leaves no question behind', async () => {
  await begun('71007', 'Gwen');
  await stage.write('71007', 'do you rent out canoes', 'Gwen');
  await stage.hears('71007', 2);
  const [group] = await open();
  const { person_id } = await stage.one<{ person_id: string }>(
    'select person_id from conversation where id = $1',
    [group!.asked[0]!.conversationId],
  );
  await stage.api.post(`${CLIENT}/people/actions`, {
    people: { ids: [person_id] },
    action: { do: 'erase', reason: 'asked for it' },
  });
  await until(open, (left) => left.length === 0);
  expect(
    (
      await stage.one<{ count: number }>('select count(*)::int as count from asked where question like $1', [
        '%canoes%',
      ])
    ).count,
  ).toBe(0);
});

test('the answer is given though the server is stopped while the sources are asked', async () => {
  await begun('71008', 'Hope');
  // What was asked and not answered yet is as if the process had been killed then.
  await stage.server.stop();
  await stage.db.query(
    `
      insert into pending (client_id, line_id, conversation_id, event_id, place, ready_at, happened_at, body)
      select c.client_id, c.line_id, c.id, null, null, now(), now(),
        '{"incoming": {"kind": "text", "text": "are dogs welcome on deck"}}'::jsonb
      from conversation c where c.address = '71008'`,
  );
  stage.server = await startServer({ ...stage.config, port: 0 });
  expect((await stage.hears('71008', 2)).at(-1)).toBe(DOGS);
});
