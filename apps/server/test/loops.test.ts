import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import type { Loop, LoopPage, LoopRow } from './support/stage';
import { Stage } from './support/stage';

let stage: Stage;
beforeAll(async () => void (stage = await Stage.open()));
afterAll(() => stage.close());

const CLIENT = '/clients/northgate-climbing';
const FILE = readFileSync(join(__dirname, '../../../demo/northgate-climbing/first-visit.yaml'), 'utf8');
const take = async (file = FILE) =>
  `${CLIENT}/loops/${(await stage.api.post<{ id: string }>(`${CLIENT}/loops/import`, { file })).id}`;
const reword = (loop: Loop, text: string): Loop => {
  const copy = structuredClone(loop);
  (copy.scenes[0]!.steps[0] as { text: string }).text = text;
  return copy;
};

test('export, import, export gives the same bytes, by the server too', async () => {
  const path = await take();
  for (const as of ['yaml', 'json']) {
    const once = (await fetchText(`${path}/file?as=${as}`)).text;
    const again = await take(once);
    expect((await fetchText(`${again}/file?as=${as}`)).text).toBe(once);
  }
  const { headers } = await fetchText(`${path}/file`);
  expect(headers.get('content-disposition')).toBe('attachment; filename="first-visit.yaml"');
});

async function fetchText(path: string) {
  const response = await fetch(`${stage.server.address}/api${path}`, {
    headers: { cookie: stage.api.cookie },
  });
  return { text: await response.text(), headers: response.headers };
}

test('a draft is saved on the revision it stands on, and on no other', async () => {
  const path = await take();
  const page = await stage.api.get<LoopPage>(path);
  const first = await stage.api.put<LoopPage>(`${path}/draft`, {
    revision: page.revision,
    loop: reword(page.draft, 'First'),
  });
  expect(first.revision).toBe(page.revision + 1);
  const bram = await stage.as('builder');
  const second = await bram.raw('put', `${path}/draft`, {
    revision: page.revision,
    loop: reword(page.draft, 'Second'),
  });
  expect(second).toMatchObject({
    status: 409,
    body: {
      savedBy: 'Odile Marrow',
      revision: first.revision,
      detail: expect.stringContaining('Nothing of yours was written over theirs'),
    },
  });
  expect((await stage.api.get<LoopPage>(path)).draft).toEqual(first.draft);
  // Of twenty that save at once on the same revision, one goes through.
  const answers = await Promise.all(
    Array.from({ length: 20 }, (_, at) =>
      bram.raw('put', `${path}/draft`, { revision: first.revision, loop: reword(page.draft, `Draft ${at}`) }),
    ),
  );
  expect(answers.filter((answer) => answer.status === 200)).toHaveLength(1);
  expect(answers.filter((answer) => answer.status === 409)).toHaveLength(19);
});

test('a draft that is no loop is refused with the field, and nothing is half-written', async () => {
  const path = await take();
  const page = await stage.api.get<LoopPage>(path);
  const broken = structuredClone(page.draft) as unknown as { scenes: { steps: { kind: string }[] }[] };
  broken.scenes[0]!.steps[0]!.kind = 'dance';
  const refused = await stage.api.raw('put', `${path}/draft`, { revision: page.revision, loop: broken });
  expect(refused).toMatchObject({ status: 400, body: { errors: [{ field: 'loop.scenes.0.steps.0.kind' }] } });
  expect(await stage.api.get<LoopPage>(path)).toEqual(page);
});

test('publishing freezes a version, makes its fields, says what changed, and leaves a trail', async () => {
  const path = await take(
    FILE.replace('field: party_size', 'field: climbers').replace('person.party_size', 'person.climbers'),
  );
  const page = await stage.api.get<LoopPage>(path);
  expect(page).toMatchObject({ live: null, differences: ['everything is new'], problems: [] });
  const one = await stage.api.post<LoopPage>(`${path}/publish`, { revision: page.revision });
  expect(one).toMatchObject({ live: { version: 1, publishedBy: 'Odile Marrow' }, differences: [] });
  expect(one.fields).toContainEqual({ key: 'climbers', type: 'number', name: 'climbers' });
  expect(await stage.api.raw('post', `${path}/publish`, { revision: page.revision })).toMatchObject({
    status: 422,
    body: { detail: 'The draft is the same as the live version.' },
  });
  const saved = await stage.api.put<LoopPage>(`${path}/draft`, {
    revision: page.revision,
    loop: reword(page.draft, 'Hello again.'),
  });
  expect(await stage.api.raw('post', `${path}/publish`, { revision: page.revision })).toMatchObject({
    status: 409,
  });
  await stage.api.post(`${path}/publish`, { revision: saved.revision });
  const id = path.split('/').at(-1);
  const { rows } = await stage.db.query<{ version: number; changes: string[]; loop: Loop }>(
    'select version, changes, loop from loop_version where loop_id = $1 order by version',
    [id],
  );
  expect(rows.map((row) => row.changes)).toEqual([['first version'], ['scene 1: text reworded']]);
  expect(rows[0]!.loop).toEqual(page.draft);
  const trail = await stage.db.query<{ what: string }>(
    "select what from audit where detail ->> 'loopId' = $1 order by id",
    [id],
  );
  expect(trail.rows.map((row) => row.what)).toEqual([
    'imported a loop',
    'published a loop',
    'wrote in a draft',
    'published a loop',
  ]);
});

test('what stands in the way of publishing is refused with its reasons', async () => {
  const { id } = await stage.api.post<{ id: string }>(`${CLIENT}/loops`, { name: '  Empty  ' });
  const path = `${CLIENT}/loops/${id}`;
  expect((await stage.api.get<LoopPage>(path)).draft.name).toBe('Empty');
  expect(await stage.api.raw('post', `${path}/publish`, { revision: 1 })).toMatchObject({
    status: 422,
    body: {
      detail: expect.stringContaining('Nothing starts this loop yet'),
      problems: [{ code: 'no cue' }, { code: 'empty scene' }],
    },
  });
  // A field cannot become of another type by a second loop.
  const other = await take(FILE.replace('reply: number', 'reply: text'));
  expect(await stage.api.raw('post', `${other}/publish`, { revision: 1 })).toMatchObject({
    status: 422,
    body: { problems: [{ code: 'field type' }] },
  });
  const elsewhere = await take(FILE.replace('lines: []', 'lines: [fax]'));
  expect((await stage.api.get<LoopPage>(elsewhere)).problems).toMatchObject([{ code: 'unknown line' }]);
});

test('a wrong file is refused with line, column and a sentence, and makes no loop', async () => {
  const before = (await stage.api.get<LoopRow[]>(`${CLIENT}/loops`)).length;
  const refused = await stage.api.raw('post', `${CLIENT}/loops/import`, {
    file: FILE.replace('kind: say', 'kind: shout'),
  });
  expect(refused).toMatchObject({
    status: 422,
    body: {
      detail: expect.stringMatching(/^Line \d+, column \d+: .*not a kind of step/),
      problems: [{ line: expect.any(Number), column: expect.any(Number) }],
    },
  });
  expect(await stage.api.raw('post', `${CLIENT}/loops/import`, { file: '' })).toMatchObject({ status: 400 });
  expect(await stage.api.get<LoopRow[]>(`${CLIENT}/loops`)).toHaveLength(before);
});
