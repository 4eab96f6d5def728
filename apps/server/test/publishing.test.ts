import type { LoopEvent, LoopSurroundings, WaysInPage } from '@dart-loop/contract';
import type { Take } from '@dart-loop/core';
import { withTakes } from '@dart-loop/core/loops/takes/keepTake';
import { playTake, acceptTake } from '@dart-loop/core/loops/takes/takes';
import { WoundClock } from '../src/platform/clock';
import { Stage, until, type Loop, type LoopPage, type LoopRow } from './support/stage';

let stage: Stage;
let clock: WoundClock;
let ticking: NodeJS.Timeout;
beforeAll(async () => {
  clock = new WoundClock(Date.UTC(2026, 10, 24, 10));
  stage = await Stage.open({ clock, limits: false });
  // It goes on by itself too, so that the pauses between messages pass.
  ticking = setInterval(() => clock.wind(clock.now() + 200), 20);
});
afterAll(async () => {
  clearInterval(ticking);
  await stage.close();
});

const CLIENT = 'saltmarsh-ferries';
const file = (word: string, text = 'Hello. Shall we go on?') => `
format: dart-loop/1
name: ${word}
cues: [{ id: k, kind: keyword, words: [${word}], match: exactly }]
scenes:
  - { id: one, name: One, steps: [{ id: s, kind: say, text: "${text}", choices: [{ id: yes, label: "Yes", to: two }, { id: no, label: "No", to: two }], noReply: { after: 3h, to: end } }] }
  - { id: two, name: Two, steps: [{ id: t, kind: say, text: "On we go." }] }
`;
let person = 9100;
const somebody = () => String(++person);

describe('a live loop', () => {
  test('paused starts nobody new, and those on the way go on; resumed it starts again', async () => {
    const path = await stage.publish(file('PAUSES'));
    const [ada, ben] = [somebody(), somebody()];
    await stage.write(ada, 'pauses');
    await stage.hears(ada, 1);
    expect(await stage.api.post<LoopPage>(`${path}/state`, { state: 'paused' })).toMatchObject({
      state: 'paused',
      peopleInIt: 1,
      onTheWay: { s: 1 },
    });
    await stage.write(ben, 'pauses');
    await until(
      () =>
        stage.one<{ shelf: string } | undefined>('select shelf from conversation where address = $1', [ben]),
      (row) => row?.shelf === 'waiting on us',
    );
    expect(stage.heard(ben)).toEqual([]);
    await stage.tap(ada, 'Yes');
    expect((await stage.hears(ada, 2))[1]).toBe('On we go.');
    expect(await stage.api.post<LoopPage>(`${path}/state`, { state: 'live' })).toMatchObject({
      state: 'live',
      peopleInIt: 0,
    });
    await stage.write(ben, 'pauses');
    expect(await stage.hears(ben, 1)).toHaveLength(1);
  });

  test('stopped ends those on the way; a late tap is not led on; history says who did what', async () => {
    const path = await stage.publish(file('STOPS'));
    const ada = somebody();
    await stage.write(ada, 'stops');
    await stage.hears(ada, 1);
    await stage.api.post(`${path}/state`, { state: 'stopped' });
    await until(
      () => stage.api.get<LoopPage>(path),
      (page) => page.peopleInIt === 0,
    );
    expect(await stage.one('select status from run where loop_id = $1', [path.split('/').at(-1)])).toEqual({
      status: 'stopped',
    });
    expect(await stage.one('select shelf from conversation where address = $1', [ada])).toEqual({
      shelf: 'settled',
    });
    const history = await stage.api.get<LoopEvent[]>(`${path}/history`);
    expect(history.map(({ words, by }) => [words, by])).toEqual([
      ['stopped a loop', 'Odile Marrow'],
      ['published a loop, version 1', 'Odile Marrow'],
      ['imported a loop', 'Odile Marrow'],
    ]);
  });

  test('is archived only when it is stopped, and comes back; what was never published cannot be paused', async () => {
    const path = await stage.publish(file('ARCHIVES'));
    expect(await stage.api.raw('post', `${path}/archive`, { archived: true })).toMatchObject({
      status: 409,
      body: { detail: expect.stringContaining('stop it first') },
    });
    await stage.api.post(`${path}/state`, { state: 'stopped' });
    expect(await stage.api.post<LoopPage>(`${path}/archive`, { archived: true })).toMatchObject({
      state: 'archived',
    });
    expect(await stage.api.raw('post', `${path}/state`, { state: 'live' })).toMatchObject({ status: 409 });
    expect(
      (await stage.api.get<LoopRow[]>(`/clients/${CLIENT}/loops`)).find(({ name }) => name === 'ARCHIVES'),
    ).toMatchObject({
      state: 'archived',
    });
    expect(await stage.api.post<LoopPage>(`${path}/archive`, { archived: false })).toMatchObject({
      state: 'stopped',
    });
    const { id } = await stage.api.post<{ id: string }>(`/clients/${CLIENT}/loops/import`, {
      file: file('NEVER'),
    });
    expect(
      await stage.api.raw('post', `/clients/${CLIENT}/loops/${id}/state`, { state: 'paused' }),
    ).toMatchObject({ status: 409 });
  });

  test('a duplicate has a name of its own and the same steps', async () => {
    const path = await stage.publish(file('TWICE'));
    const made = await Promise.all([stage.api.post<{ id: string }>(`${path}/duplicate`, {}), undefined]);
    const copy = await stage.api.get<LoopPage>(`/clients/${CLIENT}/loops/${made[0].id}`);
    const own = await stage.api.get<LoopPage>(path);
    expect(copy).toMatchObject({ state: 'never published', draft: { ...own.draft, name: 'TWICE, again' } });
    await stage.api.post(`${path}/duplicate`, {});
    expect((await stage.api.get<LoopRow[]>(`/clients/${CLIENT}/loops`)).map(({ name }) => name)).toContain(
      'TWICE, again 2',
    );
  });
});

describe('a schedule', () => {
  test('publishes what the draft was, at its time, though the draft has gone on', async () => {
    const path = await stage.publish(file('LATER'));
    const page = await stage.api.get<LoopPage>(path);
    const reworded = (text: string): Loop => ({
      ...page.draft,
      scenes: page.draft.scenes.map((scene, at) =>
        at === 1 ? { ...scene, steps: [{ id: 't', kind: 'say', text }] } : scene,
      ),
    });
    const saved = await stage.api.put<LoopPage>(`${path}/draft`, {
      revision: page.revision,
      loop: reworded('Then'),
    });
    const at = new Date(clock.now() + 3_600_000).toISOString();
    expect(
      await stage.api.raw('post', `${path}/publish`, {
        revision: saved.revision,
        at: new Date(clock.now() - 1_000).toISOString(),
      }),
    ).toMatchObject({ status: 422 });
    expect(await stage.api.post<LoopPage>(`${path}/publish`, { revision: saved.revision, at })).toMatchObject(
      {
        scheduled: { at, by: 'Odile Marrow' },
        live: { version: 1 },
      },
    );
    const later = await stage.api.put<LoopPage>(`${path}/draft`, {
      revision: saved.revision,
      loop: reworded('Later still'),
    });
    clock.wind(clock.now() + 3_600_000);
    const live = await until(
      () => stage.api.get<LoopPage>(path),
      ({ live: now }) => now?.version === 2,
    );
    expect(live).toMatchObject({
      scheduled: null,
      scheduleFailed: null,
      revision: later.revision,
      differences: [expect.stringContaining('scene 2')],
    });
    const ada = somebody();
    await stage.write(ada, 'later');
    await stage.hears(ada, 1);
    await stage.tap(ada, 'No');
    expect((await stage.hears(ada, 2))[1]).toBe('Then');
  });

  test('is taken back; one that cannot be published says why, on the page and on Today', async () => {
    const path = await stage.publish(file('BACK'));
    const page = await stage.api.get<LoopPage>(path);
    const renamed = await stage.api.put<LoopPage>(`${path}/draft`, {
      revision: page.revision,
      loop: { ...page.draft, name: 'Back again' },
    });
    const at = new Date(clock.now() + 60_000).toISOString();
    await stage.api.post(`${path}/publish`, { revision: renamed.revision, at });
    expect(await stage.api.post<LoopPage>(`${path}/unschedule`, {})).toMatchObject({ scheduled: null });
    await stage.api.post(`${path}/publish`, { revision: renamed.revision, at });
    // Meanwhile somebody publishes the very same by hand.
    await stage.db.query(
      "update loop_version set loop = jsonb_set(loop, '{name}', '\"Back again\"') where loop_id = $1",
      [renamed.id],
    );
    clock.wind(clock.now() + 60_000);
    const failed = await until(
      () => stage.api.get<LoopPage>(path),
      ({ scheduleFailed }) => scheduleFailed !== null,
    );
    expect(failed).toMatchObject({
      scheduled: null,
      scheduleFailed: 'The draft is the same as the live version.',
    });
    const today = await stage.api.get<{ attention: { words: string }[] }>('/today');
    expect(today.attention.map(({ words }) => words)).toContainEqual(
      expect.stringContaining('Back again was scheduled to be published and was not'),
    );
  });
});

test('a take that plays otherwise than it was kept stands in the way until it is accepted', async () => {
  const { id } = await stage.api.post<{ id: string }>(`/clients/${CLIENT}/loops/import`, {
    file: file('TAKEN'),
  });
  const path = `/clients/${CLIENT}/loops/${id}`;
  const page = await stage.api.get<LoopPage>(path);
  const known = await stage.api.get<LoopSurroundings>(`${path}/surroundings`);
  const take: Take = {
    id: 'yes',
    name: 'Says yes',
    channel: 'telegram',
    begins: '2026-11-24T10:00:00.000Z',
    person: { id: 'p' },
    turns: [
      { does: 'taken', ours: ['Hello. Shall we go on?\n[Yes] [No]'] },
      { does: '[Yes]', ours: ['Something else.'] },
    ],
  };
  const loop = withTakes(page.draft, [take]);
  const saved = await stage.api.put<LoopPage>(`${path}/draft`, { revision: page.revision, loop });
  expect(await stage.api.raw('post', `${path}/publish`, { revision: saved.revision })).toMatchObject({
    status: 422,
    body: {
      detail: expect.stringContaining('The take “Says yes” plays otherwise than kept'),
      takes: [{ takeId: 'yes', turns: 1 }],
    },
  });
  const accepted = acceptTake(loop, playTake(loop, take, known));
  const again = await stage.api.put<LoopPage>(`${path}/draft`, { revision: saved.revision, loop: accepted });
  const published = await stage.api.post<LoopPage>(`${path}/publish`, { revision: again.revision });
  expect(published).toMatchObject({
    live: { version: 1 },
    differences: [],
    draft: { takes: [{ turns: [{}, { ours: ['On we go.'] }] }] },
  });
  // What runs does not carry them.
  expect(
    await stage.one<{ takes: boolean }>(
      "select loop ? 'takes' as takes from loop_version where loop_id = $1",
      [id],
    ),
  ).toEqual({
    takes: false,
  });
});

describe('who is in a loop is told to the others at once', () => {
  test('with the step, and only to those who see the client', async () => {
    const { id } = await stage.api.post<{ id: string }>(`/clients/${CLIENT}/loops/import`, {
      file: file('HERE'),
    });
    const heard: string[] = [];
    const answer = await fetch(`${stage.server.address}/api/live`, {
      headers: { cookie: (await stage.as('builder')).cookie },
    });
    const reader = answer.body!.getReader();
    void (async () => {
      for (let read = await reader.read(); !read.done; read = await reader.read())
        heard.push(new TextDecoder().decode(read.value));
    })().catch(() => undefined);
    await stage.api.post(`/clients/${CLIENT}/loops/${id}/here`, { screen: 'a', stepId: 's' });
    await until(
      () => heard.join(''),
      (all) => all.includes('event: here'),
    );
    expect(heard.join('')).toContain(`"loopId":"${id}","name":"Odile Marrow","screen":"a","stepId":"s"`);
    await reader.cancel();
  });
});

test('a way into a live loop has a picture at an address that stays, for whoever shows it; what is not live has none', async () => {
  const path = await stage.publish(file('poster'));
  const page = await stage.api.get<WaysInPage>(`${path}/ways-in`);
  const way = page.ways.find(({ channel }) => channel === 'telegram')!;
  expect(way.picture).toContain('/w/');
  // Nobody is signed in on a website.
  const look = () => fetch(way.picture!);
  const shown = await look();
  expect([shown.status, shown.headers.get('content-type')]).toEqual([200, 'image/svg+xml; charset=utf-8']);
  expect(shown.headers.get('cross-origin-resource-policy')).toBe('cross-origin');
  expect(shown.headers.get('set-cookie')).toBeNull();
  const before = await shown.text();
  // The bot is another: the address is the same, and the picture is of the new link.
  await stage.db.query(
    `update line set account = account || '{"username": "another_bot"}' where key = 'telegram' and client_id = 1`,
  );
  const after = await (await look()).text();
  expect(after).toMatch(/^<svg/);
  expect(after).not.toBe(before);
  for (const wrong of [
    way.picture!.replace('k.svg', 'x.svg'),
    way.picture!.replace('.svg', ''),
    way.picture!.replace(/w\/[^/]+/, 'w/none'),
  ])
    expect((await fetch(wrong)).status).toBe(404);
  await stage.db.query('update loop set archived_at = now() where id = $1', [path.split('/').at(-1)]);
  expect((await look()).status).toBe(404);
});
