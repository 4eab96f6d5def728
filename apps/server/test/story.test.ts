import type {
  ConversationPage,
  InboxPage,
  LoopPage,
  LoopRow,
  PeoplePage,
  PersonPage,
} from '@dart-loop/contract';
import { Stage, until } from './support/stage';

let stage: Stage;
beforeAll(async () => void (stage = await Stage.open()));
afterAll(() => stage.close());

const CLIENT = '/clients/saltmarsh-ferries';
const person = async (q: string) => {
  const { rows } = await stage.api.get<PeoplePage>(`${CLIENT}/people?q=${encodeURIComponent(q)}`);
  return stage.api.get<PersonPage>(`${CLIENT}/people/${rows[0]!.id}`);
};

test('on Telegram: keyword, tap, bad email, email, and the value stands with who set it and when', async () => {
  const who = '62001';
  await stage.write(who, 'sailings', 'Maren');
  await until(
    () => stage.heard(who),
    (heard) => heard.length === 1,
  );
  await stage.tap(who, 'Yes, keep me posted');
  await until(
    () => stage.heard(who),
    (heard) => heard.length === 2,
  );
  await stage.tap(who, 'Harwick to Saint Orrin');
  await until(
    () => stage.heard(who),
    (heard) => heard.length === 3,
  );
  await stage.write(who, 'maren at example');
  const retried = await until(
    () => stage.heard(who),
    (heard) => heard.length === 4,
  );
  expect(retried[3]).toBe(
    'That does not look like a whole email address. It has an @ in the middle, such as mira@example.org.',
  );
  await stage.write(who, 'maren@example.org');
  await until(
    () => stage.heard(who),
    (heard) => heard.length === 5,
  );
  await stage.write(who, 'yes please');
  const all = await until(
    () => stage.heard(who),
    (heard) => heard.length === 6,
  );
  expect(all[5]).toBe(
    'You are on the list for Harwick to Saint Orrin. The timetable goes to maren@example.org. Call us on +44 1632 960144 if anything is wrong.',
  );

  const page = await person('Maren');
  expect(page.facts.find((fact) => fact.key === 'email')).toMatchObject({
    type: 'email',
    words: 'maren@example.org',
    by: { words: 'Sailing alerts, version 1' },
  });
  expect(page.facts.find((fact) => fact.key === 'bicycle')).toMatchObject({ type: 'yes/no', words: 'yes' });
  expect(page.tags).toMatchObject([{ tag: 'alerts', by: { words: 'Sailing alerts, version 1' } }]);
  expect(page.timeline.filter((entry) => entry.kind === 'run').map((entry) => entry.words)).toEqual([
    'Sailing alerts was finished',
    'Sailing alerts began, version 1',
  ]);
  expect(Date.now() - Date.parse(page.facts[0]!.at!)).toBeLessThan(120_000);

  const talk = await stage.api.get<ConversationPage>(`${CLIENT}/conversations/${page.identities[0]!.id}`);
  expect(talk.shelf).toBe('settled');
  const stages = talk.entries.filter((entry) => entry.kind === 'stage');
  expect(stages[0]!.words.join(' ')).toBe('“SAILINGS” was heard exactly. Sailing alerts begins.');
  expect(stages[0]!.decision!.candidates).toMatchObject([
    { who: 'Sailing alerts', outcome: 'won' },
    { who: 'Newsletter', outcome: 'lost', reason: 'its match is broader (whole word, against exactly)' },
  ]);
  expect(talk.entries.map((entry) => entry.seq)).toEqual(
    [...talk.entries.map((entry) => entry.seq)].sort((a, b) => a - b),
  );
});

test('on SMS: letters instead of buttons, and after the last retry the exit is taken', async () => {
  const who = '+447700900301';
  await stage.write(who, 'SAILINGS');
  const hello = await until(
    () => stage.heard(who),
    (heard) => heard.length === 1,
  );
  expect(hello[0]).toBe(
    'Hello there. This is Saltmarsh Ferries. Want a message when a sailing is moved or cancelled?\nA Yes, keep me posted\nB Not today\nWrite STOP to end these messages.',
  );
  for (const [text, count] of [
    ['a', 2],
    ['skerry', 3],
    ['nope', 4],
    ['no idea', 5],
    ['none', 6],
  ] as const) {
    await stage.write(who, text);
    await until(
      () => stage.heard(who),
      (heard) => heard.length === count,
    );
  }
  expect(stage.heard(who).slice(3)).toEqual([
    'That does not look like a whole email address. It has an @ in the middle, such as mira@example.org.',
    'That does not look like a whole email address. It has an @ in the middle, such as mira@example.org.',
    'No matter, the alerts come here either way. The timetable is also on the pier.',
  ]);
  const page = await person('900301');
  expect(page.facts.map((fact) => fact.key)).toEqual(['crossing']);
});

test('a text changed and published is said in the next conversation; those on the way stay on theirs', async () => {
  const onTheWay = '62002';
  await stage.write(onTheWay, 'sailings');
  await until(
    () => stage.heard(onTheWay),
    (heard) => heard.length === 1,
  );

  const loops = await stage.api.get<LoopRow[]>(`${CLIENT}/loops`);
  const path = `${CLIENT}/loops/${loops.find((loop) => loop.name === 'Sailing alerts')!.id}`;
  const page = await stage.api.get<LoopPage>(path);
  // Its takes would say, rightly, that the text is another.
  const draft = { ...structuredClone(page.draft), takes: undefined };
  (draft.scenes[1]!.steps[0] as { text: string }).text = 'Which boat, then?';
  const saved = await stage.api.put<LoopPage>(`${path}/draft`, { revision: page.revision, loop: draft });
  expect(saved.differences).toEqual(['scene 2: text reworded']);
  const published = await stage.api.post<LoopPage>(`${path}/publish`, { revision: saved.revision });
  expect(published.live!.version).toBe(2);

  await stage.tap(onTheWay, 'Yes, keep me posted');
  const old = await until(
    () => stage.heard(onTheWay),
    (heard) => heard.length === 2,
  );
  expect(old[1]).toBe('Which crossing do you use most?');
  const next = '62003';
  await stage.write(next, 'sailings');
  await until(
    () => stage.heard(next),
    (heard) => heard.length === 1,
  );
  await stage.tap(next, 'Yes, keep me posted');
  const heard = await until(
    () => stage.heard(next),
    (each) => each.length === 2,
  );
  expect(heard[1]).toBe('Which boat, then?');
});

test('what no loop can answer waits for a person, on the right shelf and in Today', async () => {
  await stage.write('62004', 'can i bring two bikes', 'Tobin');
  const inbox = await until(
    () => stage.api.get<InboxPage>('/inbox?shelf=waiting'),
    (page) => page.rows.length === 1,
  );
  expect(inbox.rows[0]).toMatchObject({
    who: 'Tobin',
    lastWords: 'can i bring two bikes',
    client: { slug: 'saltmarsh-ferries' },
  });
  const today = await stage.api.get<{ attention: { words: string }[] }>('/today');
  expect(today.attention[0]!.words).toContain('1 person waits for a person');
  await stage.write('62004', 'ferry');
  await until(
    () => stage.api.get<InboxPage>('/inbox?shelf=waiting'),
    (page) => page.rows.length === 0,
  );
});

test('open screens are told of a change without asking', async () => {
  const response = await fetch(`${stage.server.address}/api/live`, { headers: { cookie: stage.api.cookie } });
  const reader = response.body!.getReader();
  const told = (async () => {
    let text = '';
    while (!text.includes('data:')) text += new TextDecoder().decode((await reader.read()).value);
    return text;
  })();
  await stage.write('62005', 'sailings');
  expect(await told).toContain('"clients":[1]');
  await reader.cancel();
});
