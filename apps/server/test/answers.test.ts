import type {
  AnswerView,
  BriefPage,
  Pair,
  SheetPage,
  Source,
  SourcePageView,
  SourcesPage,
} from '@dart-loop/contract';
import { strToU8, zipSync } from 'fflate';
import { runClientSheet } from '../src/answers/sheet';
import { WoundClock } from '../src/platform/clock';
import { pdfOf } from './support/pdf';
import { Stage, until } from './support/stage';

// A Tuesday.
const clock = new WoundClock(Date.UTC(2026, 11, 1, 10));
let stage: Stage;
beforeAll(async () => {
  stage = await Stage.open({ clock });
  const where = { country: 'GB', timeZone: 'Europe/London', language: 'en' };
  await stage.api.post('/clients', { name: 'Lantern Hall', ...where });
  const { revision, ...brief } = await stage.api.get<BriefPage>(`${CLIENT}/brief`);
  await stage.api.put(`${CLIENT}/brief?seen=${revision}`, {
    ...brief,
    openingHours: { tuesday: [{ from: '17:00', to: '23:00' }] },
  });
});
afterAll(() => stage.close());

const CLIENT = '/clients/lantern-hall';
const add = (name: string, text: string | Buffer): Promise<Source> =>
  stage.api.file<Source>(`${CLIENT}/sources/documents?name=${encodeURIComponent(name)}`, Buffer.from(text));
const replace = (source: Source, text: string): Promise<Source> =>
  stage.api.file<Source>(`${CLIENT}/sources/${source.id}/content?name=${source.name}`, Buffer.from(text));
const remove = (path: string) => stage.api.raw('DELETE', path);
const page = () => stage.api.get<SourcesPage>(`${CLIENT}/sources`);
const ask = (message: string, more: object = {}) =>
  stage.api.post<AnswerView[]>(`${CLIENT}/sources/ask`, { message, channel: 'telegram', ...more });
const understood = ({ id }: Source) => stage.api.get<SourcePageView>(`${CLIENT}/sources/${id}`);
const SEATS =
  '# Seats\n\n## Wheelchairs\n\nThere are four places for wheelchairs in the first row.\n\n## Popcorn\n\nA small popcorn costs £4.\n';

test('documents of every kind are read, and answered from in their own words', async () => {
  const seats = await add('seats.md', SEATS);
  expect(seats).toMatchObject({
    kind: 'document',
    name: 'seats.md',
    pages: 1,
    passages: 2,
    madeBy: 'Odile Marrow',
  });
  await add(
    'vouchers.pdf',
    pdfOf([
      { text: 'Gift vouchers', size: 18 },
      { text: 'Gift vouchers are sold at the till and are good for two years.', size: 10 },
    ]),
  );
  await add('hire.csv', 'Hall,Price for an evening\nGreat hall,£300\nSmall hall,£120\n');
  await add('lost.html', '<h2>Lost property</h2><p>Lost things are kept for thirty days.</p>');
  const word =
    '<w:document><w:p><w:r><w:t>Dogs are welcome at the early show on Sundays.</w:t></w:r></w:p></w:document>';
  await add('dogs.docx', zipSync({ 'word/document.xml': strToU8(word) }) as Buffer);
  const [answer] = await ask('is there room for a wheelchair?');
  expect(answer).toMatchObject({
    zone: 'answer',
    text: 'There are four places for wheelchairs in the first row.',
    passages: [{ source: 'seats.md', heading: 'Wheelchairs', from: 'source' }],
  });
  expect((await ask('how long are gift vouchers good for'))[0]!.passages[0]!.source).toBe('vouchers.pdf');
  expect((await ask('what does the small hall cost'))[0]!.passages[0]!.text).toContain('£120');
  expect((await ask('i lost my property'))[0]!.passages[0]!.source).toBe('lost.html');
  expect((await ask('are dogs welcome'))[0]!.passages[0]!.source).toBe('dogs.docx');
  expect((await ask('do you repair bicycles'))[0]).toMatchObject({ zone: 'not known', text: null });
});

test('the brief answers by itself, and is right after a change at once', async () => {
  const { brief } = await page();
  expect(brief.map(({ heading }) => heading)).toContain('Opening hours');
  const [today] = await ask('are you open today?');
  expect(today).toMatchObject({ zone: 'answer', passages: [{ from: 'brief', id: null }] });
  expect(today!.text).toMatch(/^Tuesday 1 December: /);
});

test('what cannot be read is refused with a sentence, and nothing of it is kept', async () => {
  const before = (await page()).sources.length;
  await expect(add('a.exe', 'MZ')).rejects.toThrow('are read');
  await expect(add('a.pdf', 'no')).rejects.toThrow('no PDF');
  await expect(add('empty.txt', ' \n ')).rejects.toThrow('no text in it');
  const bomb = zipSync({ 'word/document.xml': new Uint8Array(40_000_000) }, { level: 9 });
  await expect(add('bomb.docx', bomb as Buffer)).rejects.toThrow('more than 30 MB');
  await expect(add('long.pdf', pdfOf([{ text: 'Again', size: 10 }], 10_000))).rejects.toThrow(
    'It has 10000 pages; at most 500 are read.',
  );
  expect((await page()).sources).toHaveLength(before);
});

test('a passage is corrected, muted and known again when its document is replaced', async () => {
  const source = await add(
    'bar.md',
    '# Bar\n\n## Beer\n\nA beer costs £5.\n\n## Cider\n\nA cider costs £6.\n',
  );
  const passages = async () => (await understood(source)).pages[0]!.passages;
  const [beer, cider] = await passages();
  const change = (id: string, body: object) => stage.api.put(`${CLIENT}/passages/${id}`, body);
  await change(beer!.id, { corrected: 'A beer costs £5.50.' });
  expect((await ask('how much is a beer'))[0]!.passages[0]!.text).toBe('A beer costs £5.50.');
  await change(cider!.id, { isMuted: true });
  expect((await ask('how much is a cider'))[0]!.passages.map(({ heading }) => heading)).not.toContain(
    'Cider',
  );
  // The beer's text is the same; the cider's is another, and stays muted.
  await replace(source, '# Bar\n\n## Beer\n\nA beer costs £5.\n\n## Cider\n\nA cider costs £7.\n');
  expect(await passages()).toMatchObject([
    { id: beer!.id, corrected: 'A beer costs £5.50.', isMuted: false },
    { id: cider!.id, text: 'A cider costs £7.', isMuted: true },
  ]);
  // Where what was read is another, what was written over it may be wrong by now.
  await replace(source, '# Bar\n\n## Beer\n\nA beer costs £6.\n');
  expect(await passages()).toMatchObject([{ id: beer!.id, corrected: null, text: 'A beer costs £6.' }]);
  await remove(`${CLIENT}/sources/${source.id}`);
  expect((await ask('how much is a beer'))[0]!.passages.map(({ source: from }) => from)).not.toContain(
    'bar.md',
  );
});

test('a pair answers, by other wordings too, and several can be pasted', async () => {
  await stage.api.post(`${CLIENT}/pairs`, {
    question: 'Can I bring my own food?',
    answer: 'Only water, please.',
  });
  expect((await ask('can i bring my own food'))[0]).toMatchObject({
    zone: 'answer',
    text: 'Only water, please.',
  });
  // In words of which neither their spelling nor their meaning tells enough.
  const asked = 'do you mind if we picnic';
  expect((await ask(asked))[0]!.zone).not.toBe('answer');
  const { pairs } = await page();
  await stage.api.post(`${CLIENT}/sources/confirm`, { question: asked, id: pairs[0]!.id });
  expect((await ask(asked))[0]).toMatchObject({ zone: 'answer', text: 'Only water, please.' });
  await expect(stage.api.post(`${CLIENT}/pairs/paste`, { csv: 'a,b\n1,2' })).rejects.toThrow(
    'name the columns',
  );
  await expect(stage.api.post(`${CLIENT}/pairs/paste`, { csv: 'question,answer\nWho?,\n' })).rejects.toThrow(
    'Line 2: an answer is missing',
  );
  await stage.api.post(`${CLIENT}/pairs/paste`, {
    csv: 'question,answer,wordings\nCan I bring my own food?,Only water.,own snacks|my lunch\nIs there wifi?,Yes.,\n',
  });
  const now: Pair[] = (await page()).pairs;
  expect(now).toHaveLength(2);
  expect(now[0]).toMatchObject({ answer: 'Only water.' });
  expect([...now[0]!.wordings].sort()).toEqual([asked, 'my lunch', 'own snacks'].sort());
});

test('two sources that disagree are both shown, and nothing is said', async () => {
  const one = await add('one.md', '# A\n\n## Locker price\n\nA locker costs £2.\n');
  const other = await add('two.md', '# A\n\n## Locker price\n\nA locker costs £3.\n');
  const [answer] = await ask('how much does a locker cost');
  expect(answer).toMatchObject({ zone: 'not known', text: null });
  expect(answer!.disagree.map(({ source }) => source).sort()).toEqual(['one.md', 'two.md']);
  for (const { id } of [one, other]) await remove(`${CLIENT}/sources/${id}`);
});

test('an SMS is told its parts, and one client’s sources are nobody else’s', async () => {
  const [answer] = await ask('is there room for a wheelchair?', { channel: 'sms' });
  expect(answer).toMatchObject({ zone: 'answer', parts: 1 });
  const [elsewhere] = await stage.api.post<AnswerView[]>('/clients/bramble-row-nursery/sources/ask', {
    message: 'is there room for a wheelchair?',
    channel: 'sms',
  });
  expect(elsewhere!.passages.map(({ source }) => source)).not.toContain('seats.md');
});

test('a question sheet is asked after every change, and says what became better and worse', async () => {
  const sheet = () => stage.api.get<SheetPage>(`${CLIENT}/sheet`);
  const asked = () =>
    until(sheet, ({ rows, isStale }) => !isStale && rows.every(({ came }) => came !== null));
  await expect(
    stage.api.post(`${CLIENT}/sheet/paste`, { csv: 'question,known\na,perhaps\n' }),
  ).rejects.toThrow('known is yes or no');
  await stage.api.post(`${CLIENT}/sheet/paste`, {
    csv: 'question,contains,known\nis there room for a wheelchair?,first row,yes\ndo you repair bicycles,,no\nis there a cloakroom,,yes\n',
  });
  const first = await asked();
  expect(first.rows.map(({ came }) => came)).toEqual(['right', 'open', 'open']);
  expect(first.runs[0]).toMatchObject({
    counts: { right: 1, open: 2, offered: 0, wrong: 0 },
    better: 0,
    worse: 0,
  });
  await stage.api.post(`${CLIENT}/pairs`, {
    question: 'Is there a cloakroom?',
    answer: 'Beside the stairs.',
  });
  const second = await asked();
  expect(second.runs[0]).toMatchObject({
    because: '“Is there a cloakroom?” was answered',
    better: 1,
    worse: 0,
  });
  expect(second.rows[2]).toMatchObject({ came: 'right', cameBefore: 'open', said: 'Beside the stairs.' });
  const seats = (await page()).sources.find(({ name }) => name === 'seats.md')!;
  await remove(`${CLIENT}/sources/${seats.id}`);
  const third = await asked();
  expect(third.runs[0]).toMatchObject({ because: 'seats.md was removed', better: 0, worse: 1 });
  const { id } = third.rows[1]!;
  await stage.api.put(`${CLIENT}/sheet/questions/${id}`, { question: 'do you mend shoes', known: 'no' });
  expect((await asked()).rows[1]).toMatchObject({ question: 'do you mend shoes', cameBefore: null });
  await remove(`${CLIENT}/sheet/questions/${id}`);
  expect((await sheet()).rows).toHaveLength(2);
});

test('a question that is changed while the sheet is asked is asked once more', async () => {
  const { rows } = await stage.db.query<{ id: number }>("select id from client where slug = 'lantern-hall'");
  const asked: string[] = [];
  const answers = {
    async sheet(_clientId: number, questions: { question: string }[]) {
      asked.push(...questions.map(({ question }) => question));
      const [first] = (await stage.api.get<SheetPage>(`${CLIENT}/sheet`)).rows;
      await stage.api.put(`${CLIENT}/sheet/questions/${first!.id}`, { question: 'where is the bar' });
      const answered = { text: 'Said to another question.', found: [] };
      return {
        revision: 1_000_000,
        results: questions.map(() => ({ came: 'right', isAsExpected: true, answered })),
      };
    },
  };
  await runClientSheet(stage.server.database, rows[0]!.id, answers as never, clock);
  const after = await until(
    () => stage.api.get<SheetPage>(`${CLIENT}/sheet`),
    ({ isStale, rows: now }) => !isStale && now.every(({ came }) => came !== null),
  );
  expect(asked).toHaveLength(2);
  expect(after.rows[0]).toMatchObject({ question: 'where is the bar' });
  expect(after.rows[0]!.said).not.toBe('Said to another question.');
});
