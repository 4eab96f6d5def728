import type { PeoplePage, PersonPage, Proof, TaskView, UploadPage } from '@dart-loop/contract';
import { Stage, until } from './support/stage';

/**
 * What an import has made of opt-ins and opt-outs is undone exactly: whatever counted before it counts again.
 */
const CLIENT = '/clients/saltmarsh-ferries';
let stage: Stage;
beforeAll(async () => void (stage = await Stage.open({ limits: false })));
afterAll(() => stage.close());

const bytes = (text: string) => new TextEncoder().encode(text);
const person = async (q: string) => {
  const { rows } = await stage.api.get<PeoplePage>(`${CLIENT}/people?q=${encodeURIComponent(q)}`);
  return stage.api.get<PersonPage>(`${CLIENT}/people/${rows[0]!.id}`);
};
async function bring(file: string, more: object = {}, name = 'people.csv'): Promise<TaskView> {
  const upload = await stage.api.file<UploadPage>(`${CLIENT}/people/files?name=${name}`, bytes(file));
  const task = await stage.api.post<TaskView>(`${CLIENT}/people/imports`, {
    uploadId: upload.id,
    encoding: upload.encoding,
    separator: upload.separator,
    uses: upload.columns.map(({ use }) => use),
    known: 'file wins',
    dry: false,
    stated: 'till form',
    ...more,
  });
  return stage.ended(CLIENT, task.id);
}
async function undo({ id }: TaskView): Promise<TaskView> {
  await stage.api.post(`${CLIENT}/tasks/${id}/undo`, {});
  return until(
    () => stage.api.get<TaskView>(`${CLIENT}/tasks/${id}`),
    ({ state }) => ['undone', 'failed', 'stopped'].includes(state),
  );
}
const sms = async (number: string) => {
  const { identities } = await person(number);
  const found = identities.find(({ channel }) => channel === 'sms');
  return found && { optedIn: found.optedIn, optedOut: found.optedOut };
};
const refusal = (number: string) =>
  stage.one<{ refusal: string | null }>(
    `
      select refusal(client_id, id, null, true) from conversation
      where address = $1 and line_id in (select id from line where channel = $2)`,
    [number, 'sms'],
  );

test('somebody who was neither in nor out is neither again; somebody who came back by START is in; somebody who left is out', async () => {
  const [neither, back, gone] = ['+447700900641', '+447700900642', '+447700900643'];
  for (const who of [neither, back, gone]) {
    await stage.write(who, 'sailings');
    await stage.hears(who, 1);
  }
  await stage.write(back, 'STOP');
  await stage.hears(back, 2);
  await stage.write(back, 'START');
  await stage.hears(back, 3);
  await stage.write(gone, 'STOP');
  await stage.hears(gone, 2);
  const before = await Promise.all([neither, back, gone].map(sms));
  const done = await bring(`first name,phone\nNeither,${neither}\nBack,${back}\nGone,${gone}\n`, {
    optIn: ['sms'],
  });
  expect(done).toMatchObject({ state: 'done', counts: { changed: 3, 'opt-ins passed over': 1 } });
  expect(await sms(neither)).toEqual({ optedIn: true, optedOut: false });
  expect(await undo(done)).toMatchObject({ state: 'undone' });
  expect(await Promise.all([neither, back, gone].map(sms))).toEqual(before);
  expect(before).toEqual([
    { optedIn: false, optedOut: false },
    { optedIn: true, optedOut: false },
    { optedIn: false, optedOut: true },
  ]);
  expect(await refusal(neither)).toEqual({ refusal: null });
  expect(await refusal(back)).toEqual({ refusal: null });
  expect(await refusal(gone)).toEqual({ refusal: 'opted out' });
  // The ledger is only added to: what was recorded stands there, and that it was undone.
  const { id } = await person(neither);
  const { entries } = await stage.api.get<Proof>(`${CLIENT}/people/${id}/proof`);
  expect(entries.map(({ what }) => what)).toEqual(['opt-in', 'undone']);
});

test('a list that somebody was put on, and a number that was brought, are gone; what a person has said since counts', async () => {
  const { id } = await stage.api.post<{ id: string }>(`${CLIENT}/people`, {
    firstName: 'Wren',
    lastName: 'Undone',
  });
  await stage.fields(CLIENT, { email: 'email' });
  await stage.api.put(`${CLIENT}/people/${id}`, { fields: { email: 'wren.undone@example.org' } });
  const done = await bring('email,phone\nwren.undone@example.org,+447700900651\n', {
    optIn: ['sms'],
    lists: ['Spring'],
  });
  expect(await person('Wren Undone')).toMatchObject({
    lists: [{ list: 'Spring' }],
    identities: [{ address: '+447700900651', optedIn: true }],
  });
  expect(await undo(done)).toMatchObject({ state: 'undone' });
  expect(await person('Wren Undone')).toMatchObject({ lists: [], identities: [] });
  // The same number may come again, and to somebody else.
  const again = await bring('first name,phone\nSomebody Else,+447700900651\n', { optIn: ['sms'] });
  expect(again).toMatchObject({ counts: { made: 1 } });
  await stage.write('+447700900651', 'STOP');
  await until(
    () => sms('+447700900651'),
    (now) => now?.optedOut === true,
  );
  await undo(again);
  expect(await sms('+447700900651')).toEqual({ optedIn: false, optedOut: true });
});

test('undoing can be stopped, and gone on with; many rows take no longer than bringing them in', async () => {
  const rows = Array.from({ length: 6_000 }, (_, at) => `Many${at},+4477${String(at).padStart(8, '0')}`).join(
    '\n',
  );
  const began = performance.now();
  const done = await bring(`first name,phone\n${rows}\n`, { optIn: ['sms'] });
  const importing = performance.now() - began;
  expect(done).toMatchObject({ state: 'done', counts: { made: 6_000 } });
  await stage.api.post(`${CLIENT}/tasks/${done.id}/undo`, {});
  await stage.api.post(`${CLIENT}/tasks/${done.id}/stop`, {});
  const stopped = await stage.ended(CLIENT, done.id);
  expect(stopped).toMatchObject({ state: 'stopped', canUndo: true });
  const undoing = performance.now();
  expect(await undo(done)).toMatchObject({ state: 'undone' });
  // A generous bound for a busy machine; it was hundreds of times as long.
  expect(performance.now() - undoing).toBeLessThan(5 * importing + 5_000);
  expect(await stage.one("select count(*)::int as left from person where first_name like 'Many%'")).toEqual({
    left: 0,
  });
}, 300_000);

test.each(['jsonl', 'vcard'] as const)(
  'taken out as %s, brought in and taken out again, those who have opted out are the same to the byte',
  async (format) => {
    const number = format === 'jsonl' ? '+447700900661' : '+447700900662';
    await stage.write(number, 'sailings');
    await stage.hears(number, 1);
    await stage.write(number, 'STOP');
    await stage.hears(number, 2);
    const { id } = await person(number);
    await stage.api.put(`${CLIENT}/people/${id}`, { firstName: `Out ${format}`, tagsOn: [`out-${format}`] });
    const path = `${CLIENT}/people/export?format=${format}&where=${encodeURIComponent(`tag out-${format}`)}`;
    const first = await stage.api.text(path);
    expect(first).toContain('opt-out');
    const client = await stage.one<{ id: number }>("select id from client where slug = 'saltmarsh-ferries'");
    await stage.db.query('select erase_person($1, $2)', [client.id, id]);
    expect(await bring(first, {}, `people.${format}`)).toMatchObject({ state: 'done', counts: { made: 1 } });
    expect(await stage.api.text(path)).toBe(first);
    expect(await sms(number)).toEqual({ optedIn: false, optedOut: true });
  },
);

test('undoing that is stopped before it has begun is stopped, and can be gone on with', async () => {
  const done = await bring('first name,phone\nEarly,+447700900671\n');
  // As where both presses come before a worker has looked.
  await stage.db.query("update task set state = 'stopping' where id = $1", [done.id]);
  stage.server.path.wakeTasks();
  expect(await stage.ended(CLIENT, done.id)).toMatchObject({ state: 'stopped', canUndo: true });
  expect(await undo(done)).toMatchObject({ state: 'undone' });
});
