import type {
  AuditRow,
  BriefPage,
  ClientsPage,
  LinkView,
  MadeKey,
  MadeLink,
  OwnSession,
  Role,
  Session,
  TeamPage,
} from '@dart-loop/contract';
import { Secret, TOTP } from 'otpauth';
import { Keyring } from '../src/platform/keyring';
import { Stage, until } from './support/stage';

let stage: Stage;
beforeAll(async () => {
  stage = await Stage.open();
});
afterAll(() => stage.close());

const PASSWORD = 'a lantern by the slipway';

interface Answer {
  status: number;
  body: Record<string, unknown>;
  cookie: string;
}

/** A request of a browser with or without a session. */
async function ask(method: string, path: string, body?: unknown, cookie = ''): Promise<Answer> {
  const answer = await fetch(`${stage.server.address}/api${path}`, {
    method,
    headers: { 'content-type': 'application/json', cookie },
    ...(body !== undefined && { body: JSON.stringify(body) }),
  });
  const text = await answer.text();
  return {
    status: answer.status,
    body: text ? (JSON.parse(text) as Record<string, unknown>) : {},
    cookie: answer.headers.getSetCookie()[0]?.split(';')[0] ?? '',
  };
}
const tokenOf = ({ address }: MadeLink): string => address.split('/').at(-1)!;
const signIn = (email: string, password: string) => ask('POST', '/session', { email, password });

/** Somebody is invited and comes in; gives their cookie. */
async function newMember(email: string, role: Role, clients: 'all' | number[]): Promise<string> {
  const link = await stage.api.post<MadeLink>('/team/invitations', { email, role, clients });
  const { status, cookie } = await ask('POST', `/welcome/${tokenOf(link)}`, {
    name: `${role} of ${email}`,
    password: PASSWORD,
  });
  expect(status).toBe(204);
  return cookie;
}
const team = () => stage.api.get<TeamPage>('/team');
const memberCalled = async (email: string) =>
  (await team()).members.find((member) => member.email === email)!;

describe('coming in', () => {
  test('an invitation is mailed and handed over, counts once, and makes what it says', async () => {
    const link = await stage.api.post<MadeLink>('/team/invitations', {
      email: ' Wren@HalfmoonRelay.example ',
      role: 'operator',
      clients: [1],
    });
    expect(link).toMatchObject({ mailed: true });
    expect(Date.parse(link.expiresAt) - Date.now()).toBeGreaterThan(6.9 * 86_400_000);
    const mail = stage.standins.mail.mails.find(({ to }) => to.includes('wren@halfmoonrelay.example'));
    expect(mail!.raw.replace(/=\r?\n/g, '')).toContain('/welcome/');
    const token = tokenOf(link);
    expect((await ask('GET', `/welcome/${token}`)).body as unknown as LinkView).toEqual({
      kind: 'invitation',
      agency: 'Halfmoon Relay',
      email: 'wren@halfmoonrelay.example',
      role: 'operator',
    });
    // It stands nowhere as it is.
    const kept = await stage.db.query<{ text: string }>('select l::text as text from account_link l');
    expect(kept.rows.map(({ text }) => text).join()).not.toContain(token);

    const refused = await ask('POST', `/welcome/${token}`, { name: 'Wren Oakley', password: 'halfmoon' });
    expect(refused).toMatchObject({ status: 400 });
    expect(refused.body.detail).toMatch(/^password: needs at least 10 characters/);
    const common = await ask('POST', `/welcome/${token}`, {
      name: 'Wren Oakley',
      password: 'Password12345!',
    });
    expect(common.body.detail).toMatch(/one of the first that somebody would try/);
    // Two presses at once: one comes in, the other is told.
    const both = await Promise.all(
      [1, 2].map(() => ask('POST', `/welcome/${token}`, { name: 'Wren Oakley', password: PASSWORD })),
    );
    expect(both.map(({ status }) => status).sort()).toEqual([204, 404]);
    const { cookie } = both.find(({ status }) => status === 204)!;
    const session = (await ask('GET', '/session', undefined, cookie)).body as unknown as Session;
    expect(session.account).toMatchObject({
      name: 'Wren Oakley',
      role: 'operator',
      agency: 'Halfmoon Relay',
    });
    expect(session.clients.map(({ id }) => id)).toEqual([1]);
    expect((await ask('GET', `/welcome/${token}`)).status).toBe(404);
    expect(
      await stage.api.raw('post', '/team/invitations', {
        email: 'wren@halfmoonrelay.example',
        role: 'builder',
        clients: 'all',
      }),
    ).toMatchObject({ status: 409 });
  });

  test('one that was withdrawn or is a week old counts no more; a second one takes the first one’s place', async () => {
    const invite = () =>
      stage.api.post<MadeLink>('/team/invitations', {
        email: 'late@halfmoonrelay.example',
        role: 'builder',
        clients: 'all',
      });
    const first = await invite();
    const second = await invite();
    expect((await ask('GET', `/welcome/${tokenOf(first)}`)).status).toBe(404);
    const { invitations } = await team();
    expect(invitations.map(({ email }) => email)).toEqual(['late@halfmoonrelay.example']);
    await stage.api.raw('delete', `/team/invitations/${invitations[0]!.id}`);
    expect((await ask('GET', `/welcome/${tokenOf(second)}`)).status).toBe(404);
    const third = await invite();
    await stage.db.query("update account_link set expires_at = now() - interval '1 second'");
    const { status, body } = await ask('POST', `/welcome/${tokenOf(third)}`, {
      name: 'Late',
      password: PASSWORD,
    });
    expect({ status, detail: body.detail }).toEqual({
      status: 404,
      detail: 'This link counts no more: it was used, withdrawn, or is too old. Ask for another.',
    });
  });

  test('wrong links and asked-for passwords hold up nobody else', async () => {
    const link = await stage.api.post<MadeLink>('/team/invitations', {
      email: 'patient@halfmoonrelay.example',
      role: 'client',
      clients: [1],
    });
    for (let tries = 0; tries < 40; tries++)
      expect((await ask('GET', `/welcome/${String(tries).padStart(43, 'x')}`)).status).toBe(404);
    expect((await ask('GET', `/welcome/${tokenOf(link)}`)).status).toBe(200);
    const wish = (email: string) => ask('POST', '/sign-in/password', { email });
    const statuses: number[] = [];
    for (let tries = 0; tries < 7; tries++) statuses.push((await wish('petra@halfmoonrelay.example')).status);
    expect(statuses).toEqual([204, 204, 204, 204, 204, 429, 429]);
    expect((await wish('ines@saltmarshferries.example')).status).toBe(204);
  });

  test('the agency is founded once only, whoever has the code', async () => {
    const answer = await ask('POST', '/first-run', {
      code: 'ABCD-EFGH',
      agency: 'Another',
      name: 'Somebody',
      email: 'somebody@another.example',
      password: PASSWORD,
    });
    expect(answer).toMatchObject({ status: 409 });
    expect((await ask('GET', '/sign-in')).body).toMatchObject({ firstRun: false });
  });
});

describe('what somebody may do', () => {
  test('another role and other clients count with the next request, in a session that is open', async () => {
    const cookie = await newMember('turn@halfmoonrelay.example', 'operator', [1]);
    expect((await ask('GET', '/clients/saltmarsh-ferries/loops', undefined, cookie)).status).toBe(403);
    const { id } = await memberCalled('turn@halfmoonrelay.example');
    await stage.api.put(`/team/${id}`, { role: 'builder', clients: [2] });
    expect((await ask('GET', '/clients/saltmarsh-ferries/loops', undefined, cookie)).status).toBe(404);
    expect((await ask('GET', '/clients/northgate-climbing/loops', undefined, cookie)).status).toBe(200);
  });

  test('whoever is removed is out at once, can come in again by an invitation, and what they did stays theirs', async () => {
    const email = 'leaver@halfmoonrelay.example';
    const cookie = await newMember(email, 'builder', 'all');
    await ask(
      'POST',
      '/clients/saltmarsh-ferries/keys',
      { name: 'Of the leaver', scopes: ['read people'] },
      cookie,
    );
    // They have a conversation when they go.
    await stage.write('64400', 'sailings');
    await until(
      () => stage.heard('64400'),
      (heard) => heard.length > 0,
    );
    const conversation = await stage.one<{ id: string }>(
      "select id from conversation where client_id = 1 and address = '64400'",
    );
    const held = () =>
      stage
        .one<{ held: { by: string | null } | null }>(
          `select standing -> 'held' as held from conversation where id = '${conversation.id}'`,
        )
        .then((row) => row.held);
    await ask(
      'POST',
      `/clients/saltmarsh-ferries/conversations/${conversation.id}/acts`,
      { do: 'step in' },
      cookie,
    );
    await until(held, (now) => now?.by === `builder of ${email}`);
    const { id } = await memberCalled(email);
    await stage.db.query('update account set factor_since = now() where id = $1', [id]);
    await stage.api.raw('delete', `/team/${id}`);
    expect((await ask('GET', '/today', undefined, cookie)).status).toBe(401);
    expect((await signIn(email, PASSWORD)).status).toBe(401);
    expect(await memberCalled(email)).toBeUndefined();
    // What they had waits for whoever is there.
    await until(held, (now) => now?.by === null);
    const rows = await stage.api.get<AuditRow[]>('/audit?client=saltmarsh-ferries');
    expect(rows.find(({ what }) => what === 'made a key of the API')).toMatchObject({
      by: `builder of ${email}`,
      client: 'Saltmarsh Ferries',
      address: expect.stringMatching(/127\.0\.0\.1|::1/),
    });
    await newMember(email, 'operator', [1]);
    // Nor is the second factor that they had asked for.
    expect(await memberCalled(email)).toMatchObject({ id, role: 'operator', clients: [1], factor: false });
  });

  test('the last owner stays, and nobody gives what they cannot see', async () => {
    const odile = await memberCalled('odile@halfmoonrelay.example');
    const last = 'The agency needs an owner of all clients. Make somebody else one first.';
    for (const [method, body] of [
      ['put', { role: 'builder', clients: 'all' }],
      ['put', { role: 'owner', clients: [1] }],
      ['delete', undefined],
    ] as const)
      expect(await stage.api.raw(method, `/team/${odile.id}`, body)).toMatchObject({
        status: 409,
        body: { detail: last },
      });
    const cookie = await newMember('part@halfmoonrelay.example', 'owner', [1]);
    const invite = (clients: unknown) =>
      ask('POST', '/team/invitations', { email: 'x@y.example', role: 'client', clients }, cookie);
    expect((await invite('all')).status).toBe(403);
    expect((await invite([2])).status).toBe(403);
    expect((await invite([1])).status).toBe(200);
    // Nor do they have a hand on whoever sees more than they do.
    const others = await memberCalled('bram@halfmoonrelay.example');
    for (const [method, path, body] of [
      ['PUT', `/team/${others.id}`, { role: 'client', clients: [1] }],
      ['DELETE', `/team/${odile.id}`, undefined],
      ['POST', `/team/${odile.id}/password`, {}],
    ] as const)
      expect((await ask(method, path, body, cookie)).status).toBe(403);
    expect(
      (
        await ask(
          'POST',
          '/clients',
          { name: 'Beyond', country: 'GB', timeZone: 'Europe/London', language: 'en' },
          cookie,
        )
      ).status,
    ).toBe(403);
  });
});

describe('one’s own page', () => {
  test('a new password ends the other sessions; the wrong old one changes nothing', async () => {
    const email = 'own@halfmoonrelay.example';
    const here = await newMember(email, 'builder', 'all');
    const there = (await signIn(email, PASSWORD)).cookie;
    const change = (now: string, next: string) => ask('PUT', '/account/password', { now, next }, here);
    expect((await change('not this one', 'the tide comes twice')).body.detail).toBe(
      'now: is not the one that you have now.',
    );
    expect((await change(PASSWORD, 'qwertyuiop12')).status).toBe(400);
    const sessions = (await ask('GET', '/account/sessions', undefined, here)).body as unknown as OwnSession[];
    expect(sessions.map(({ isThis }) => isThis)).toEqual([false, true]);
    expect((await change(PASSWORD, 'the tide comes twice')).status).toBe(204);
    expect((await ask('GET', '/today', undefined, there)).status).toBe(401);
    expect((await ask('GET', '/today', undefined, here)).status).toBe(200);
    expect((await signIn(email, PASSWORD)).status).toBe(401);
    expect((await signIn(email, 'the tide comes twice')).status).toBe(204);
    await ask('PUT', '/account/name', { name: 'Own Name' }, here);
    expect(await memberCalled(email)).toMatchObject({ name: 'Own Name' });
    // Dates and numbers are written as one wants them; null is as the device has them.
    const display = { locale: 'de', timeZone: 'Europe/Berlin' };
    expect((await ask('PUT', '/account/display', display, here)).status).toBe(204);
    const session = (await ask('GET', '/session', undefined, here)).body as unknown as Session;
    expect(session.account).toMatchObject({ display, grants: [], role: 'builder' });
    expect((await ask('PUT', '/account/display', { ...display, timeZone: 'Berlin' }, here)).body.detail).toBe(
      'timeZone: is no time zone, such as Europe/London.',
    );
    await ask('PUT', '/account/display', { locale: null, timeZone: null }, here);
  });

  test('a session is ended from another place, and only one’s own', async () => {
    const email = 'ends@halfmoonrelay.example';
    const here = await newMember(email, 'builder', 'all');
    const there = (await signIn(email, PASSWORD)).cookie;
    const list = async () =>
      (await ask('GET', '/account/sessions', undefined, here)).body as unknown as OwnSession[];
    const other = (await list()).find(({ isThis }) => !isThis)!;
    expect((await stage.api.raw('delete', `/account/sessions/${other.id}`)).status).toBe(404);
    expect((await ask('DELETE', `/account/sessions/${other.id}`, undefined, here)).status).toBe(204);
    expect((await ask('GET', '/today', undefined, there)).status).toBe(401);
  });

  test('a forgotten password: a link comes by mail, the same is said of an address that nobody has', async () => {
    const email = 'forgot@halfmoonrelay.example';
    const cookie = await newMember(email, 'builder', 'all');
    expect((await ask('POST', '/sign-in/password', { email: 'nobody@nowhere.example' })).status).toBe(204);
    expect((await ask('POST', '/sign-in/password', { email })).status).toBe(204);
    const mail = await until(
      () =>
        Promise.resolve(
          stage.standins.mail.mails.find(
            ({ to, raw }) => to.includes(email) && raw.includes('Subject: A new password'),
          ),
        ),
      (found) => found !== undefined,
    );
    const token = /\/welcome\/([\w-]{43})/.exec(mail!.raw.replace(/=\r?\n/g, ''))![1]!;
    expect((await ask('POST', `/welcome/${token}`, { password: 'the gulls know better' })).status).toBe(204);
    expect((await ask('GET', '/today', undefined, cookie)).status).toBe(401);
    expect((await signIn(email, 'the gulls know better')).status).toBe(204);
    expect(stage.standins.mail.mails.filter(({ to }) => to.includes('nobody@nowhere.example'))).toEqual([]);
  });
});

describe('a second factor', () => {
  test('is tried out before it counts, is asked for after the password, and no code counts twice', async () => {
    const email = 'two@halfmoonrelay.example';
    const cookie = await newMember(email, 'builder', 'all');
    const { body: made } = await ask('POST', '/account/second-factor', {}, cookie);
    const totp = new TOTP({ secret: Secret.fromBase32(String(made.secret)), period: 30 });
    expect(made.address).toContain('otpauth://totp/Dart%20Loop:two%40halfmoonrelay.example');
    const confirm = (code: string) => ask('POST', '/account/second-factor/codes', { code }, cookie);
    expect((await confirm('000000')).body.detail).toBe(
      'code: is not the one that your authenticator shows now.',
    );
    // Until then the password is enough.
    expect((await signIn(email, PASSWORD)).status).toBe(204);
    // A step back, so that the one of now is left for signing in.
    const { body } = await confirm(totp.generate({ timestamp: Date.now() - 30_000 }));
    const codes = body.codes as string[];
    expect(codes).toHaveLength(10);
    const both = (code?: string) => ask('POST', '/session', { email, password: PASSWORD, code });
    expect(await both()).toMatchObject({ status: 401, body: { needsCode: true } });
    expect(await both('123456')).toMatchObject({ status: 401 });
    const now = totp.generate();
    expect((await both(now)).status).toBe(204);
    expect((await both(now)).status).toBe(401);
    expect((await both(codes[3]!.toUpperCase())).status).toBe(204);
    expect((await both(codes[3])).status).toBe(401);
    expect((await ask('GET', '/account/second-factor', undefined, cookie)).body).toMatchObject({
      since: expect.any(String),
      codesLeft: 9,
    });
    expect(await memberCalled(email)).toMatchObject({ factor: true });
    const kept = await stage.one<{ text: string }>(
      `select a::text as text from account a where email = '${email}'`,
    );
    expect(kept.text).not.toContain(String(made.secret));

    // A link for a new password is one factor: it lets nobody in by itself.
    const { id } = await memberCalled(email);
    const link = await stage.api.post<MadeLink>(`/team/${id}/password`, {});
    const followed = await ask('POST', `/welcome/${tokenOf(link)}`, { password: 'the gulls know better' });
    expect(followed).toMatchObject({ status: 204, cookie: '' });
    const again = await ask('POST', '/session', { email, password: 'the gulls know better', code: codes[0] });
    const end = (password: string) => ask('POST', '/account/second-factor/end', { password }, again.cookie);
    expect((await end(PASSWORD)).status).toBe(400);
    expect((await end('the gulls know better')).status).toBe(204);
    expect((await signIn(email, 'the gulls know better')).status).toBe(204);
  });

  test('its secret is sealed anew with the others when keys change', async () => {
    const cookie = await newMember('sealed@halfmoonrelay.example', 'builder', 'all');
    await ask('POST', '/account/second-factor', {}, cookie);
    const kept = () =>
      stage.one<{ secrets: Buffer }>(
        "select secrets from account where email = 'sealed@halfmoonrelay.example'",
      );
    const before = await kept();
    const ring = await Keyring.open(stage.databases.lane, stage.config.key);
    await ring.rotate(Buffer.alloc(32, 7));
    const after = await kept();
    expect(after.secrets.equals(before.secrets)).toBe(false);
    expect(await ring.unseal(after.secrets)).toEqual(await ring.unseal(before.secrets));
  });
});

describe('clients', () => {
  const brief = (client: string) => stage.api.get<BriefPage>(`/clients/${client}/brief`);

  test('a client is added with an address of its own, and is there for whoever sees all', async () => {
    const add = (name: string) =>
      stage.api.post<{ slug: string }>('/clients', {
        name,
        country: 'PT',
        timeZone: 'Europe/Lisbon',
        language: 'pt',
      });
    expect(await add('Pão & Mar')).toEqual({ slug: 'pao-mar' });
    expect(await add('Pão, Mar')).toEqual({ slug: 'pao-mar-2' });
    expect(await add('Inbox')).toEqual({ slug: 'inbox-2' });
    const { clients: rows } = await stage.api.get<ClientsPage>('/clients');
    expect(rows.find(({ slug }) => slug === 'pao-mar')).toMatchObject({
      name: 'Pão & Mar',
      lines: 0,
      liveLoops: 0,
      people: 0,
    });
    expect(rows.find(({ slug }) => slug === 'saltmarsh-ferries')!.lines).toBeGreaterThan(1);
    const session = await (await stage.as('builder')).get<Session>('/session');
    expect(session.clients.map(({ slug }) => slug)).toContain('pao-mar');
    expect(await brief('pao-mar')).toMatchObject({
      languages: ['pt'],
      timeZone: 'Europe/Lisbon',
    });
  });

  test('one puts clients first in one’s own list; others do not see it, and what is not seen is not pinned', async () => {
    const builder = await stage.as('builder');
    const names = async (api = builder) =>
      (await api.get<Session>('/session')).clients.map(({ name, pinned }) => (pinned ? `* ${name}` : name));
    const usual = await names();
    const { clients } = await builder.get<Session>('/session');
    const last = clients.at(-1)!;
    const pin = (client: number, on: boolean) => builder.raw('put', '/account/pins', { client, on });
    expect((await pin(last.id, true)).status).toBe(204);
    expect((await pin(last.id, true)).status).toBe(204);
    expect((await pin(987_654, true)).status).toBe(204);
    expect(await names()).toEqual([`* ${last.name}`, ...usual.slice(0, -1)]);
    expect((await names(stage.api)).some((name) => name.startsWith('*'))).toBe(false);
    expect(await stage.one("select pinned from account where email like 'bram@%'")).toEqual({
      pinned: [last.id],
    });
    await pin(last.id, false);
    expect(await names()).toEqual(usual);
  });

  test('an archived client is seen and called by nobody until it comes back; one with lines is not archived', async () => {
    const { slug } = await stage.api.post<{ slug: string }>('/clients', {
      name: 'Put Away',
      country: 'GB',
      timeZone: 'Europe/London',
      language: 'en',
    });
    const { token } = await stage.api.post<MadeKey>(`/clients/${slug}/keys`, {
      name: 'Till',
      scopes: ['read people'],
    });
    const call = () =>
      fetch(`${stage.server.address}/v1/people`, { headers: { authorization: `Bearer ${token}` } });
    expect((await call()).status).toBe(200);
    expect(await stage.api.raw('post', '/clients/saltmarsh-ferries/archive', {})).toMatchObject({
      status: 409,
      body: { detail: expect.stringMatching(/^Saltmarsh Ferries has \d connected lines\. Disconnect them/) },
    });
    const builder = await stage.as('builder');
    expect((await builder.raw('post', `/clients/${slug}/archive`, {})).status).toBe(403);
    expect((await stage.api.raw('post', `/clients/${slug}/archive`, {})).status).toBe(204);
    expect((await call()).status).toBe(401);
    expect((await stage.api.raw('get', `/clients/${slug}/brief`)).status).toBe(404);
    const { clients, archived } = await stage.api.get<ClientsPage>('/clients');
    expect(clients.map(({ name }) => name)).not.toContain('Put Away');
    expect(archived.map(({ name }) => name)).toEqual(['Put Away']);
    const restore = () => stage.api.raw('post', `/archived-clients/${archived[0]!.id}/restore`, {});
    expect(await restore()).toMatchObject({ status: 200, body: { slug } });
    expect((await restore()).status).toBe(404);
    expect((await call()).status).toBe(200);
    const rows = await stage.api.get<AuditRow[]>('/audit');
    expect(rows.map(({ what }) => what)).toEqual(
      expect.arrayContaining(['added a client', 'archived a client', 'restored a client']),
    );
  });

  test('the brief says where each entry is used, whether it is open, and is refused with its field', async () => {
    const { revision, usedBy, ...kept } = await brief('saltmarsh-ferries');
    expect(Object.keys(usedBy).length).toBeGreaterThan(0);
    expect(Object.keys(kept.brief)).toEqual(expect.arrayContaining(Object.keys(usedBy)));
    const save = (more: object, seen?: string) =>
      stage.api.raw('put', `/clients/saltmarsh-ferries/brief${seen ? `?seen=${seen}` : ''}`, {
        name: kept.name,
        brief: kept.brief,
        country: kept.country,
        timeZone: kept.timeZone,
        languages: kept.languages,
        openingHours: kept.openingHours,
        ...more,
      });
    expect(await save({ timeZone: 'Europe/Harwick' })).toMatchObject({
      status: 400,
      body: { errors: [{ field: 'timeZone' }] },
    });
    expect(await save({ brief: { 'no key!': 'x' } })).toMatchObject({ status: 400 });
    // An entry with a type is what it says it is, and amounts have the client's currency.
    const typed = { brief: { ...kept.brief, last_boat: 'late' }, entryTypes: { last_boat: 'time' } };
    expect(await save(typed)).toMatchObject({
      status: 400,
      body: {
        errors: [{ field: 'brief.last_boat', detail: expect.stringMatching(/^is to be a time of day/) }],
      },
    });
    typed.brief.last_boat = '21:40';
    expect(await save({ ...typed, currency: 'pounds' })).toMatchObject({
      status: 400,
      body: { errors: [{ field: 'currency' }] },
    });
    expect(await save({ ...typed, currency: 'EUR' })).toMatchObject({ status: 204 });
    expect(await brief('saltmarsh-ferries')).toMatchObject({
      currency: 'EUR',
      entryTypes: { last_boat: 'time' },
      brief: { last_boat: '21:40' },
    });
    // With the entry goes its type.
    expect(await save({ entryTypes: typed.entryTypes })).toMatchObject({ status: 204 });
    expect(await brief('saltmarsh-ferries')).toMatchObject({ currency: null, entryTypes: {} });
    const shut = { monday: [], tuesday: [], wednesday: [], thursday: [], friday: [], saturday: [] };
    expect(
      await save(
        { openingHours: { ...shut, sunday: [{ from: '10:00', to: '10:01' }] } },
        (await brief('saltmarsh-ferries')).revision,
      ),
    ).toMatchObject({ status: 204 });
    expect(await brief('saltmarsh-ferries')).toMatchObject({
      openingHours: { sunday: [{ from: '10:00', to: '10:01' }] },
    });
    // Whoever began from what stood before is told who was quicker.
    expect(await save({ name: 'Other' }, revision)).toMatchObject({
      status: 409,
      body: { detail: expect.stringMatching(/^Odile Marrow has changed it/), changed: true },
    });
    const [row] = await stage.api.get<AuditRow[]>('/audit?client=saltmarsh-ferries');
    expect(row).toMatchObject({
      what: 'changed the brief',
      detail: { before: { openingHours: kept.openingHours } },
    });
  });

  test('what a loop says of the brief is what stands there now', async () => {
    const { brief: entries, ...kept } = await brief('saltmarsh-ferries');
    const number = '+44 1632 960199';
    await stage.api.put('/clients/saltmarsh-ferries/brief', {
      name: kept.name,
      brief: { ...entries, phone: number },
      country: kept.country,
      timeZone: kept.timeZone,
      languages: kept.languages,
      openingHours: {},
    });
    await stage.write('63777', 'help');
    const heard = await until(
      () => stage.heard('63777'),
      (texts) => texts.length > 0,
    );
    expect(heard.join(' ')).toContain(number);
  });
});

describe('the audit', () => {
  test('has sign-ins, wrong passwords and changes of the agency, and cannot be changed by the application', async () => {
    await signIn('petra@halfmoonrelay.example', 'not hers');
    await signIn('petra@halfmoonrelay.example', 'lights-up');
    const rows = await stage.api.get<AuditRow[]>('/audit');
    expect(rows.slice(0, 2)).toMatchObject([
      { what: 'signed in', by: 'Petra Lund', client: null },
      { what: 'gave a wrong password', by: 'Petra Lund' },
    ]);
    expect(JSON.stringify(rows)).not.toContain('not hers');
    const older = await stage.api.get<AuditRow[]>(`/audit?before=${rows[1]!.at}`);
    expect(older.every(({ at }) => at < rows[1]!.at)).toBe(true);
    for (const table of ['audit', 'agency_audit'])
      for (const change of [`delete from ${table}`, `update ${table} set what = 'nothing'`]) {
        const { rows: may } = await stage.db.query<{ may: boolean }>(
          `select has_table_privilege('dartloop_app', '${table}', '${change.startsWith('d') ? 'delete' : 'update'}') as may`,
        );
        expect({ change, may: may[0]!.may }).toEqual({ change, may: false });
      }
  });
});
