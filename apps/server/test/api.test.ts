import { execFile } from 'node:child_process';
import { join } from 'node:path';
import { promisify } from 'node:util';
import SwaggerParser from '@apidevtools/swagger-parser';
import pg from 'pg';
import {
  PutPersonAnswer,
  type ApiEvent,
  type AuditRow,
  type ApiPerson,
  type KeyRow,
  type MadeKey,
  type SendingSettings,
  type PersonPage,
  type Scope,
} from '@dart-loop/contract';
import { Stage, until } from './support/stage';

const CLIENT = '/clients/saltmarsh-ferries';
const ALL: Scope[] = ['read people', 'write people', 'start loops', 'read events'];
const exec = promisify(execFile);

let stage: Stage;
let token: string;
beforeAll(async () => {
  stage = await Stage.open({ limits: false });
  await stage.fields(CLIENT, {
    town: 'text',
    seats: 'number',
    alerts: 'yes/no',
    sails_on: 'date',
    routes: 'several of',
  });
  // At any time of day: what a system starts is asked for by nobody.
  await stage.api.put(`${CLIENT}/sending`, {
    ...(await stage.api.get<SendingSettings>(`${CLIENT}/sending`)),
    quiet: { sms: null },
  });
  ({ token } = await makeKey('Till', ALL));
});
afterAll(() => stage.close());

const makeKey = (name: string, scopes: Scope[]) =>
  stage.api.post<MadeKey>(`${CLIENT}/keys`, { name, scopes });

/** A call as another system makes it. */
async function call<T = Record<string, unknown>>(
  method: string,
  path: string,
  body?: unknown,
  key: string | null = token,
) {
  const answer = await fetch(`${stage.server.address}/v1${path}`, {
    method,
    headers: {
      ...(key && { authorization: `Bearer ${key}` }),
      ...(body !== undefined && { 'content-type': 'application/json' }),
    },
    ...(body !== undefined && { body: JSON.stringify(body) }),
  });
  return {
    status: answer.status,
    body: (await answer.json()) as T & { detail?: string },
    headers: answer.headers,
  };
}
const put = async (body: object) => {
  const { status, body: answer } = await call<PutPersonAnswer>('PUT', '/people', body);
  if (status !== 200) throw new Error(`${status} ${answer.detail}`);
  return PutPersonAnswer.parse(answer);
};

describe('keys', () => {
  test('a key is shown once, may what it says, is named in what it did, and is withdrawn', async () => {
    const { token: reader } = await makeKey('Reader', ['read people']);
    const rows = await stage.api.get<KeyRow[]>(`${CLIENT}/keys`);
    expect(rows.find(({ name }) => name === 'Reader')).toMatchObject({
      hint: reader.slice(-4),
      scopes: ['read people'],
      lastUsedAt: null,
    });
    expect(JSON.stringify(rows)).not.toContain(reader);
    expect(await call('GET', '/people', undefined, reader)).toMatchObject({ status: 200 });
    expect(await call('PUT', '/people', { by: { email: 'x@example.org' } }, reader)).toMatchObject({
      status: 403,
      body: { detail: 'The key “Reader” may read people; this needs: write people.' },
    });
    await expect(makeKey('Reader', ['read people'])).rejects.toThrow(/has a key “Reader” already/);
    await expect(makeKey('None', [])).rejects.toThrow(/choose at least one thing/);
    const { id, lastUsedAt } = (await stage.api.get<KeyRow[]>(`${CLIENT}/keys`)).find(
      ({ name }) => name === 'Reader',
    )!;
    expect(lastUsedAt).not.toBeNull();
    expect(await stage.api.raw('DELETE', `${CLIENT}/keys/${id}`)).toMatchObject({ status: 204 });
    expect(await call('GET', '/people', undefined, reader)).toMatchObject({ status: 401 });
    await expect((await stage.as('operator')).get(`${CLIENT}/keys`)).rejects.toThrow(/does not include/);
  });
  test.each([[null], ['short'], ['x'.repeat(43)]])('%s is no key', async (key) => {
    expect(await call('GET', '/people', undefined, key)).toMatchObject({
      status: 401,
      body: { title: 'No key' },
    });
  });
  test('its use stands in the audit once an hour, and again when it comes from elsewhere', async () => {
    const { token: key } = await makeKey('Ledger', ['read people']);
    const noted = async () =>
      (await stage.api.get<AuditRow[]>('/audit?client=saltmarsh-ferries')).filter(
        ({ what, detail }) => what === 'was called with a key of the API' && detail.key === 'Ledger',
      );
    for (let count = 0; count < 3; count++) await call('GET', '/people', undefined, key);
    expect(await noted()).toMatchObject([{ by: null, detail: { what: 'readPeople' }, address: '127.0.0.1' }]);
    await stage.db.query("update api_key set noted_from = '192.0.2.7' where name = 'Ledger'");
    await call('GET', '/people', undefined, key);
    expect(await noted()).toHaveLength(2);
    await stage.db.query("update api_key set noted_at = noted_at - interval '61 min' where name = 'Ledger'");
    await call('GET', '/people', undefined, key);
    expect(await noted()).toHaveLength(3);
  });
  test('a key sees its own client alone', async () => {
    const { person } = await put({ by: { email: 'only.here@example.org' } });
    const { token: other } = await stage.api.post<MadeKey>('/clients/bramble-row-nursery/keys', {
      name: 'Other',
      scopes: ALL,
    });
    expect((await call('GET', `/people/${person.id}`, undefined, other)).status).toBe(404);
    expect(
      (await call<{ people: [] }>('GET', '/people?limit=500', undefined, other)).body.people.map(
        ({ id }) => id,
      ),
    ).not.toContain(person.id);
    expect((await call('PUT', '/people', { by: { id: person.id }, firstName: 'X' }, other)).status).toBe(404);
    expect((await call<{ events: ApiEvent[] }>('GET', '/events', undefined, other)).body.events).toEqual([]);
  });
  test('one key that calls too often is told when to go on; others are not', async () => {
    const { token: eager } = await makeKey('Eager', ['read people']);
    const statuses = new Map<number, number>();
    for (let at = 0; at < 13; at++)
      for (const { status } of await Promise.all(
        Array.from({ length: 50 }, () => call('GET', '/lines', undefined, eager)),
      ))
        statuses.set(status, (statuses.get(status) ?? 0) + 1);
    expect([...statuses].sort()).toEqual([
      [200, 600],
      [429, 50],
    ]);
    const refused = await call('GET', '/lines', undefined, eager);
    expect(Number(refused.headers.get('retry-after'))).toBeGreaterThan(0);
    expect((await call('GET', '/lines')).status).toBe(200);
  });
});

describe('people', () => {
  test('are made, found again by email, phone and id, and changed by what is given alone', async () => {
    const first = await put({
      by: { email: 'Iris@Example.org' },
      firstName: 'Iris',
      fields: {
        phone: '07700 900 321',
        town: 'Harwick',
        seats: 4,
        alerts: true,
        sails_on: '2026-12-24',
        routes: ['Harwick', 'Fenwater'],
      },
      tagsOn: ['till'],
    });
    expect(first).toMatchObject({
      made: true,
      passedOver: [],
      person: {
        firstName: 'Iris',
        tags: ['till'],
        source: 'Till',
        fields: {
          email: 'Iris@example.org',
          phone: '+447700900321',
          town: 'Harwick',
          seats: 4,
          alerts: true,
          sails_on: '2026-12-24',
          routes: ['Harwick', 'Fenwater'],
        },
      },
    });
    const again = await put({
      by: { phone: '+44 7700 900321' },
      fields: { seats: null, town: 'Fenwater' },
      tagsOff: ['till'],
    });
    expect(again).toMatchObject({
      made: false,
      person: { id: first.person.id, firstName: 'Iris', tags: [] },
    });
    expect(again.person.fields).not.toHaveProperty('seats');
    expect((await put({ by: { email: 'iris@example.org' }, lastName: 'Tallow' })).person).toMatchObject({
      id: first.person.id,
      lastName: 'Tallow',
    });
    expect((await call<ApiPerson>('GET', `/people/${first.person.id}`)).body).toMatchObject({
      lastName: 'Tallow',
      fields: { town: 'Fenwater' },
    });
    // Who did it stands with the value.
    const page = await stage.api.get<PersonPage>(`${CLIENT}/people/${first.person.id}`);
    expect(page.facts.find(({ key }) => key === 'town')!.by).toMatchObject({ words: 'Till' });
  });
  test.each([
    [{ by: {} }, /exactly one of id, email or phone/],
    [{ by: { email: 'a@example.org', phone: '+447700900001' } }, /exactly one/],
    [{ by: { email: 'not one' } }, /by.email: “not one” does not fit/],
    [
      { by: { email: 'a@example.org' }, fields: { height: 4 } },
      /fields.height: the client has no field “height”/,
    ],
    [{ by: { email: 'a@example.org' }, fields: { seats: 'many' } }, /fields.seats: “many” does not fit/],
    [
      { by: { email: 'a@example.org' }, fields: { town: ['a', 'b'] } },
      /fields.town: .*it is a list, and the field takes one value/,
    ],
    [{ by: { email: 'a@example.org' }, listsOn: ['News'] }, /stated: say what the opt-in rests on/],
    [
      { by: { email: 'a@example.org' }, identities: [{ line: 'fax', address: '+447700900001' }] },
      /the client has no line “fax”/,
    ],
    [
      { by: { email: 'a@example.org' }, identities: [{ line: 'telegram', address: '123456' }] },
      /only numbers on SMS and WhatsApp/,
    ],
    [{ by: { email: 'a@example.org' }, nothing: 1 }, /nothing/i],
  ])('%j is refused with a sentence, and nothing is written', async (body, reason) => {
    const before = await stage.one<{ n: number }>('select count(*)::int as n from person');
    const { status, body: answer } = await call('PUT', '/people', body);
    expect(status).toBe(400);
    expect(answer.detail).toMatch(reason);
    expect(await stage.one('select count(*)::int as n from person')).toEqual(before);
  });
  test('the same new person told twenty times at once is one person', async () => {
    const all = await Promise.all(
      Array.from({ length: 20 }, (_, n) =>
        put({ by: { email: 'twenty@example.org' }, fields: { seats: n } }),
      ),
    );
    expect(new Set(all.map(({ person }) => person.id)).size).toBe(1);
    expect(all.filter(({ made }) => made)).toHaveLength(1);
  });
  test('who wins is as the call says', async () => {
    const { person } = await put({ by: { email: 'wins@example.org' }, fields: { town: 'Harwick' } });
    const tell = (town: string | null, more: object) =>
      put({ by: { id: person.id }, fields: { town }, ...more });
    expect(await tell('Fenwater', { wins: 'ours' })).toMatchObject({
      person: { fields: { town: 'Harwick' } },
      passedOver: ['town: what we know stays'],
    });
    expect(
      (await tell('Fenwater', { wins: 'newest', changedAt: '2020-01-01T00:00:00Z' })).person.fields.town,
    ).toBe('Harwick');
    expect((await tell(null, { wins: 'newest', changedAt: '2020-01-01T00:00:00Z' })).person.fields.town).toBe(
      'Harwick',
    );
    const soon = new Date().toISOString();
    expect((await tell('Fenwater', { wins: 'newest', changedAt: soon })).person.fields.town).toBe('Fenwater');
    // Told late, but of before: it does not go back.
    expect(
      (await tell('Harwick', { wins: 'newest', changedAt: new Date(Date.parse(soon) - 1).toISOString() }))
        .person.fields.town,
    ).toBe('Fenwater');
    expect((await tell('Marrow Bay', {})).person.fields.town).toBe('Marrow Bay');
  });
  test('opt-ins rest on what is stated, stand in the ledger once, and never against an opt-out', async () => {
    const phone = '+447700900777';
    const body = {
      by: { phone },
      identities: [{ line: 'sms', address: phone, optIn: true }],
      listsOn: ['Sailing news'],
      stated: 'asked at the till',
    };
    const { person } = await put(body);
    expect(person).toMatchObject({
      lists: ['Sailing news'],
      identities: [{ line: 'sms', channel: 'sms', optedIn: true, optedOut: false }],
    });
    expect(await put(body)).toMatchObject({ made: false, passedOver: [], person: { id: person.id } });
    const ledger = await stage.db.query(
      'select what, scope, list, stated, by from consent where person_id = $1 order by id',
      [person.id],
    );
    const by = { kind: 'system', name: 'Till' };
    expect(ledger.rows).toEqual([
      { what: 'opt-in', scope: 'list', list: 'Sailing news', stated: 'asked at the till', by },
      { what: 'opt-in', scope: 'line', list: null, stated: 'asked at the till', by },
    ]);
    await stage.write(phone, 'STOP');
    await stage.hears(phone, 1);
    expect((await put(body)).passedOver).toEqual([
      'opt-ins on lines: they have opted out there, and only they can opt in again',
    ]);
    expect((await call<ApiPerson>('GET', `/people/${person.id}`)).body.identities).toMatchObject([
      { optedIn: false, optedOut: true },
    ]);
    // A number is one person's: whoever else claims it does not get it.
    const other = await put({ by: { email: 'claims@example.org' }, firstName: 'Claims' });
    expect((await put({ ...body, by: { id: other.person.id }, listsOn: [] })).passedOver).toEqual([
      `${phone} on sms: it belongs to somebody else`,
    ]);
  });
  test('are read page by page, each once', async () => {
    const seen: string[] = [];
    let cursor: string | null = '';
    while (cursor !== null) {
      const page: { body: { people: ApiPerson[]; next: string | null } } = await call(
        'GET',
        `/people?limit=7${cursor && `&cursor=${cursor}`}`,
      );
      seen.push(...page.body.people.map(({ id }) => id));
      cursor = page.body.next;
    }
    const { ids } = await stage.one<{ ids: string[] }>(
      'select array_agg(id::text order by id) as ids from person where client_id = 1',
    );
    expect(seen).toEqual(ids);
    expect((await call('GET', '/people?cursor=x')).status).toBe(400);
    expect((await call('GET', '/people?limit=501')).status).toBe(400);
  });
});

describe('loops and events', () => {
  beforeAll(() =>
    stage.publish(
      '{ format: dart-loop/1, name: Till welcome, lines: [sms], cues: [{ kind: keyword, words: [till], match: exactly }], scenes: [{ name: One, steps: [{ kind: set, changes: [{ do: add tag, tag: welcomed }] }, { kind: say, text: "Welcome aboard, {{ person.first_name }}." }] }] }',
    ),
  );
  test('a loop is started for somebody who agreed, and what happened is read in order', async () => {
    const phone = '+447700900888';
    const { person } = await put({
      by: { phone },
      firstName: 'Ada',
      identities: [{ line: 'sms', address: phone, optIn: true }],
      stated: 'asked at the till',
    });
    const last = (await call<{ next: string }>('GET', '/events?limit=500')).body.next;
    const start = (loop: string, id = person.id) => call('POST', `/people/${id}/loops`, { loop });
    expect(await start('till welcome')).toMatchObject({
      status: 200,
      body: { started: true, loop: 'Till welcome' },
    });
    expect((await stage.hears(phone, 1))[0]).toContain('Welcome aboard, Ada.');
    const events = await until(
      async () =>
        (await call<{ events: ApiEvent[] }>('GET', `/events?cursor=${last}`)).body.events.filter(
          ({ subject }) => subject === person.id,
        ),
      (found) => found.length >= 3,
    );
    expect(events.map(({ type, data }) => [type, data])).toEqual(
      expect.arrayContaining([
        ['run.began', expect.objectContaining({ loop: 'Till welcome', version: 1 })],
        ['person.tag.changed', { tag: 'welcomed', on: true }],
        ['run.ended', expect.objectContaining({ how: 'finished' })],
      ]),
    );
    expect(await start('No such')).toMatchObject({
      status: 404,
      body: { detail: 'loop: the client has no live loop “No such”.' },
    });
    const nowhere = await put({ by: { email: 'nowhere@example.org' } });
    expect(await start('Till welcome', nowhere.person.id)).toMatchObject({ status: 409 });
    expect((await start('Till welcome', '00000000-0000-7000-8000-000000000000')).status).toBe(404);
    expect((await call<{ loops: object[] }>('GET', '/loops')).body.loops).toContainEqual({
      name: 'Till welcome',
      lines: ['sms'],
    });
  });
  test('the first run of somebody who was never met before is among them', async () => {
    const from = (await call<{ next: string }>('GET', '/events?limit=500')).body.next;
    await stage.write('+447700900889', 'till');
    await stage.hears('+447700900889', 1);
    await until(
      async () =>
        (await call<{ events: ApiEvent[] }>('GET', `/events?cursor=${from}`)).body.events.map(
          ({ type }) => type,
        ),
      (types) => types.includes('run.began') && types.includes('run.ended'),
    );
  });
  test('no event turns up behind a reader, whichever transaction ends first', async () => {
    const { person } = await put({ by: { email: 'order@example.org' } });
    const first = await call<{ events: ApiEvent[]; next: string }>('GET', '/events?limit=500');
    let cursor = first.body.next;
    const ofPerson = ({ subject }: ApiEvent) => subject === person.id;
    const readAll = async () => {
      const { body } = await call<{ events: ApiEvent[]; next: string }>('GET', `/events?cursor=${cursor}`);
      cursor = body.next;
      return body.events.filter(ofPerson);
    };
    // That the person was made is told once nothing older is under way; so it may come a moment later.
    if (!first.body.events.some(ofPerson)) await until(readAll, (events) => events.length > 0);
    const write = (db: pg.Client, tag: string) =>
      db.query(
        'insert into tag_change (client_id, person_id, tag, is_on, at, by) values (1, $1, $2, true, now(), \'{"kind": "person"}\')',
        [person.id, tag],
      );
    const [early, late] = await Promise.all(
      [1, 2].map(async () => {
        const db = new pg.Client({ connectionString: stage.databases.owner });
        await db.connect();
        return db;
      }),
    );
    const read = async () => (await readAll()).map(({ data }) => data.tag);
    await early!.query('begin');
    // It has its place before the other, and writes after it.
    await early!.query('select pg_current_xact_id()');
    await write(late!, 'late');
    expect(await read()).toEqual([]);
    await write(early!, 'early');
    await early!.query('commit');
    expect(
      await until(
        async () => read(),
        (tags) => tags.length > 0,
      ),
    ).toEqual(['early', 'late']);
    expect(await read()).toEqual([]);
    await Promise.all([early!.end(), late!.end()]);
    expect((await call('GET', '/events?cursor=then')).status).toBe(400);
  });
  test('with the person go their events', async () => {
    const { person } = await put({ by: { email: 'goes@example.org' }, tagsOn: ['gone soon'] });
    const kept = () =>
      stage.one<{ n: number }>('select count(*)::int as n from happening where person_id = $1', [person.id]);
    expect((await kept()).n).toBeGreaterThan(0);
    await stage.api.post(`${CLIENT}/people/actions`, {
      people: { ids: [person.id] },
      action: { do: 'erase', reason: 'asked for it' },
    });
    await until(kept, ({ n }) => n === 0);
  });
});

describe('the OpenAPI document', () => {
  test('is a valid one, and says of every operation what it takes and gives', async () => {
    const document = await (await fetch(`${stage.server.address}/v1/openapi.json`)).json();
    const parsed = (await SwaggerParser.validate(structuredClone(document))) as unknown as {
      openapi: string;
      paths: Record<string, Record<string, { operationId: string }>>;
    };
    expect(parsed.openapi).toBe('3.1.0');
    expect(
      Object.values(parsed.paths)
        .flatMap((methods) => Object.values(methods).map(({ operationId }) => operationId))
        .sort(),
    ).toEqual([
      'putPerson',
      'readEvents',
      'readFields',
      'readLines',
      'readLoops',
      'readPeople',
      'readPerson',
      'startLoop',
    ]);
    expect(document).toMatchObject({
      paths: {
        '/people': {
          put: {
            requestBody: {
              content: {
                'application/json': { schema: { properties: { by: { type: 'object' } }, required: ['by'] } },
              },
            },
          },
        },
      },
    });
  });
  test('is all that a script of somebody else’s needs to make a person, set fields, start a loop and read what happened', async () => {
    const { stdout } = await exec(
      process.execPath,
      [
        join(__dirname, '../../../docs/examples/outside-system.mjs'),
        'script@example.org',
        '+447700900999',
        'Till welcome',
      ],
      {
        env: { ...process.env, DARTLOOP: stage.server.address, DARTLOOP_KEY: token },
      },
    );
    expect(stdout).toMatch(/^made [0-9a-f-]{36} .*"seats":4/);
    expect(stdout).toContain('run.began {"run"');
    expect((await stage.hears('+447700900999', 1))[0]).toContain('Welcome aboard, Mira.');
  });
});
