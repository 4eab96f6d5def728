import pg from 'pg';
import {
  PERMISSIONS,
  ROLES,
  may,
  type Grant,
  type KeyRow,
  type Permission,
  type Role,
  type WebhooksPage,
} from '@dart-loop/contract';
import type { Api } from '../../../cli/api';
import { Stage, until } from './support/stage';

let stage: Stage;
const accounts = {} as Record<Role, Api>;
const known: Record<string, string> = {};
/** What the demo’s operator is given; whom nothing is given: below. */
const GRANTED: Record<Role, Grant[]> = {
  owner: [],
  builder: [],
  operator: ['people', 'bookings'],
  client: [],
};
beforeAll(async () => {
  stage = await Stage.open();
  for (const role of ROLES) accounts[role] = await stage.as(role);
  await stage.write('63001', 'sailings');
  await until(
    () => stage.heard('63001'),
    (heard) => heard.length === 1,
  );
  const ids = await stage.one<{ loop: string; conversation: string; person: string; account: number }>(
    `
      select (select id from loop where client_id = 1 order by position limit 1) as loop, (select id
        from conversation limit 1) as conversation, (select person_id from conversation limit 1) as person,
        (select id from account where role = 'client') as account`,
  );
  const client = '/clients/saltmarsh-ferries';
  const destination = await stage.api.post<{ id: string }>(
    `${client}/destinations`,
    BODIES['post /clients/:client/destinations'],
  );
  await stage.api.post(`${client}/webhooks`, { hook: 'of-this-client' });
  await stage.api.post(`${client}/keys`, { name: 'Of this client', scopes: ['read people'] });
  const { inlets } = await stage.api.get<WebhooksPage>(`${client}/webhooks`);
  const [key] = await stage.api.get<KeyRow[]>(`${client}/keys`);
  Object.assign(known, {
    loopId: ids.loop,
    conversationId: ids.conversation,
    personId: ids.person,
    lineId: '1',
    inletId: String(inlets[0]!.id),
    keyId: String(key!.id),
    taskId: NOBODY,
    uploadId: NOBODY,
    mergeId: NOBODY,
    segmentId: NOBODY,
    destinationId: destination.id,
    deliveryId: NOBODY,
    field: 'email',
    accountId: String(ids.account),
    invitationId: '999',
    sessionId: '999',
    clientId: '999',
  });
});
afterAll(() => stage.close());

/** Nobody has this id. */
const NOBODY = '00000000-0000-7000-8000-000000000000';
const fill = (path: string, client: string) =>
  path.replace(/:client\b/, client).replace(/:(\w+)/g, (_, name: string) => known[name]!);
/** Something that each body's schema accepts, and that changes nothing. */
const BODIES: Record<string, unknown> = {
  'post /clients/:client/loops': { name: 'Never kept' },
  'post /clients/:client/loops/import': { file: 'not a loop' },
  'put /clients/:client/loops/:loopId/draft': {
    revision: 9_999,
    loop: { format: 'dart-loop/1', name: 'X', cues: [], scenes: [] },
  },
  'post /clients/:client/loops/:loopId/publish': { revision: 9_999 },
  'post /clients/:client/loops/:loopId/roll-back': { version: 9_999 },
  'post /clients/:client/loops/:loopId/state': { state: 'live' },
  'post /clients/:client/loops/:loopId/archive': { archived: false },
  'post /clients/:client/loops/:loopId/here': { screen: 'a', stepId: null },
  'post /clients/:client/conversations/:conversationId/acts': { do: 'hand back', how: 'resume' },
  'post /clients/:client/webhooks': { hook: 'never-called' },
  'post /clients/:client/webhooks/:inletId/listen': { on: false },
  'put /clients/:client/webhooks/:inletId/reading': { reading: null, destinationId: null },
  'post /clients/:client/webhooks/:inletId/try': {
    reading: { who: [{ by: 'email', from: 'email' }], parts: [] },
    destinationId: null,
  },
  'post /clients/:client/keys': { name: 'Kept once', scopes: ['read people'] },
  'put /clients/:client/lines/:lineId/caps': { perDay: null, perPerson: null },
  'post /clients/:client/lines': { channel: 'telegram', token: 'no token' },
  'post /clients/:client/test-phone/somebody': { line: 999 },
  'put /clients/:client/people/:personId': {},
  'post /clients/:client/people': { firstName: 'Written', lastName: 'Down' },
  'post /clients/:client/people/:personId/opt-out': {
    of: { scope: 'list', list: 'None' },
    stated: 'by nobody',
  },
  'post /clients/:client/people/:personId/merge': { other: NOBODY, take: [] },
  'post /clients/:client/people/:personId/not-same': { other: NOBODY },
  'post /clients/:client/people/actions': { people: { ids: [NOBODY] }, action: { do: 'add tag', tag: 'x' } },
  'post /clients/:client/people/imports': {
    uploadId: NOBODY,
    encoding: 'utf-8',
    separator: ',',
    uses: [],
    known: 'leave alone',
    dry: true,
  },
  'post /clients/:client/fields': { key: 'never_kept', type: 'text', name: 'Never kept' },
  'put /clients/:client/fields/:field': { name: 'Email', description: '', options: [], personal: false },
  'post /clients/:client/fields/:field/type': { type: 'email', dry: true },
  'post /clients/:client/fields/share': { keys: ['none'], clients: [] },
  'post /clients/:client/segments': { name: 'Kept once', rule: { tag: 'x' } },
  'put /clients/:client/segments/:segmentId': { name: 'Kept', rule: { tag: 'x' } },
  'post /clients/:client/calendars': {
    name: 'Kept once',
    hours: { monday: [{ from: '09:00', to: '10:00' }] },
    length: '1h',
    ahead: '7d',
    places: 1,
  },
  'put /clients/:client/calendars/:calendarId': {
    name: 'Never kept',
    hours: { monday: [{ from: '09:00', to: '10:00' }] },
    length: '1h',
    ahead: '7d',
    places: 1,
  },
  'put /clients/:client/lists': { list: { name: 'Kept' } },
  'post /clients/:client/destinations': {
    kind: 'webhook',
    name: 'Kept once',
    settings: { address: 'https://hooks.example/in' },
    mapping: [],
    triggers: {},
  },
  'put /clients/:client/destinations/:destinationId': {
    kind: 'webhook',
    name: 'Never kept',
    settings: { address: 'https://hooks.example/in' },
    mapping: [],
    triggers: {},
  },
  'post /clients/:client/destinations/:destinationId/state': { state: 'off' },
  'post /clients/:client/destinations/:destinationId/try': { personId: NOBODY },
  'post /clients/:client/destinations/:destinationId/replay': { ids: 'all' },
  'post /clients/:client/destinations/:destinationId/copies': { to: [{ client: 'nobody-at-all' }] },
  'put /clients/:client/sending': {
    quiet: {},
    frequency: { perDay: null, perWeek: null },
    matching: 'suggested',
    retention: { messages: null, people: null },
  },
  'post /clients/:client/test-phone': { do: 'write', line: 999, who: '63009', text: 'hello' },
  'post /clients': { name: 'Never kept', country: 'GB', timeZone: 'Nowhere/At all', language: 'en' },
  'put /clients/:client/brief': {
    name: 'Never kept',
    brief: {},
    country: 'GB',
    timeZone: 'Nowhere/At all',
    languages: ['en'],
    openingHours: {},
  },
  'post /team/invitations': { email: 'no address', role: 'client', clients: [] },
  'put /team/:accountId': { role: 'client', clients: [1] },
  'put /account/name': { name: ' ' },
  'put /account/display': { locale: 'de', timeZone: 'Nowhere/Here' },
  'post /account/second-factor/codes': { code: '000000' },
  'post /account/second-factor/end': { password: 'not this one' },
  'put /account/password': { now: 'not this one', next: 'a lantern by the slipway' },
};
const QUERIES: Record<string, string> = {
  'get /clients/:client/test-phone': '?line=999&who=63009',
  'get /clients/:client/people/:personId/merge': `?other=00000000-0000-7000-8000-000000000000`,
  'post /clients/:client/people/files': '?name=x.csv',
};

describe('who may do what', () => {
  test('every route, as each role: allowed exactly as the table says', async () => {
    let tried = 0;
    // Removing a line comes last of all, as only the owner and the builder may.
    for (const route of stage.server.routes.filter((each) => each.method !== 'delete'))
      for (const role of ROLES) {
        const name = `${route.method} ${route.path}`;
        const { status } = await accounts[role].raw(
          route.method,
          fill(route.path, 'saltmarsh-ferries') + (QUERIES[name] ?? ''),
          BODIES[name] ?? (route.method === 'get' ? undefined : {}),
        );
        const allowed =
          route.may === 'signed in' || may({ role, grants: GRANTED[role] }, route.may as Permission);
        // Whoever may is not refused, and is never met with a fault of ours.
        if (allowed)
          expect({
            name,
            role,
            status,
            refused: status === 401 || status === 403 || status >= 500,
          }).toMatchObject({ refused: false });
        else expect({ name, role, status }).toEqual({ name, role, status: 403 });
        tried++;
      }
    expect(tried).toBeGreaterThan(50);
  });
  test('an operator does what is given to them, one by one, and no more', async () => {
    const give = (grants: Grant[]) =>
      stage.db.query("update account set grants = $1 where role = 'operator'", [grants]);
    try {
      for (const grants of [[], ['people'], ['bookings'], ['brief']] as Grant[][]) {
        await give(grants);
        for (const route of stage.server.routes.filter(({ method }) => method === 'get')) {
          const name = `${route.method} ${route.path}`;
          const { status } = await accounts.operator.raw(
            route.method,
            fill(route.path, 'saltmarsh-ferries') + (QUERIES[name] ?? ''),
          );
          const allowed =
            route.may === 'signed in' || may({ role: 'operator', grants }, route.may as Permission);
          expect({ name, grants, refused: status === 403 }).toEqual({ name, grants, refused: !allowed });
        }
      }
      // Of people, whoever sees the inbox alone sees those in it.
      await give([]);
      const person = (id: string) =>
        accounts.operator.raw('get', `/clients/saltmarsh-ferries/people/${id}`).then(({ status }) => status);
      const other = await accounts.builder.post<{ id: string }>('/clients/saltmarsh-ferries/people', {
        firstName: 'Nobody',
        lastName: 'Who Writes',
      });
      expect([await person(known.personId!), await person(other.id)]).toEqual([200, 404]);
    } finally {
      await give(GRANTED.operator);
    }
  });
  test('without a session every route is 401', async () => {
    for (const route of stage.server.routes) {
      const name = `${route.method} ${route.path}`;
      const response = await fetch(
        `${stage.server.address}/api${fill(route.path, 'saltmarsh-ferries')}${QUERIES[name] ?? ''}`,
        {
          method: route.method.toUpperCase(),
          ...(route.method !== 'get' && {
            headers: { 'content-type': 'application/json' },
            body: JSON.stringify(BODIES[name] ?? {}),
          }),
        },
      );
      // Asking who is signed in is answered with nobody.
      if (route.path === '/session') expect(await response.json()).toBeNull();
      else expect({ name, status: response.status }).toEqual({ name, status: 401 });
    }
  });
  test('another client’s address is not there for somebody who does not see it', async () => {
    for (const route of stage.server.routes.filter((each) => /:client\b/.test(each.path))) {
      const name = `${route.method} ${route.path}`;
      if (!may({ role: 'client', grants: [] }, route.may as Permission)) continue;
      expect({
        name,
        ...(await accounts.client.raw(
          route.method,
          fill(route.path, 'northgate-climbing') + (QUERIES[name] ?? ''),
        )),
      }).toMatchObject({ name, status: 404 });
    }
    // Things of one client are not found below another's address either, even by those who see both.
    for (const route of stage.server.routes.filter((each) =>
      /:(loop|conversation|person|line|inlet|task|upload|merge|segment|destination|delivery|key)Id/.test(
        each.path,
      ),
    )) {
      const name = `${route.method} ${route.path}`;
      expect({
        name,
        ...(await accounts.owner.raw(
          route.method,
          fill(route.path, 'northgate-climbing') + (QUERIES[name] ?? ''),
          BODIES[name] ?? (route.method === 'get' ? undefined : {}),
        )),
      }).toMatchObject({ name, status: 404 });
    }
  });
  test('the client’s own user sees its own conversations and nobody else’s', async () => {
    await stage.db.query(
      `
        insert into conversation (client_id, id, line_id, address, seq, last_at, shelf)
        values (2, gen_random_uuid(), 3, 'hidden', 1, now(), 'settled')`,
    );
    const inbox = await accounts.client.get<{ rows: { client: { slug: string } }[] }>('/inbox?shelf=running');
    expect(inbox.rows.map((row) => row.client.slug)).toEqual(['saltmarsh-ferries']);
    expect(await accounts.client.get<{ counts: object }>('/inbox?shelf=settled')).toMatchObject({
      counts: { settled: 0 },
      rows: [],
    });
    expect(await accounts.owner.get<{ counts: object }>('/inbox?shelf=settled')).toMatchObject({
      counts: { settled: 1 },
    });
  });
  test('every route that changes something leaves a line in the audit, or says why it leaves none', () => {
    const changing = stage.server.routes.filter(({ method }) => method !== 'get');
    expect(changing.length).toBeGreaterThan(70);
    const silent = changing.filter(
      ({ handle, untraced }) => !untraced && !/audit|handOver/.test(handle.toString()),
    );
    expect(silent.map(({ method, path }) => `${method} ${path}`)).toEqual([]);
    // Whoever leaves a line has no reason to say why not.
    const both = changing.filter(({ handle, untraced }) => untraced && /audit/.test(handle.toString()));
    expect(both.map(({ path }) => path)).toEqual([]);
  });
  test('every permission belongs to somebody', () => {
    for (const roles of Object.values(PERMISSIONS)) expect(roles).toContain('owner');
  });
});

describe('row-level security', () => {
  test('every table with a client has it on, and the server’s roles cannot pass by it', async () => {
    const { rows } = await stage.db.query<{ relname: string; relrowsecurity: boolean }>(
      `
       select c.relname, c.relrowsecurity from pg_class c join pg_attribute a on a.attrelid = c.oid
         and a.attname = 'client_id'
       where c.relkind in ('r', 'p') and not c.relispartition and c.relnamespace = 'public'::regnamespace
         and c.relname <> 'account_client'`,
    );
    expect(rows.length).toBeGreaterThan(15);
    expect(rows.filter((row) => !row.relrowsecurity)).toEqual([]);
    const roles = await stage.db.query(
      "select rolname from pg_roles where rolname like 'dartloop_%' and (rolsuper or rolbypassrls)",
    );
    expect(roles.rows).toEqual([]);
  });
  test('client_id leads every key of tenant tables: primary, unique and foreign', async () => {
    const { rows } = await stage.db.query<{ key: string; first: string }>(
      `
       with tenant as (select c.oid, c.relname from pg_class c join pg_attribute a on a.attrelid = c.oid
         and a.attname = 'client_id'
         where c.relkind in ('r', 'p') and not c.relispartition and c.relnamespace = 'public'::regnamespace
           -- Which clients somebody sees belongs to their account.
           and c.relname <> 'account_client')
       select k.relname as key, a.attname as first from tenant t join pg_index i on i.indrelid = t.oid
       join pg_class k on k.oid = i.indexrelid
       join pg_attribute a on a.attrelid = t.oid and a.attnum = i.indkey[0]
       where i.indisunique
       union all
       -- Who made something is one of the agency, which every machine would have.
       select f.conname, a.attname from tenant t join pg_constraint f on f.conrelid = t.oid and f.contype = 'f'
       join pg_attribute a on a.attrelid = t.oid and a.attnum = f.conkey[1]
       where f.confrelid not in ('account'::regclass, 'agency'::regclass)`,
    );
    expect(rows.length).toBeGreaterThan(80);
    expect(rows.filter((row) => row.first !== 'client_id')).toEqual([]);
  });
  test('without a client nothing is returned; with one, only its rows; partitions cannot be read around it', async () => {
    const app = new pg.Client({ connectionString: stage.databases.app });
    await app.connect();
    try {
      for (const table of [
        'client',
        'person',
        'conversation',
        'loop',
        'loop_version',
        'event',
        'message',
        'decision',
        'line',
        'run',
      ])
        expect({ table, rows: (await app.query(`select * from ${table}`)).rows }).toEqual({
          table,
          rows: [],
        });
      await app.query("select set_config('dartloop.clients', '2', false)");
      expect((await app.query('select distinct client_id from loop')).rows).toEqual([{ client_id: 2 }]);
      expect((await app.query('select * from message')).rows).toEqual([]);
      await expect(
        app.query("insert into audit (client_id, at, what) values (1, now(), 'x')"),
      ).rejects.toThrow(/row-level security/);
      const month = `message_${new Date().toISOString().slice(0, 7).replace('-', '_')}`;
      await expect(app.query(`select * from ${month}`)).rejects.toThrow(/permission denied/);
      await expect(app.query("update loop_version set loop = '{}'")).rejects.toThrow(/permission denied/);
    } finally {
      await app.end();
    }
  });
});

describe('sessions and requests', () => {
  test('a password is needed, and a wrong one says nothing about the address', async () => {
    const tried = async (email: string, password: string) => {
      const response = await fetch(`${stage.server.address}/api/session`, {
        method: 'POST',
        headers: { 'content-type': 'application/json' },
        body: JSON.stringify({ email, password }),
      });
      return {
        status: response.status,
        detail: response.status === 204 ? '' : ((await response.json()) as { detail: string }).detail,
        cookie: response.headers.getSetCookie()[0],
      };
    };
    const wrong = await tried('odile@halfmoonrelay.example', 'guess');
    expect(wrong).toMatchObject({ status: 401 });
    expect(await tried('nobody@halfmoonrelay.example', 'guess')).toMatchObject({
      status: 401,
      detail: wrong.detail,
    });
    const right = await tried('Odile@HalfmoonRelay.example', 'lights-up');
    expect(right.status).toBe(204);
    expect(right.cookie).toMatch(/HttpOnly; SameSite=Lax/);
  });
  test('signing out ends the session', async () => {
    const api = await stage.as('builder');
    expect((await api.raw('delete', '/session')).status).toBe(204);
    expect((await api.raw('get', '/today')).status).toBe(401);
  });
  test('a request from another site, a form, a body that is no JSON and unknown addresses are refused', async () => {
    const post = (headers: Record<string, string>, body: string) =>
      fetch(`${stage.server.address}/api/clients/saltmarsh-ferries/loops`, {
        method: 'POST',
        headers: { cookie: accounts.owner.cookie, ...headers },
        body,
      });
    expect(
      (await post({ 'content-type': 'application/json', 'sec-fetch-site': 'cross-site' }, '{"name":"X"}'))
        .status,
    ).toBe(403);
    expect((await post({ 'content-type': 'application/x-www-form-urlencoded' }, 'name=X')).status).toBe(415);
    expect((await post({ 'content-type': 'application/json' }, '{')).status).toBe(400);
    const wrong = await post({ 'content-type': 'application/json' }, '{"name":""}');
    expect(wrong.headers.get('content-type')).toContain('application/problem+json');
    expect(await wrong.json()).toMatchObject({ status: 400, detail: 'name: a loop needs a name.' });
    expect((await accounts.owner.raw('get', '/nowhere')).status).toBe(404);
    expect((await accounts.owner.raw('get', '/clients/saltmarsh-ferries/loops/not-an-id')).status).toBe(404);
    expect((await accounts.owner.raw('get', '/inbox?before=yesterday')).status).toBe(400);
  });
  test('the health of the server, its headers and its schema', async () => {
    const health = await fetch(`${stage.server.address}/healthz`);
    expect(await health.json()).toEqual({ status: 'well' });
    expect(health.headers.get('content-security-policy')).toContain("script-src 'self'");
    expect(health.headers.get('x-powered-by')).toBeNull();
    expect(await (await fetch(`${stage.server.address}/schemas/loop.json`)).json()).toMatchObject({
      title: 'A Dart Loop loop',
    });
  });
});
