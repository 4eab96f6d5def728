import type {
  FieldsPage,
  ImportSpec,
  PeopleCount,
  PeoplePage,
  PersonPage,
  TaskView,
  UploadPage,
} from '@dart-loop/contract';
import { Stage, until } from './support/stage';

let stage: Stage;
beforeAll(async () => {
  stage = await Stage.open({ limits: false });
});
afterAll(() => stage.close());

const FERRIES = '/clients/saltmarsh-ferries';
const bytes = (text: string) => new TextEncoder().encode(text);
const upload = (client: string, name: string, content: Uint8Array) =>
  stage.api.file<UploadPage>(`${client}/people/files?name=${encodeURIComponent(name)}`, content);
const ended = (client: string, id: string) => stage.ended(client, id);

/** Brings a file in as it was guessed, but for what is said otherwise. */
async function bring(client: string, file: UploadPage, more: Partial<ImportSpec> = {}): Promise<TaskView> {
  const task = await stage.api.post<TaskView>(`${client}/people/imports`, {
    uploadId: file.id,
    encoding: file.encoding,
    separator: file.separator,
    uses: file.columns.map((column) => column.use),
    known: 'file wins',
    dry: false,
    ...more,
  });
  return ended(client, task.id);
}
const count = async (where: string, client = FERRIES) =>
  (await stage.api.get<PeopleCount>(`${client}/people/count?where=${encodeURIComponent(where)}`)).total;
const person = async (q: string, client = FERRIES) => {
  const { rows } = await stage.api.get<PeoplePage>(`${client}/people?q=${encodeURIComponent(q)}`);
  return stage.api.get<PersonPage>(`${client}/people/${rows[0]!.id}`);
};

const MESSY = [
  'Vorname;Nachname;E-Mail;Handy;Mitglied Nr;Reisen;Seit;Notiz',
  'Mira;Lund;mira@example.org;07700 900501;001234567890123456;12;03/04/2025;"says ""hello"";',
  'on two lines"',
  'Ole;Tang;ole@example.org;+44;000000000000000001;3;04/04/2025;=cmd|calc',
  'Ada;Brück;not an address;07700 900503;000000000000000002;many;31/02/2025;fine',
  'Kai;Moss;kai@example.org;07700 900504;000000000000000003;1;05/04/2025;fine',
].join('\n');

test('a file is looked at, tried, mended, brought in and taken back', async () => {
  // Latin-1, as a spreadsheet of old writes it.
  const file = await upload(FERRIES, 'members.csv', Buffer.from(MESSY, 'latin1'));
  expect(file).toMatchObject({ format: 'csv', encoding: 'windows-1252', separator: ';' });
  expect(file.columns.map(({ use }) => ('field' in use ? `${use.field}: ${use.type}` : use.as))).toEqual([
    'first name',
    'last name',
    'email: email',
    'phone: phone',
    'mitglied_nr: text',
    'reisen: number',
    'seit: date',
    'notiz: text',
  ]);
  const uses = file.columns.map(({ use }) => use);
  const dry = await bring(FERRIES, file, { uses, dry: true });
  expect(dry).toMatchObject({ state: 'done', total: 4, counts: { made: 2, 'left out': 2 } });
  expect(dry.problems.map(({ row, column, cell }) => [row, column, cell])).toEqual([
    [3, 'Handy', '+44'],
    [4, 'E-Mail', 'not an address'],
    [4, 'Reisen', 'many'],
    [4, 'Seit', '31/02/2025'],
  ]);
  expect(await count('first met in the last 1d')).toBe(0);

  const mends = {
    '3': { Handy: '07700 900502' },
    '4': { 'E-Mail': 'ada@example.org', Reisen: '4', Seit: '28/02/2025' },
  };
  const done = await bring(FERRIES, file, {
    uses,
    mends,
    tags: ['members'],
    lists: ['Member news'],
    optIn: ['sms'],
    stated: 'paper form, spring fair',
  });
  expect(done).toMatchObject({ state: 'done', total: 4, counts: { made: 4 }, problems: [], canUndo: true });
  expect(
    await count('tagged members and on the list Member news and opted in on sms and came from members.csv'),
  ).toBe(0);
  expect(
    await count(
      'tagged members and on the list "Member news" and opted in on sms and came from "paper form, spring fair"',
    ),
  ).toBe(4);
  const mira = await person('mira@example.org');
  expect(mira).toMatchObject({
    name: 'Mira Lund',
    source: 'paper form, spring fair',
    identities: [{ address: '+447700900501', optedIn: true }],
  });
  expect(Object.fromEntries(mira.facts.map((fact) => [fact.key, fact.words]))).toEqual({
    email: 'mira@example.org',
    phone: '+44 7700 900501',
    mitglied_nr: '001234567890123456',
    reisen: '12',
    seit: '2025-04-03',
    notiz: 'says "hello";\non two lines',
  });
  expect(mira.facts[0]!.by!.words).toBe('members.csv, by Odile Marrow');
  expect((await person('Ada')).lists).toHaveLength(1);
  expect((await person('07700 900502')).name).toBe('Ole Tang');

  // Once more: everybody is known by now, and nothing changes but what the file says anew.
  const again = await upload(
    FERRIES,
    'again.csv',
    bytes('email,Reisen\nMIRA@example.org,13\nnew@example.org,1\n'),
  );
  expect(await bring(FERRIES, again, { known: 'fill gaps' })).toMatchObject({
    counts: { made: 1, changed: 1 },
  });
  expect((await person('mira@example.org')).facts.find((fact) => fact.key === 'reisen')!.words).toBe('12');
  const wins = await upload(FERRIES, 'wins.csv', bytes('email,Reisen\nmira@example.org,13\n'));
  const third = await bring(FERRIES, wins);
  expect((await person('mira@example.org')).facts.find((fact) => fact.key === 'reisen')!.words).toBe('13');
  await stage.api.post(`${FERRIES}/tasks/${third.id}/undo`, {});
  expect(await ended(FERRIES, third.id)).toMatchObject({ state: 'undone', canUndo: false });
  expect((await person('mira@example.org')).facts.find((fact) => fact.key === 'reisen')!.words).toBe('12');

  // Whoever has written since stays when the file is taken back, without what the file said.
  await stage.write('+447700900504', 'sailings');
  await until(
    () => stage.heard('+447700900504'),
    (heard) => heard.length > 0,
  );
  expect((await person('kai@example.org')).identities).toHaveLength(1);
  await stage.api.post(`${FERRIES}/tasks/${done.id}/undo`, {});
  expect(await ended(FERRIES, done.id)).toMatchObject({ state: 'undone' });
  expect(await count('tagged members')).toBe(0);
  const kai = await person('07700 900504');
  expect(kai).toMatchObject({ facts: [], tags: [], lists: [] });
  expect(
    await stage.one(
      `
        select count(*)::int as left from consent where words <> $1 and person_id in (select id from person
          where last_name in ($2, $3))`,
      ['x', 'Tang', 'Brück'],
    ),
  ).toEqual({ left: 0 });
});

test('opt-ins need a stated source, and whoever has opted out stays out', async () => {
  await stage.write('+447700900511', 'STOP');
  await until(
    () => stage.heard('+447700900511'),
    (heard) => heard.length === 1,
  );
  const file = await upload(
    FERRIES,
    'consents.csv',
    bytes('name,phone\nGone Away,07700 900511\nStill There,07700 900512\n'),
  );
  const spec = {
    uploadId: file.id,
    encoding: file.encoding,
    separator: file.separator,
    uses: file.columns.map((column) => column.use),
    known: 'file wins',
    dry: false,
    optIn: ['sms'],
  };
  expect(await stage.api.raw('post', `${FERRIES}/people/imports`, spec)).toMatchObject({
    status: 400,
    body: { detail: expect.stringContaining('say where these people opted in') },
  });
  expect(await bring(FERRIES, file, { optIn: ['sms'], stated: 'old till list' })).toMatchObject({
    counts: { made: 1, changed: 1, 'opt-ins passed over': 1 },
  });
  expect((await person('07700 900511')).identities).toMatchObject([{ optedOut: true, optedIn: false }]);
  expect((await person('07700 900512')).identities).toMatchObject([{ optedOut: false, optedIn: true }]);
});

test.each<[string, Uint8Array, string]>([
  [
    'UTF-16',
    Buffer.concat([Buffer.from([0xff, 0xfe]), Buffer.from('first name\ttown\nÖrn\tHarwick\n', 'utf16le')]),
    'Örn',
  ],
  ['a byte order mark', bytes('\uFEFFfirst name,town\nZoë,Harwick\n'), 'Zoë'],
  [
    '200 columns',
    bytes(
      `first name,${Array.from({ length: 199 }, (_, n) => `extra ${n}`).join(',')}\nWide,${Array.from({ length: 199 }, () => '').join(',')}\n`,
    ),
    'Wide',
  ],
])('%s is read right', async (_, content, name) => {
  const file = await upload('/clients/bramble-row-nursery', 'list.csv', content);
  expect(file.columns[0]).toMatchObject({ name: 'first name', use: { as: 'first name' } });
  const uses = file.columns.map(({ use }, at) => (at < 2 ? use : { as: 'nothing' as const }));
  expect(await bring('/clients/bramble-row-nursery', file, { uses })).toMatchObject({
    counts: { made: 1 },
    problems: [],
  });
  expect(await person(name, '/clients/bramble-row-nursery')).toMatchObject({ name });
});

test('half a file brings in what is whole, and says where it was cut off', async () => {
  const file = await upload(FERRIES, 'half.csv', bytes('first name,note\nWhole,fine\nCut,"half a no'));
  const task = await bring(FERRIES, file);
  expect(task).toMatchObject({
    counts: { made: 1, 'left out': 1 },
    problems: [{ row: 3, column: null, reason: expect.stringContaining('cut off') }],
  });
  await expect(upload(FERRIES, 'nothing.csv', bytes(''))).rejects.toThrow('The file is empty.');
});

test('taken out, brought in and taken out again, every format is the same to the byte', async () => {
  const seed = await upload(
    FERRIES,
    'seed.jsonl',
    bytes(
      [
        {
          firstName: '=cmd',
          lastName: 'Öz "the" Great',
          language: 'es',
          tags: ['a; b', 'c'],
          lists: ['News'],
          fields: {
            note: { type: 'text', value: " '=1\n,two" },
            days: { type: 'several of', value: ['Mon; x', 'Fri'] },
            far: { type: 'place', value: { latitude: 51.5, longitude: -0.25, name: 'Quay, north' } },
          },
          identities: [{ line: 'sms', address: '+447700900521', consent: 'opted out' }],
          met: '2025-01-02T03:04:05.678Z',
          seen: '2025-02-02T03:04:05.000Z',
        },
        {
          firstName: 'Plain',
          fields: {
            phone: { type: 'phone', value: '+447700900522' },
            member: { type: 'text', value: '001234567890123456' },
            spent: { type: 'number', value: -12.5 },
            joined: { type: 'date', value: '2024-02-29' },
            keen: { type: 'yes/no', value: true },
          },
          ledger: [
            {
              what: 'opt-in',
              scope: 'list',
              line: null,
              list: 'News',
              words: 'Yes to news',
              wording: 2,
              language: 'en',
              stated: 'fair',
              confirmed: true,
              at: '2025-01-01T00:00:00.000Z',
            },
          ],
        },
      ]
        .map((line) => JSON.stringify(line))
        .join('\n'),
    ),
  );
  expect(seed.format).toBe('jsonl');
  expect(await bring(FERRIES, seed, { stated: 'a seed' })).toMatchObject({
    counts: { made: 2 },
    problems: [],
  });

  for (const format of ['jsonl', 'csv', 'vcard'] as const) {
    const path = `${FERRIES}/people/export?format=${format}&where=${encodeURIComponent('came from "a seed"')}`;
    const first = await stage.api.text(path);
    if (format === 'csv') {
      expect(first).toContain("'=cmd");
      expect(first).toContain(',+447700900522');
      expect(first).toContain('001234567890123456');
    }
    await stage.db.query("select erase_person(client_id, id) from person where source = 'a seed'");
    expect(await count('came from "a seed"')).toBe(0);
    const file = await upload(FERRIES, `people.${format}`, bytes(first));
    expect(await bring(FERRIES, file, { stated: 'brought back' })).toMatchObject({
      state: 'done',
      counts: { made: 2 },
      problems: [],
    });
    expect(await stage.api.text(path)).toBe(first);
  }
});

test('a field’s type is changed with a preview, and changed back', async () => {
  const file = await upload(FERRIES, 'sizes.csv', bytes('first name,boots\nOne,42\nTwo,43\nThree,large\n'));
  await bring(FERRIES, file);
  const page = await stage.api.get<FieldsPage>(`${FERRIES}/fields`);
  expect(page.fields.find((field) => field.key === 'boots')).toMatchObject({ type: 'text', known: 3 });
  expect(await stage.api.post(`${FERRIES}/fields/boots/type`, { type: 'number', dry: true })).toEqual({
    converts: 2,
    lost: [{ words: 'large', reason: '“large” is no number', count: 1 }],
  });
  const task = await stage.api.post<TaskView>(`${FERRIES}/fields/boots/type`, { type: 'number', dry: false });
  expect(await ended(FERRIES, task.id)).toMatchObject({
    state: 'done',
    counts: { converted: 2, 'did not convert': 1 },
  });
  expect(await count('boots is above 42')).toBe(1);
  await stage.api.post(`${FERRIES}/tasks/${task.id}/undo`, {});
  await ended(FERRIES, task.id);
  expect(await count('boots is large')).toBe(1);
  expect(
    (await stage.api.get<FieldsPage>(`${FERRIES}/fields`)).fields.find((field) => field.key === 'boots'),
  ).toMatchObject({
    type: 'text',
  });
});

test('a field is refused while it is in use, and shared with other clients', async () => {
  expect(await stage.api.raw('delete', `${FERRIES}/fields/boots`)).toMatchObject({
    status: 409,
    body: { detail: expect.stringContaining('3 people have a value') },
  });
  await stage.api.post(`${FERRIES}/fields`, {
    key: 'shoe_colour',
    type: 'one of',
    name: 'Shoe colour',
    options: ['Red', 'Blue'],
    personal: false,
    description: 'For hire',
  });
  const { fields } = await stage.api.post<FieldsPage>(`${FERRIES}/fields/share`, {
    keys: ['shoe_colour'],
    clients: ['northgate-climbing'],
  });
  expect(fields.find((field) => field.key === 'shoe_colour')).toMatchObject({ shared: 'same' });
  const there = await stage.api.get<FieldsPage>('/clients/northgate-climbing/fields');
  expect(there.fields.find((field) => field.key === 'shoe_colour')).toMatchObject({
    type: 'one of',
    options: ['Red', 'Blue'],
    description: 'For hire',
  });
  await stage.api.put('/clients/northgate-climbing/fields/shoe_colour', {
    name: 'Colour of shoes',
    description: 'For hire',
    options: ['Red'],
    personal: false,
  });
  expect(
    (await stage.api.get<FieldsPage>('/clients/northgate-climbing/fields')).fields.find(
      (field) => field.key === 'shoe_colour',
    )!.shared,
  ).toEqual([
    'here it is called Colour of shoes, shared Shoe colour',
    'here one may choose Red, shared Red, Blue',
  ]);
  expect(
    (await stage.api.get<FieldsPage>('/clients/kestrel-language-school/fields')).missing.map(
      (field) => field.key,
    ),
  ).toEqual(['shoe_colour']);
});
