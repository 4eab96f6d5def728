import type {
  AuditRow,
  ClientsPage,
  CopiedTo,
  LeftToDo,
  LoopRow,
  LoopPage,
  WebhooksPage,
} from '@dart-loop/contract';
import { Stage, until } from './support/stage';

let stage: Stage;
beforeAll(async () => {
  stage = await Stage.open();
});
afterAll(() => stage.close());

const ALL = [
  'fields',
  'lists',
  'segments',
  'calendars',
  'sending',
  'destinations',
  'webhooks',
  'loops',
  'menus',
];
const FROM = 'saltmarsh-ferries';
/** Every table that has rows of clients. */
async function tenantTables(): Promise<string[]> {
  const { rows } = await stage.db.query<{ name: string }>(
    `
      select c.relname as name from pg_class c join pg_attribute a on a.attrelid = c.oid
        and a.attname = 'client_id'
      where c.relkind in ('r', 'p') and not c.relispartition and c.relnamespace = 'public'::regnamespace`,
  );
  return rows.map(({ name }) => name);
}

/** How many rows of every tenant table a client has. */
async function rowsOf(slug: string): Promise<Record<string, number>> {
  const found: Record<string, number> = {};
  for (const name of await tenantTables()) {
    const { rows: counted } = await stage.db.query<{ count: number }>(
      `
        select count(*)::int as count from "${name}" where client_id = (select id from client where slug = $1)`,
      [slug],
    );
    found[name] = counted[0]!.count;
  }
  return found;
}
const addedOf = (copied: CopiedTo, part: string) => copied.parts.find((each) => each.part === part)!.added;

test('what a copy would bring is shown, and nothing of it stays', async () => {
  const before = await rowsOf('northgate-climbing');
  const clients = await stage.one('select count(*)::int as count from client');
  const looked = await stage.api.post<CopiedTo[]>('/set-up-copies/preview', {
    from: FROM,
    to: ['northgate-climbing'],
    newClients: ['Tern Island Ferries'],
    parts: ALL,
  });
  expect(looked.map(({ name, slug, isNew }) => ({ name, slug, isNew }))).toEqual([
    { name: 'Northgate Climbing', slug: 'northgate-climbing', isNew: false },
    { name: 'Tern Island Ferries', slug: null, isNew: true },
  ]);
  expect(addedOf(looked[1]!, 'loops')).toContain('Sailing alerts');
  expect(await rowsOf('northgate-climbing')).toEqual(before);
  expect(await stage.one('select count(*)::int as count from client')).toEqual(clients);
});

test('a set-up goes to three new clients and one that is there; what is left to do stays until it is done', async () => {
  await stage.api.post(`/clients/${FROM}/webhooks`, { hook: 'sailing-moved' });
  await stage.api.post(`/clients/${FROM}/segments`, { name: 'On Telegram', rule: { reach: 'telegram' } });
  await stage.publish(
    '{ format: dart-loop/1, name: Desk, lines: [telegram], cues: [{ kind: keyword, words: [desk], match: exactly }], scenes: [{ name: S, steps: [{ kind: alert, by: email, to: [desk@saltmarsh.example], text: Somebody }, { kind: say, text: "Ring {{ brief.phone }}." }] }] }',
  );
  const copied = await stage.api.post<CopiedTo[]>('/set-up-copies', {
    from: FROM,
    to: ['northgate-climbing'],
    newClients: ['Tern Island Ferries', 'Gull Island Ferries', 'Auk Island Ferries'],
    parts: ALL,
  });
  expect(copied.map(({ slug }) => slug)).toEqual([
    'northgate-climbing',
    'tern-island-ferries',
    'gull-island-ferries',
    'auk-island-ferries',
  ]);
  const [climbing, tern] = copied as [CopiedTo, CopiedTo];
  const here = await rowsOf(FROM);
  const there = await rowsOf('tern-island-ferries');
  for (const table of ['field', 'list', 'segment', 'calendar', 'destination', 'inlet', 'loop'])
    expect({ table, rows: there[table] }).toEqual({ table, rows: here[table] });
  expect({
    people: there.person,
    lines: there.line,
    keys: there.api_key,
    versions: there.loop_version,
  }).toEqual({
    people: 0,
    lines: 0,
    keys: 0,
    versions: 0,
  });
  const secrets = await stage.one<{ count: number }>(
    `
      select count(*)::int as count from destination
      where client_id = (select id from client where slug = 'tern-island-ferries')
        and (secrets is not null or state <> 'off')`,
  );
  expect(secrets.count).toBe(0);

  // Loops are drafts; alerts go to nobody of the other client's; lines are those of the same channel.
  const loops = await stage.api.get<LoopRow[]>('/clients/tern-island-ferries/loops');
  expect(loops.every(({ liveVersion }) => liveVersion === null)).toBe(true);
  const desk = await stage.api.get<LoopPage>(
    `/clients/tern-island-ferries/loops/${loops.find(({ name }) => name === 'Desk')!.id}`,
  );
  expect(JSON.stringify(desk.draft)).not.toContain('desk@saltmarsh.example');
  expect(desk.draft.lines).toEqual(['telegram']);
  const segment = await stage.one<{ rule: unknown }>(
    `
      select s.rule from segment s join client c on c.id = s.client_id
      where c.slug = 'northgate-climbing' and s.name = 'On Telegram'`,
  );
  expect(segment.rule).toEqual({ reach: 'telegram' });

  // What is left.
  const left = () => stage.api.get<LeftToDo[]>('/clients/tern-island-ferries/left-to-do');
  const words = (await left()).map((each) => each.words);
  expect(words).toEqual(tern.left);
  expect(words).toEqual(
    expect.arrayContaining([
      'Connect a Telegram line: what was copied speaks there.',
      'Fill in “phone” in the brief: loops that were copied say it.',
      'Look through “Desk”, choose whom its alerts go to, and publish it.',
      'Make a new address for the incoming webhook “sailing-moved”, and give it to the system that calls it.',
    ]),
  );
  const phone = (await left()).find((each) => each.words.includes('“phone”'))!;
  expect(phone).toMatchObject({ place: 'brief', from: 'Saltmarsh Ferries' });
  await stage.db.query(
    `update client set brief = '{"phone": "+44 1632 960155"}' where slug = 'tern-island-ferries'`,
  );
  expect((await left()).map(({ id }) => id)).not.toContain(phone.id);
  const hook = (await left()).find((each) => each.words.includes('sailing-moved'))!;
  const { inlets } = await stage.api.get<WebhooksPage>('/clients/tern-island-ferries/webhooks');
  const { address } = await stage.api.post<{ address: string }>(
    `/clients/tern-island-ferries/webhooks/${inlets[0]!.id}/address`,
    {},
  );
  expect(address).toMatch(/\/in\/[\w-]{43}$/);
  expect(
    (await stage.api.post<LeftToDo[]>(`/clients/tern-island-ferries/left-to-do/${hook.id}/done`, {})).length,
  ).toBe(words.length - 2);

  // Once more: what is there is left as it is.
  const again = await stage.api.post<CopiedTo[]>('/set-up-copies', {
    from: FROM,
    to: ['tern-island-ferries', 'northgate-climbing'],
    newClients: [],
    parts: ALL.filter((part) => part !== 'menus'),
  });
  expect(again.flatMap(({ parts }) => parts.flatMap(({ added }) => added))).toEqual([]);
  expect(addedOf(climbing, 'loops')).toContain('Desk');
  const audit = await stage.api.get<AuditRow[]>('/audit');
  expect(audit.map(({ what }) => what)).toContain('copied a set-up');
});

test('one client that is not there, and none of the others gets anything', async () => {
  const before = await rowsOf('kestrel-language-school');
  const copy = (more: object) =>
    stage.api.raw('post', '/set-up-copies', {
      from: FROM,
      to: ['kestrel-language-school', 'nowhere'],
      newClients: [],
      parts: ALL,
      ...more,
    });
  expect(await copy({})).toMatchObject({
    status: 404,
    body: { detail: 'There is no client “nowhere”, or it is not one of yours.' },
  });
  expect(await rowsOf('kestrel-language-school')).toEqual(before);
  expect(await copy({ to: [FROM] })).toMatchObject({ status: 400 });
  expect(await copy({ to: [], newClients: [] })).toMatchObject({
    status: 400,
    body: { detail: expect.stringContaining('choose a client, or name a new one') },
  });
  const builder = await stage.as('builder');
  expect((await builder.raw('post', '/set-up-copies', {})).status).toBe(403);
});

test('a client is deleted from the archive by its name, leaves a receipt and nothing else, and takes nothing of others', async () => {
  const [gone] = await stage.api.post<CopiedTo[]>('/set-up-copies', {
    from: FROM,
    to: [],
    newClients: ['Petrel Island Ferries'],
    parts: ALL,
  });
  const path = `/clients/${gone!.slug}`;
  await stage.api.post(`${path}/people`, { firstName: 'Mira', fields: {} });
  await stage.db.query(
    `
      insert into account_client (account_id, client_id)
      select (select min(id) from account), id from client where slug = $1`,
    [gone!.slug],
  );
  const others = ['saltmarsh-ferries', 'tern-island-ferries'];
  const before = await Promise.all(others.map(rowsOf));
  const its = await stage.one<{ id: number }>('select id from client where slug = $1', [gone!.slug]);
  const remove = (name: string) => stage.api.raw('post', `/archived-clients/${its.id}/delete`, { name });
  expect((await remove('Petrel Island Ferries')).status).toBe(404);
  await stage.api.post(`${path}/archive`, {});
  expect(await remove('Petrel')).toMatchObject({ status: 400, body: { errors: [{ field: 'name' }] } });
  expect((await remove(' Petrel Island Ferries ')).status).toBe(204);
  expect((await stage.api.raw('post', `/archived-clients/${its.id}/restore`, {})).status).toBe(404);
  const { archived, deleted } = await until(
    () => stage.api.get<ClientsPage>('/clients'),
    (page) => page.deleted[0]?.doneAt !== null,
  );
  expect(archived.map(({ name }) => name)).not.toContain('Petrel Island Ferries');
  expect(deleted[0]).toMatchObject({
    name: 'Petrel Island Ferries',
    counts: { person: 1, left_to_do: expect.any(Number) },
  });
  expect(await stage.one('select count(*)::int as count from client where id = $1', [its.id])).toEqual({
    count: 0,
  });
  for (const name of await tenantTables())
    expect({
      name,
      left: (await stage.db.query(`select from "${name}" where client_id = $1 limit 1`, [its.id])).rowCount,
    }).toEqual({ name, left: 0 });
  expect(await Promise.all(others.map(rowsOf))).toEqual(before);
});
