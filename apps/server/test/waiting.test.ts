import { WoundClock } from '../src/platform/clock';
import { startServer } from '../src/server';
import { Stage, until } from './support/stage';

/** A Wednesday, ten in the morning in London. */
const clock = new WoundClock(Date.UTC(2026, 10, 25, 10));
let stage: Stage;
const CLIENT = '/clients/saltmarsh-ferries';
beforeAll(async () => void (stage = await Stage.open({ clock })));
afterAll(() => stage.close());
// Days go by in each test, and sessions end.
beforeEach(async () => void (stage.api = await stage.as('owner')));

const HOUR = 3_600_000;
async function publish(file: string, path?: string): Promise<string> {
  if (path === undefined)
    path = `${CLIENT}/loops/${(await stage.api.post<{ id: string }>(`${CLIENT}/loops/import`, { file })).id}`;
  const { revision } = await stage.api.get<{ revision: number }>(path);
  await stage.api.post(`${path}/publish`, { revision });
  return path;
}
/**
 * What was decided to be said to somebody, sent or not: the clock stands still, and with it the pace of
 * sending.
 */
async function said(who: string): Promise<string[]> {
  await stage.server.path.settled();
  const { rows } = await stage.db.query<{ text: string }>(
    `
      select m.body ->> 'text' as text from message m join conversation c on c.id = m.conversation_id
      where c.address = $1 order by m.seq`,
    [who],
  );
  return rows.map((row) => row.text);
}
async function wind(ms: number): Promise<void> {
  clock.wind(clock.now() + ms);
  await stage.server.path.settled();
}

test('a day that is known already gets its timer when the cue is published; it fires once, at the person’s own hour', async () => {
  await publish(
    '{ format: dart-loop/1, name: Trip, cues: [{ kind: keyword, words: [trip], match: exactly }], scenes: [{ name: One, steps: [{ kind: ask, text: Which day?, reply: date, field: trip_day }] }] }',
  );
  await stage.write('69001', 'trip');
  await until(
    () => said('69001'),
    (all) => all.length === 1,
  );
  await stage.write('69001', 'saturday');
  await stage.server.path.settled();
  await publish(
    '{ format: dart-loop/1, name: Day before, cues: [{ kind: date, field: trip_day, days: -1, at: "18:00" }], scenes: [{ name: One, steps: [{ kind: say, text: See you tomorrow. }] }] }',
  );
  await stage.server.path.settled();
  expect(await stage.one("select due_at from timer where key like 'date:%'")).toEqual({
    due_at: new Date('2026-11-27T18:00:00Z'),
  });
  await wind(55 * HOUR);
  expect(await said('69001')).toHaveLength(1);
  await wind(2 * HOUR);
  expect((await said('69001')).slice(1)).toEqual(['See you tomorrow.']);
  await wind(48 * HOUR);
  expect(await said('69001')).toHaveLength(2);
});

test('a server that was down for a day fires late timers once, in their order, and quiet hours still hold', async () => {
  clock.wind(Date.UTC(2026, 11, 1, 10));
  await publish(
    '{ format: dart-loop/1, name: Drip, cues: [{ kind: keyword, words: [drip], match: exactly }], scenes: [{ name: One, steps: [{ kind: say, text: One. }, { kind: wait, for: 1h }, { kind: say, text: Two. }, { kind: wait, for: 1h }, { kind: say, text: Three. }] }] }',
  );
  const people = ['69011', '69012', '+447700900501'];
  for (const who of people) await stage.write(who, 'drip');
  for (const who of people)
    await until(
      () => said(who),
      (all) => all.length === 1,
    );
  await stage.server.stop();
  // It comes back at eleven at night.
  clock.wind(Date.UTC(2026, 11, 1, 23));
  stage.server = await startServer(
    { ...stage.config, port: Number(new URL(stage.server.address).port) },
    clock,
  );
  for (const who of ['69011', '69012'])
    expect(
      await until(
        () => said(who),
        (all) => all.length >= 2,
      ),
    ).toEqual(['One.', 'Two.']);
  expect(await said('+447700900501')).toEqual(['Saltmarsh Ferries: One.\nWrite STOP to end these messages.']);
  await wind(HOUR);
  for (const who of ['69011', '69012'])
    expect(
      await until(
        () => said(who),
        (all) => all.length >= 3,
      ),
    ).toEqual(['One.', 'Two.', 'Three.']);
  await wind(9 * HOUR);
  expect(
    await until(
      () => said('+447700900501'),
      (all) => all.length >= 2,
    ),
  ).toEqual(['Saltmarsh Ferries: One.\nWrite STOP to end these messages.', 'Two.']);
  await wind(24 * HOUR);
  expect(await said('69011')).toHaveLength(3);
});

test('silence counts from the last word, also for those who wrote before the cue was there', async () => {
  clock.wind(Date.UTC(2026, 11, 10, 10));
  stage.api = await stage.as('owner');
  await stage.write('69021', 'good morning');
  await stage.server.path.settled();
  await wind(HOUR);
  await publish(
    '{ format: dart-loop/1, name: Quiet, cues: [{ kind: silence, after: 2d }], scenes: [{ name: One, steps: [{ kind: say, text: Still with us? }] }] }',
  );
  await wind(46 * HOUR);
  expect(await said('69021')).toEqual([]);
  await stage.write('69021', 'yes yes');
  await stage.server.path.settled();
  await wind(2 * HOUR);
  expect(await said('69021')).toEqual([]);
  await wind(46 * HOUR);
  expect(await said('69021')).toEqual(['Still with us?']);
  await wind(240 * HOUR);
  expect(await said('69021')).toHaveLength(1);
});

test('people on the way stay on their version, or are moved where their step still stands; and a version comes back', async () => {
  const file = (text: string, id = 'q') =>
    `{ format: dart-loop/1, name: Course, cues: [{ kind: keyword, words: [course], match: exactly }], scenes: [{ name: One, steps: [{ id: ${id}, kind: ask, text: Level?, reply: text, field: level }, { kind: say, text: ${text} }] }] }`;
  const path = await publish(file('first'));
  for (const who of ['69031', '69032']) {
    await stage.write(who, 'course');
    await until(
      () => said(who),
      (all) => all.length === 1,
    );
  }
  const reword = async (text: string, id?: string) => {
    const { revision } = await stage.api.get<{ revision: number }>(path);
    const { default: yaml } = await import('yaml');
    return (
      await stage.api.put<{ revision: number }>(`${path}/draft`, {
        revision,
        loop: {
          lines: [],
          ...(yaml.parse(
            file(text, id)
              .replace('steps: [{ id', 'id: one, steps: [{ id')
              .replace('{ kind: say', '{ id: said, kind: say')
              .replace('{ kind: keyword', '{ id: k, kind: keyword'),
          ) as object),
        },
      })
    ).revision;
  };
  await stage.api.post(`${path}/publish`, { revision: await reword('second') });
  await stage.write('69031', 'B1');
  expect(
    (
      await until(
        () => said('69031'),
        (all) => all.length === 2,
      )
    )[1],
  ).toBe('first');
  await stage.api.post(`${path}/publish`, { revision: await reword('third') });
  await stage.api.post(`${path}/move`, {});
  await stage.server.path.settled();
  expect(await stage.api.get(`${path}/versions`)).toMatchObject([
    { version: 3, live: true, peopleInIt: 1, changes: ['scene 1: text reworded'] },
    { version: 2, live: false, peopleInIt: 0 },
    { version: 1, live: false, peopleInIt: 0, changes: ['first version'] },
  ]);
  await stage.write('69032', 'B1');
  expect(
    (
      await until(
        () => said('69032'),
        (all) => all.length === 2,
      )
    )[1],
  ).toBe('third');

  await stage.api.post(`${path}/roll-back`, { version: 1 });
  await stage.write('69033', 'course');
  await until(
    () => said('69033'),
    (all) => all.length === 1,
  );
  await stage.write('69033', 'B1');
  expect(
    (
      await until(
        () => said('69033'),
        (all) => all.length === 2,
      )
    )[1],
  ).toBe('first');
  expect(await stage.api.raw('post', `${path}/roll-back`, { version: 9 })).toMatchObject({
    status: 404,
    body: { detail: 'The loop has no version 9.' },
  });
});
