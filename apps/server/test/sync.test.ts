import { readFileSync, readdirSync } from 'node:fs';
import { join } from 'node:path';
import { Webhook } from 'standardwebhooks';
import type {
  CopyRow,
  DeliveryPage,
  DeliveryRow,
  DestinationPage,
  DestinationRow,
  SaveDestination,
  TaskView,
  TodayPage,
} from '@dart-loop/contract';
import { times } from '../../../packages/core/test/thorough';
import { CrmStandin } from '../../standins/src/crm';
import { SheetStandin } from '../../standins/src/sheet';
import { WoundClock } from '../src/platform/clock';
import { Stage, until } from './support/stage';

const CLIENT = '/clients/saltmarsh-ferries';
const contactTo = (name: string, more: Partial<SaveDestination> = {}) =>
  ({
    kind: 'contact',
    name,
    settings: { address: 'https://crm.example/contacts', findBy: 'email' },
    token: CrmStandin.token,
    mapping: [
      { to: 'email', as: 'text', origin: { from: 'field', field: 'email' } },
      { to: 'name', as: 'text', origin: { from: 'fact', fact: 'name' } },
      { to: 'town', as: 'text', origin: { from: 'field', field: 'town' } },
    ],
    triggers: { fields: 'any' },
    ...more,
  }) as const;

const webhookTo = (name: string, address: string, more: Partial<SaveDestination>) => ({
  kind: 'webhook',
  name,
  settings: { address },
  mapping: [{ to: 'town', as: 'text', origin: { from: 'field', field: 'town' } }],
  ...more,
});

async function stageOf(clock?: WoundClock) {
  const stage = await Stage.open({ clock, limits: false });
  await stage.fields(CLIENT, { email: 'email', town: 'text' });
  const make = async (firstName: string, fields: Record<string, string>) => {
    const { id } = await stage.api.post<{ id: string }>(`${CLIENT}/people`, { firstName });
    await stage.api.put(`${CLIENT}/people/${id}`, { fields });
    return id;
  };
  const deliveries = (id: string, of = 'all') =>
    stage.api.get<DeliveryRow[]>(`${CLIENT}/destinations/${id}/deliveries?of=${of}`);
  return { stage, make, deliveries };
}

test('a contact is kept in step: its columns read, what would not work said, tried, made, and changed', async () => {
  const { stage, make, deliveries } = await stageOf();
  try {
    const { crm, outside } = stage.standins;
    const { api } = stage;
    const anna = await make('Anna', { email: 'anna@example.org', town: 'Harwick' });
    const mapping = [{ to: 'town', as: 'number', origin: { from: 'field', field: 'town' } }];
    const { id } = await api.post<DestinationPage>(`${CLIENT}/destinations`, {
      ...contactTo('CRM'),
      mapping,
    });
    const path = `${CLIENT}/destinations/${id}`;
    expect(
      (await api.post<DestinationPage>(`${path}/columns`, {})).findings.map(
        ({ column, reason }) => `${column}: ${reason}`,
      ),
    ).toEqual([
      'town: The other side takes text here, and gets a number.',
      'town: “town” is text: what is not a number is left out.',
      'email: The other side needs this column, and nothing goes into it.',
    ]);
    await expect(api.post(`${path}/state`, { state: 'on' })).rejects.toThrow(
      /email: The other side needs this column/,
    );
    const page = await api.put<DestinationPage>(path, { ...contactTo('CRM'), token: undefined });
    expect(page).toMatchObject({ hint: CrmStandin.token.slice(-4), findings: [], state: 'off' });
    expect(JSON.stringify(page)).not.toContain(CrmStandin.token);

    const tried = await api.post<DeliveryPage>(`${path}/try`, { personId: anna });
    expect(tried).toMatchObject({ isTest: true, status: 'done', name: 'Anna' });
    expect(tried.tries[0]!.calls.map(({ request: { method }, answer }) => [method, answer])).toEqual([
      ['GET', { status: 200, body: [] }],
      ['POST', { status: 201, body: { id: expect.stringMatching(/^C-\d{18}$/) as string } }],
    ]);
    expect(
      JSON.stringify(await stage.db.query('select * from attempt').then(({ rows }) => rows)),
    ).not.toContain(CrmStandin.token);

    await api.post(`${path}/state`, { state: 'on' });
    await api.put(`${CLIENT}/people/${anna}`, { fields: { town: 'Little Skerry' } });
    await until(
      () => deliveries(id),
      (found) => found.filter(({ status, isTest }) => status === 'done' && !isTest).length === 1,
    );
    expect([...crm.contacts.values()]).toEqual([
      { email: 'anna@example.org', name: 'Anna', town: 'Little Skerry' },
    ]);
    expect(crm.changes).toHaveLength(2);

    // What the other side refuses goes on the shelf with its answer, and is mended and replayed.
    outside.answer({
      host: 'crm.example',
      status: 422,
      body: { error: 'town is too far' },
      headers: {},
      slowMs: 0,
    });
    await api.put(`${CLIENT}/people/${anna}`, { fields: { town: 'Saint Orrin' } });
    const [shelved] = await until(
      () => deliveries(id, 'shelf'),
      (found) => found.length === 1,
    );
    expect(shelved).toMatchObject({ outcome: 'it was answered 422', attempts: 1, causes: ['field:town'] });
    expect(
      (await api.get<DeliveryPage>(`${CLIENT}/deliveries/${shelved!.id}`)).tries[0]!.calls[0]!.answer,
    ).toEqual({
      status: 422,
      body: { error: 'town is too far' },
    });
    expect((await api.get<TodayPage>('/today')).attention.map(({ words }) => words)).toContain(
      '1 delivery to CRM failed.',
    );
    outside.well('crm.example');
    expect(await api.post(`${path}/replay`, { ids: [shelved!.id] })).toEqual({ replayed: 1 });
    await until(
      () => [...crm.contacts.values()][0]!.town,
      (town) => town === 'Saint Orrin',
    );

    // Paused: noted, and out when it goes on. Off: not noted.
    await api.post(`${path}/state`, { state: 'paused' });
    await api.put(`${CLIENT}/people/${anna}`, { fields: { town: 'Harwick' } });
    expect((await api.get<DestinationRow[]>(`${CLIENT}/destinations`))[0]).toMatchObject({
      waiting: 1,
      shelf: 0,
      state: 'paused',
    });
    await api.post(`${path}/state`, { state: 'on' });
    await until(
      () => [...crm.contacts.values()][0]!.town,
      (town) => town === 'Harwick',
    );
    await api.post(`${path}/state`, { state: 'off' });
    await api.put(`${CLIENT}/people/${anna}`, { fields: { town: 'Fenwater' } });
    expect((await api.get<DestinationRow[]>(`${CLIENT}/destinations`))[0]!.waiting).toBe(0);

    // Everybody at once: noted by a task, sent in turn, and not while it is off.
    const others = await Promise.all(
      ['Bram', 'Cleo'].map((name) => make(name, { email: `${name.toLowerCase()}@example.org` })),
    );
    const sendAll = { people: { ids: others }, action: { do: 'send to', destinationId: id } };
    await expect(api.post(`${CLIENT}/people/actions`, sendAll)).rejects.toThrow(/That destination is off/);
    await api.post(`${path}/state`, { state: 'on' });
    const task = await api.post<TaskView>(`${CLIENT}/people/actions`, sendAll);
    expect(await stage.ended(CLIENT, task.id)).toMatchObject({ state: 'done', counts: { 'to be sent': 2 } });
    await until(
      () => [...crm.contacts.values()].map(({ name }) => name).sort(),
      (names) => names.length === 3 && names.includes('Cleo'),
    );

    // Erased: nothing is kept of what was sent of them.
    await api.post(`${CLIENT}/people/actions`, {
      people: { ids: [anna, ...others] },
      action: { do: 'erase', reason: 'asked for it' },
    });
    await until(
      () =>
        stage.one<{ n: number }>(
          `
            select ((select count(*) from delivery) + (select count(*) from attempt) + (select count(*)
              from counterpart))::int as n`,
        ),
      ({ n }) => n === 0,
    );
  } finally {
    await stage.close();
  }
});

test('what changes within a second is one delivery, with all of it', async () => {
  const clock = new WoundClock(Date.now());
  const { stage, make, deliveries } = await stageOf(clock);
  try {
    const { api } = stage;
    const anna = await make('Anna', { email: 'anna@example.org', town: 'Harwick' });
    const { id } = await api.post<DestinationPage>(`${CLIENT}/destinations`, contactTo('CRM'));
    await api.post(`${CLIENT}/destinations/${id}/state`, { state: 'on' });
    for (const town of ['Fenwater', 'Marrow Bay', 'Little Skerry'])
      await api.put(`${CLIENT}/people/${anna}`, { fields: { town } });
    expect(await deliveries(id)).toMatchObject([{ status: 'waiting' }]);
    await until(
      async () => {
        clock.wind(clock.now() + 500);
        return deliveries(id);
      },
      (found) => found.every(({ status }) => status === 'done'),
    );
    expect(await deliveries(id)).toHaveLength(1);
    expect([...stage.standins.crm.contacts.values()]).toEqual([
      { email: 'anna@example.org', name: 'Anna', town: 'Little Skerry' },
    ]);
    expect(stage.standins.crm.changes).toHaveLength(1);
  } finally {
    await stage.close();
  }
});

test('a webhook is a signed event, for those it is for, by tag and by list', async () => {
  const { stage, make, deliveries } = await stageOf();
  try {
    const { api } = stage;
    const [one, other] = [await make('Anna', { town: 'Harwick' }), await make('Bram', { town: 'Fenwater' })];
    const { id } = await api.post<DestinationPage>(
      `${CLIENT}/destinations`,
      webhookTo('Hook', 'https://hooks.example/in', {
        triggers: { tags: ['vip'] },
        who: { field: 'town', is: 'equal', value: 'Harwick' },
      }),
    );
    await api.post(`${CLIENT}/destinations/${id}/state`, { state: 'on' });
    for (const tag of ['other', 'vip'])
      await api.post(`${CLIENT}/people/actions`, {
        people: { ids: [one, other] },
        action: { do: 'add tag', tag },
      });
    const found = await until(
      () => deliveries(id),
      (rows) => rows.length === 2 && rows.every(({ status }) => status !== 'waiting'),
    );
    expect(found.map(({ name, status, causes }) => [name, status, causes]).sort()).toEqual([
      ['Anna', 'done', ['tag:vip']],
      ['Bram', 'left out', ['tag:vip']],
    ]);
    const got = stage.standins.outside.requests.filter(({ host }) => host === 'hooks.example');
    expect(got).toHaveLength(1);
    const { secret } = await api.post<{ secret: string }>(`${CLIENT}/webhooks/secret`, {});
    expect(new Webhook(secret).verify(got[0]!.raw, got[0]!.headers)).toMatchObject({
      subject: one,
      data: { town: 'Harwick' },
    });
  } finally {
    await stage.close();
  }
});

test('two who change one destination at once do not overwrite each other, unless they say so', async () => {
  const { stage } = await stageOf();
  try {
    const { api } = stage;
    const bram = await stage.as('builder');
    const { id, revision: first } = await api.post<DestinationPage>(
      `${CLIENT}/destinations`,
      contactTo('CRM'),
    );
    const path = `${CLIENT}/destinations/${id}`;
    const kept = (more: Partial<SaveDestination>) => ({ ...contactTo('CRM', more), token: undefined });
    const { revision: second } = await bram.put<DestinationPage>(
      `${path}?seen=${first}`,
      kept({ triggers: { tags: ['vip'] } }),
    );
    expect(second).not.toBe(first);
    // Ines opened it before that.
    const mine = kept({ triggers: { lists: 'any' } });
    expect(await api.raw('put', `${path}?seen=${first}`, mine)).toEqual({
      status: 409,
      body: expect.objectContaining({
        detail: 'Bram Tansy has changed it since it was opened here. What is written here is not kept yet.',
        changed: true,
      }) as object,
    });
    expect(await api.get<DestinationPage>(path)).toMatchObject({
      triggers: { tags: ['vip'] },
      revision: second,
    });
    // What happens to it otherwise is no change of how it is set up.
    await api.post(`${path}/columns`, {});
    expect(
      (await bram.put<DestinationPage>(`${path}?seen=${second}`, kept({ triggers: { tags: ['vip'] } })))
        .revision,
    ).toBe(second);
    expect(await api.put<DestinationPage>(path, mine)).toMatchObject({ triggers: { lists: 'any' } });
    // Two at the very same moment: one is kept, the other told.
    const { revision } = await api.get<DestinationPage>(path);
    const both = await Promise.all(
      ['one', 'other'].map((tag) =>
        api.raw('put', `${path}?seen=${revision}`, kept({ triggers: { tags: [tag] } })),
      ),
    );
    expect(both.map(({ status }) => status).sort()).toEqual([200, 409]);
  } finally {
    await stage.close();
  }
});

test('nobody waits for another system that takes its time; who is erased meanwhile is not written down again', async () => {
  const { stage, make } = await stageOf();
  try {
    const { api } = stage;
    const personId = await make('Anna', { town: 'Harwick' });
    const { id } = await api.post<DestinationPage>(
      `${CLIENT}/destinations`,
      webhookTo('Hook', 'https://slow.example/in', { triggers: { tags: ['vip'] } }),
    );
    stage.standins.outside.answer({
      host: 'slow.example',
      status: 200,
      body: {},
      headers: {},
      slowMs: 12_000,
    });
    const order: string[] = [];
    // More than there are connections to the database.
    const tries = Array.from({ length: 25 }, () =>
      api
        .raw('post', `${CLIENT}/destinations/${id}/try`, { personId })
        .then(({ status }) => void order.push(`tried ${status}`)),
    );
    await until(
      () => stage.standins.outside.requests.filter(({ host }) => host === 'slow.example').length,
      (calls) => calls === 25,
    );
    await api.get(`${CLIENT}/destinations/${id}`).then(() => order.push('looked at'));
    expect(order).toEqual(['looked at']);
    const erasing = await api.post<TaskView>(`${CLIENT}/people/actions`, {
      people: { ids: [personId] },
      action: { do: 'erase', reason: 'asked for it' },
    });
    expect(await stage.ended(CLIENT, erasing.id)).toMatchObject({ state: 'done' });
    await Promise.all(tries);
    expect(order.slice(1)).toEqual(Array.from({ length: 25 }, () => 'tried 404'));
    expect(
      await stage.one('select ((select count(*) from delivery) + (select count(*) from attempt))::int as n'),
    ).toEqual({ n: 0 });
  } finally {
    await stage.close();
  }
});

test('a step sends out to a destination, also by the name that it had before; to one that is off nothing goes, and it says so', async () => {
  const { stage, deliveries } = await stageOf();
  try {
    const { api, standins } = stage;
    const steps =
      '[{ kind: ask, text: Your email?, reply: email, field: email }, { kind: send out, destination: Register }, { kind: say, text: Noted. }]';
    const file = `{ format: dart-loop/1, name: Noting, cues: [{ kind: keyword, words: [note], match: exactly }], scenes: [{ name: One, steps: ${steps} }] }`;
    await expect(stage.publish(file)).rejects.toThrow(/The client has no destination “Register”/);
    const { id } = await api.post<DestinationPage>(`${CLIENT}/destinations`, {
      ...contactTo('Register'),
      triggers: {},
    });
    const path = `${CLIENT}/destinations/${id}`;
    await stage.publish(file.replace('name: Noting', 'name: Notes'));
    const note = async (who: string, email: string) => {
      await stage.write(who, 'note', 'Tamsin');
      await stage.hears(who, 1);
      await stage.write(who, email);
      expect(await stage.hears(who, 2)).toEqual(['Your email?', 'Noted.']);
    };
    await note('73101', 'off@example.org');
    expect((await deliveries(id)).map(({ status, outcome, causes }) => [status, outcome, causes])).toEqual([
      ['left out', 'the destination is off', ['loop:Notes']],
    ]);
    await api.post(`${path}/state`, { state: 'on' });
    await note('73102', 'on@example.org');
    await until(
      () => standins.crm.contacts.size,
      (size) => size === 1,
    );
    await api.put(path, { ...contactTo('People of the pier'), token: undefined, triggers: {} });
    await note('73103', 'renamed@example.org');
    await until(
      () => [...standins.crm.contacts.values()].map(({ email }) => email),
      (emails) => emails.length === 2 && emails.includes('renamed@example.org'),
    );
    expect(
      (await deliveries(id)).filter(({ status }) => status === 'done').map(({ causes }) => causes),
    ).toEqual([['loop:Notes'], ['loop:Notes']]);
  } finally {
    await stage.close();
  }
});

test('a finished run brings a delivery about, and so does a time of the day, of everybody it is for', async () => {
  // A day in London on which the clocks stand at UTC.
  const clock = new WoundClock(Date.parse('2026-11-26T05:00:00Z'));
  const { stage, make, deliveries } = await stageOf(clock);
  try {
    const { api } = stage;
    const hook = (triggers: SaveDestination['triggers'], who: SaveDestination['who'] = null) =>
      webhookTo(JSON.stringify(triggers), 'https://hooks.example/in', { triggers, who });
    await expect(api.post(`${CLIENT}/destinations`, hook({ runs: ['No such loop'] }))).rejects.toThrow(
      /has no loop “No such loop”/,
    );
    await stage.publish(
      '{ format: dart-loop/1, name: Short, cues: [{ kind: keyword, words: [short], match: exactly }], scenes: [{ name: One, steps: [{ kind: say, text: Done. }] }] }',
    );
    const made = await Promise.all(
      [
        hook({ runs: ['short'] }),
        hook({ daily: { at: '07:30' } }, { field: 'town', is: 'equal', value: 'Harwick' }),
        hook({ daily: { at: '07:28' } }, { field: 'town', is: 'equal', value: 'Harwick' }),
      ].map((each) => api.post<DestinationPage>(`${CLIENT}/destinations`, each)),
    );
    for (const { id } of made) await api.post(`${CLIENT}/destinations/${id}/state`, { state: 'on' });
    const [runs, daily, earlier] = made as [DestinationPage, DestinationPage, DestinationPage];
    await make('Anna', { town: 'Harwick' });
    await make('Bram', { town: 'Fenwater' });
    await stage.write('73300', 'short', 'Tamsin');
    await stage.hears('73300', 1);
    const done = (id: string) =>
      until(
        async () => {
          clock.wind(clock.now() + 500);
          return deliveries(id);
        },
        (found) => found.length > 0 && found.every(({ status }) => status !== 'waiting'),
      );
    expect((await done(runs.id)).map(({ name, causes }) => [name, causes])).toEqual([
      ['Tamsin', ['run:Short']],
    ]);
    expect(await deliveries(daily.id)).toEqual([]);
    clock.wind(Date.parse('2026-11-26T07:30:01Z'));
    expect((await done(daily.id)).map(({ name, causes, status }) => [name, causes, status])).toEqual([
      ['Anna', ['every day'], 'done'],
    ]);
    clock.wind(Date.parse('2026-11-27T07:29:00Z'));
    // The clock has been looked at: what is due two minutes earlier is done.
    const isDoneTwice = (found: DeliveryRow[]) =>
      found.filter(({ status }) => status === 'done').length === 2;
    await until(() => deliveries(earlier.id), isDoneTwice);
    expect(await deliveries(daily.id)).toHaveLength(1);
    clock.wind(Date.parse('2026-11-27T07:30:01Z'));
    await until(async () => {
      clock.wind(clock.now() + 500);
      return deliveries(daily.id);
    }, isDoneTwice);
  } finally {
    await stage.close();
  }
});

test('a file of everybody goes out as a whole: into a folder or to an address, at its time or now, again after a fail', async () => {
  const clock = new WoundClock(Date.parse('2026-11-26T05:00:00Z'));
  const { stage, make, deliveries } = await stageOf(clock);
  try {
    const { api, standins } = stage;
    const mapping = [
      { to: 'Id', as: 'text', origin: { from: 'fact', fact: 'id' } },
      { to: 'Who, in full', as: 'text', origin: { from: 'fact', fact: 'name' } },
      { to: 'town', as: 'text', origin: { from: 'field', field: 'town' }, otherwise: '-' },
      { to: 'tags', as: 'list', origin: { from: 'fact', fact: 'tags' } },
    ];
    const who = { field: 'town', is: 'equal', value: 'Harwick' };
    const anna = await make('Anna', { town: 'Harwick' });
    const calc = await make('=SUM(A1)', { town: 'Harwick' });
    await make('Bram', { town: 'Fenwater' });
    await api.post(`${CLIENT}/people/actions`, {
      people: { ids: [anna] },
      action: { do: 'add tag', tag: 'a; b' },
    });
    const csv = [
      `Id,"Who, in full",town,tags`,
      `${anna},Anna,Harwick,a\\; b`,
      `${calc},'=SUM(A1),Harwick,`,
      '',
    ].join('\r\n');

    const folder = await api.post<DestinationPage>(`${CLIENT}/destinations`, {
      kind: 'file',
      name: 'Ärzte & Co',
      settings: {},
      mapping,
      triggers: { daily: { at: '06:00' } },
      who,
    });
    expect(folder).toMatchObject({ host: null, findings: [] });
    const path = `${CLIENT}/destinations/${folder.id}`;
    await expect(api.post(`${path}/send`, {})).rejects.toThrow(/Switch it on first/);
    await api.post(`${path}/state`, { state: 'on' });
    await expect(api.post(`${path}/try`, { personId: anna })).rejects.toThrow(/goes out as a whole/);
    const ended = (id: string, count = 1) =>
      until(
        async () => {
          clock.wind(clock.now() + 500);
          return deliveries(id);
        },
        (found) => found.length === count && found.every(({ status }) => status !== 'waiting'),
      );
    clock.wind(Date.parse('2026-11-26T06:00:01Z'));
    expect(
      (await ended(folder.id)).map(({ name, personId, status, causes, outcome }) => [
        name,
        personId,
        status,
        causes,
        outcome,
      ]),
    ).toEqual([
      [
        'Everybody it is for',
        null,
        'done',
        ['every day'],
        `arzte-co-2026-11-26.csv: 2 rows, ${Buffer.byteLength(csv)} bytes`,
      ],
    ]);
    const here = join(stage.config.files!, 'saltmarsh-ferries');
    expect(readdirSync(here)).toEqual(['arzte-co-2026-11-26.csv']);
    expect(readFileSync(join(here, 'arzte-co-2026-11-26.csv'), 'utf8')).toBe(csv);

    // To an address: the day in its name, tried again with the same id until it is taken.
    const put = await api.post<DestinationPage>(`${CLIENT}/destinations`, {
      kind: 'file',
      name: 'Drop',
      settings: { address: 'https://drop.example/in/people-DATE.csv' },
      token: 'drop-token',
      mapping,
      triggers: {},
      who,
    });
    await api.post(`${CLIENT}/destinations/${put.id}/state`, { state: 'on' });
    standins.outside.answer({
      host: 'drop.example',
      status: 503,
      body: {},
      headers: {},
      slowMs: 0,
      times: 1,
    });
    await api.post(`${CLIENT}/destinations/${put.id}/send`, {});
    expect((await ended(put.id))[0]).toMatchObject({
      status: 'done',
      attempts: 2,
      outcome: `put: 2 rows, ${Buffer.byteLength(csv)} bytes`,
    });
    const got = standins.outside.requests.filter(({ host }) => host === 'drop.example');
    expect(
      got.map(({ path: at, raw, headers }) => [at, raw, headers.authorization, headers['content-type']]),
    ).toEqual(
      [1, 2].map(() => ['/in/people-2026-11-26.csv', csv, 'Bearer drop-token', 'text/csv; charset=utf-8']),
    );
    expect(new Set(got.map(({ headers }) => headers['idempotency-key'])).size).toBe(1);
    // A step cannot send one person into a file.
    await expect(
      stage.publish(
        '{ format: dart-loop/1, name: Into a file, cues: [{ kind: keyword, words: [into], match: exactly }], scenes: [{ name: One, steps: [{ kind: send out, destination: Drop }, { kind: say, text: Done. }] }] }',
      ),
    ).rejects.toThrow(/is a file that goes out as a whole/);
  } finally {
    await stage.close();
  }
});

test('a destination is copied to other clients with their own tokens, what differs is said, and brought in line', async () => {
  const { stage } = await stageOf();
  try {
    const { api } = stage;
    const { id } = await api.post<DestinationPage>(`${CLIENT}/destinations`, contactTo('Register'));
    const path = `${CLIENT}/destinations/${id}/copies`;
    const row = async (client: string) =>
      (await api.get<CopyRow[]>(path)).find((each) => each.client === client)!;
    expect(await row('northgate-climbing')).toMatchObject({
      copy: null,
      differences: [],
      missingFields: ['email', 'town'],
    });
    await expect(api.post(path, { to: [{ client: 'northgate-climbing' }] })).rejects.toThrow(
      /needs a token of its own/,
    );
    await expect(api.post(path, { to: [{ client: 'saltmarsh-ferries', token: 'x' }] })).rejects.toThrow(
      /no other client/,
    );
    await api.post(path, {
      to: [
        {
          client: 'northgate-climbing',
          token: 'their-own-token-9876',
          address: 'https://crm.climbing.example/contacts',
        },
        { client: 'bramble-row-nursery', token: 'a-third-token' },
      ],
    });
    const copy = (await row('northgate-climbing')).copy!;
    expect(copy).toMatchObject({ host: 'crm.climbing.example', state: 'off', hint: '9876' });
    const theirs = `/clients/northgate-climbing/destinations/${copy.id}`;
    const page = await api.get<DestinationPage>(theirs);
    expect(page).toMatchObject({ name: 'Register', mapping: contactTo('x').mapping, findings: [] });
    expect(await row('northgate-climbing')).toMatchObject({ differences: [], missingFields: [] });
    // Each goes its own way, and is brought back without losing its token and address.
    const [email, name] = page.mapping;
    await api.put(theirs, {
      ...contactTo('Register', {
        mapping: [email!, { ...name!, origin: { from: 'fact', fact: 'first name' } }],
        triggers: {},
      }),
      settings: { address: 'https://crm.climbing.example/contacts', findBy: 'email', listAt: 'data' },
      token: undefined,
    });
    expect((await row('northgate-climbing')).differences).toEqual([
      'Set up otherwise: where the list stands.',
      'The column name takes their first name as text there, their name as text here.',
      'The column town is missing.',
      'Other changes bring a delivery about.',
    ]);
    await api.post(path, { to: [{ client: 'northgate-climbing' }] });
    expect(await row('northgate-climbing')).toMatchObject({
      differences: [],
      copy: { host: 'crm.climbing.example', hint: '9876' },
    });
    expect((await row('bramble-row-nursery')).copy).toMatchObject({ host: 'crm.example', hint: 'oken' });
    // What its triggers name and the other has not is said.
    await api.put(`${CLIENT}/destinations/${id}`, {
      ...contactTo('Register', { triggers: { runs: ['Sailing alerts'] } }),
      token: undefined,
    });
    expect((await row('northgate-climbing')).missingNames).toEqual([
      'There is no loop “Sailing alerts” there, which is to bring a delivery about.',
    ]);
    await api.put(`${CLIENT}/destinations/${id}`, { ...contactTo('Register'), token: undefined });
    // A copy that is on and loses its time of day is not sent at it any more.
    await api.post(`${theirs}/state`, { state: 'on' });
    await api.put(theirs, {
      ...contactTo('Register', { triggers: { daily: { at: '07:00' } } }),
      token: undefined,
    });
    const next = () =>
      stage.one<{ next_at: Date | null }>('select next_at from destination where id = $1', [copy.id]);
    expect((await next()).next_at).not.toBeNull();
    await api.post(path, { to: [{ client: 'northgate-climbing' }] });
    expect((await next()).next_at).toBeNull();
  } finally {
    await stage.close();
  }
});

test('rows of a sheet are written by their key, and no address leads inside', async () => {
  const { stage, make } = await stageOf();
  try {
    const { api } = stage;
    const sheet = (address: string) => ({
      kind: 'rows',
      name: address,
      settings: { address, key: 'id' },
      token: SheetStandin.token,
      mapping: [
        { to: 'id', as: 'text', origin: { from: 'fact', fact: 'id' } },
        { to: 'town', as: 'text', origin: { from: 'field', field: 'town' } },
      ],
      triggers: { fields: ['town'] },
    });
    const { id } = await api.post<DestinationPage>(
      `${CLIENT}/destinations`,
      sheet('https://sheet.example/rows'),
    );
    await api.post(`${CLIENT}/destinations/${id}/state`, { state: 'on' });
    const anna = await make('Anna', { town: 'Harwick' });
    await until(
      () => stage.standins.sheet.rows.get(anna),
      (row) => row?.town === 'Harwick',
    );
    for (const address of [
      'https://127.0.0.1/rows',
      'https://10.1.2.3/rows',
      'https://[::1]/rows',
      'https://2130706433/rows',
      'https://0x7f.1/rows',
      'http://a.example/rows',
    ])
      await expect(api.post(`${CLIENT}/destinations`, sheet(address))).rejects.toThrow(
        /private address|not encrypted/,
      );
  } finally {
    await stage.close();
  }
});

test('an hour in which the other side is down, full, mad, half there or forgets to answer loses none of thousands of changes, in each person’s order', async () => {
  // Five changes of each.
  const PEOPLE = times(500, 2_000);
  const clock = new WoundClock(Date.now());
  const { stage } = await stageOf(clock);
  try {
    const { crm, outside } = stage.standins;
    const { id } = await stage.api.post<DestinationPage>(`${CLIENT}/destinations`, contactTo('CRM'));
    await stage.api.post(`${CLIENT}/destinations/${id}/state`, { state: 'on' });
    const ids = Array.from(
      { length: PEOPLE },
      (_, n) => `00000000-0000-7000-8000-${n.toString(16).padStart(12, '0')}`,
    );
    await stage.db.query(
      `
       insert into person (client_id, id, first_name, fields, tags, lists, created_at, last_seen_at)
       select 1, id, 'P' || n,
         jsonb_build_object('email',
         jsonb_build_object('type', 'email', 'value', 'p' || n || '@example.org')), '{}', '{}', $2, $2
       from unnest($1::uuid[]) with ordinality as t (id, n)`,
      [ids, new Date(clock.now())],
    );
    const change = async (town: string) => {
      await stage.db.query(
        `
         with changed as (update person
           set fields = fields || jsonb_build_object('town',
           jsonb_build_object('type', 'text', 'value', $2::text)) where client_id = 1 and id = any ($1)
         returning id)
         insert into field_change (client_id, person_id, field, after, at, by)
         select 1, id, 'town', jsonb_build_object('type', 'text', 'value', $2::text), $3, '{"kind": "person"}'
         from changed`,
        [ids, town, new Date(clock.now())],
      );
    };
    const bad = { headers: {}, body: {}, slowMs: 0, host: 'crm.example' };
    const moods = [
      { ...bad, status: 500 },
      { ...bad, status: 429, headers: { 'retry-after': '120' } },
      { ...bad, status: 200, raw: '<html>maintenance' },
      { ...bad, status: 200, half: true },
      { ...bad, status: 200, lost: true },
    ];
    const wind = async (minutes: number) => {
      for (let second = 0; second < minutes * 60; second += 15) {
        clock.wind(clock.now() + 15_000);
        await stage.server.path.settled();
      }
    };
    for (const [at, mood] of moods.entries()) {
      outside.answer(mood);
      await change(`Town ${at}`);
      await wind(12);
      await until(
        () => stage.api.get<DestinationRow[]>(`${CLIENT}/destinations`),
        ([row]) => row!.failingSince !== null,
      );
    }
    // Some of it is written while the answers are lost, however busy this machine is.
    await until(
      () => {
        clock.wind(clock.now() + 5_000);
        return crm.changes.length;
      },
      (written) => written > 0,
    );
    const failing = (await stage.api.get<DestinationRow[]>(`${CLIENT}/destinations`))[0]!;
    expect(failing).toMatchObject({ failure: expect.any(String) as string, shelf: 0 });
    // A destination that is down is not knocked at a thousand times.
    expect(outside.requests.filter(({ host }) => host === 'crm.example').length).toBeLessThan(600);
    outside.well('crm.example');
    await until(
      async () => {
        clock.wind(clock.now() + 5_000);
        return stage.one<{ n: number }>("select count(*)::int as n from delivery where status = 'waiting'");
      },
      ({ n }) => n === 0,
      240_000,
    );
    expect(crm.contacts.size).toBe(PEOPLE);
    // What had arrived without an answer came again under the same id.
    expect(crm.changes.length + crm.repeats).toBeGreaterThan(new Set(crm.changes.map(({ key }) => key)).size);
    expect([...crm.contacts.values()].filter(({ town }) => town !== 'Town 4')).toEqual([]);
    const lost = await stage.one<{ n: number }>(
      "select count(*)::int as n from delivery where status <> 'done'",
    );
    expect(lost.n).toBe(0);
    // In each person's order: what stood at the CRM never went back.
    const last = new Map<string, number>();
    for (const { id: contact, cells } of crm.changes) {
      const town = Number(String(cells.town).split(' ')[1]);
      expect(town).toBeGreaterThanOrEqual(last.get(contact) ?? 0);
      last.set(contact, town);
    }
    expect((await stage.api.get<DestinationRow[]>(`${CLIENT}/destinations`))[0]).toMatchObject({
      failingSince: null,
      failure: null,
      waiting: 0,
    });
  } finally {
    await stage.close();
  }
}, 400_000);
