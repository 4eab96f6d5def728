import { join } from 'node:path';
import { openCluster, removeCluster, type Cluster } from '../../../cli/cluster';
import { freePort } from '../../../cli/machine';
import { CHANNELS, Person, publishOneAndTwo } from './support/fivePeople';
import { ServerProcess } from './support/serverProcess';
import { Stage, cluster, until } from './support/stage';

/**
 * Times that the server is killed, or PostgreSQL ended without ceremony, while people write on all five
 * channels.
 */
const OUTAGES = 20;
const PEOPLE_EACH = 12;
/** What the platform took so long before an outage was surely marked, however busy the machine. */
const UNDER_WAY_MS = 10_000;

let own: Cluster;
let stage: Stage;
let server: ServerProcess;
const folder = () => join(cluster().folder, 'outage');
beforeAll(async () => {
  own = await openCluster(folder());
  const databases = { owner: own.owner, app: own.app, lane: own.lane };
  stage = await Stage.open({ limits: false, databases, port: await freePort(0) });
  await publishOneAndTwo(stage);
  await stage.server.stop();
  server = new ServerProcess(stage);
  await server.start();
}, 120_000);
afterAll(async () => {
  await server.kill();
  await stage.closeStandins().catch(() => undefined);
  await own.stop();
  removeCluster(folder());
}, 60_000);

/** A sequence of its own that is the same in every run: mulberry32. */
function chances(seed: number): () => number {
  return () => {
    seed = (seed + 0x6d2b79f5) | 0;
    let t = Math.imul(seed ^ (seed >>> 15), 1 | seed);
    t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t;
    return ((t ^ (t >>> 14)) >>> 0) / 4_294_967_296;
  };
}

test('server and database end at any moment, twenty times, while people write on all five channels: nothing is lost, nothing is said twice beyond the one window', async () => {
  const chance = chances(20_261);
  const people = CHANNELS.flatMap((channel) =>
    Array.from({ length: PEOPLE_EACH }, (_, at) => new Person(stage, channel, 1_000 + at)),
  );
  // From when it was asked for until it had come: on a busy machine things go on for a while between.
  const ended: { from: number; to: number }[] = [];
  let outages = 0;
  const crowd = Promise.all(
    people.map(async (person, at) => {
      // One after the other over the whole time: the next begins when so many outages have been.
      await until(
        () => outages,
        (count) => count >= Math.floor((at * OUTAGES) / people.length),
        240_000,
      );
      for (const word of ['one', 'two'])
        if (!(await person.writes(word)))
          throw new Error(`${person.who} could not write “${word}”: the platform gave up`);
    }),
  );
  let kills = 0;
  while (outages < OUTAGES) {
    // At a moment that nobody has chosen: when some more has been said since the last outage, or soon.
    const before = people.reduce((sum, person) => sum + person.heard().length, 0);
    const wanted = before + Math.floor(chance() * 3);
    await until(
      () => people.reduce((sum, person) => sum + person.heard().length, 0),
      (now) => now >= wanted,
      1_000 + Math.floor(chance() * 1_000),
    ).catch(() => undefined);
    const from = Date.now();
    if (chance() < 0.5) {
      kills++;
      await server.kill();
      ended.push({ from, to: Date.now() });
      await server.start();
    } else {
      const pid = server.child!.pid;
      await own.restart();
      ended.push({ from, to: Date.now() });
      await until(
        () => fetch(`${stage.server.address}/healthz`).then((answer) => answer.status),
        (status) => status === 200,
        30_000,
      );
      // The very same process is still there.
      expect({ isThere: server.isThere, pid: server.child!.pid }).toEqual({ isThere: true, pid });
    }
    outages++;
  }
  await crowd;
  await until(
    () =>
      people
        .filter((person) => new Set(person.heard()).size < 2)
        .map((person) => ({ who: person.who, heard: person.heard() })),
    (silent) => silent.length === 0,
    120_000,
  );
  expect(kills).toBeGreaterThan(3);
  expect(OUTAGES - kills).toBeGreaterThan(3);
  for (const person of people) {
    const heard = person
      .heardAt()
      .map(({ text, at }) => ({ text: text.includes('First.') ? 'First.' : text, at }));
    const texts = heard.map(({ text }) => text);
    // In order, whatever is said twice: nothing of later comes before what was said earlier.
    expect({ who: person.who, order: texts.filter((text, at) => text !== texts[at - 1]) }).toEqual({
      who: person.who,
      order: ['First.', 'Second.'],
    });
    // The gateway for SMS drops what is repeated; the other platforms cannot.
    if (person.channel === 'sms') expect(texts).toEqual(['First.', 'Second.']);
    // Between a platform's answer and our commit nobody can tell: what was under way at an outage is said
    // again, once for each.
    const { at: unexplained } =
      heard.find(({ text, at }, index) => {
        const before = heard[index - 1];
        if (before?.text !== text) return false;
        return !ended.some(
          ({ from, to }) => to >= before.at && from <= at + 1_000 && from <= before.at + 1_000 + UNDER_WAY_MS,
        );
      }) ?? {};
    expect({ who: person.who, heard, unexplained }).toEqual({
      who: person.who,
      heard,
      unexplained: undefined,
    });
  }
  const db = new (await import('pg')).default.Client({ connectionString: own.owner });
  await db.connect();
  const { rows } = await db.query<{ left: number; events: number; aside: number }>(
    `
      select ((select count(*) from message where status = 'queued') + (select count(*) from pending))::int
        as left, (select count(*) from event)::int as events, (select count(*) from aside)::int as aside`,
  );
  await db.end();
  expect(rows[0]).toEqual({ left: 0, events: 2 * people.length, aside: 0 });
}, 600_000);

test('a server that is started while the database is away waits for it, and one whose key does not fit says so and does not start', async () => {
  await server.kill();
  await own.stop();
  const started = server.start();
  // It is not ready, and not gone either.
  await until(
    () => server.isThere,
    (there) => there,
  );
  await own.restart();
  await started;
  expect((await fetch(`${stage.server.address}/healthz`)).status).toBe(200);
  await server.kill();
  const wrong = new ServerProcess(stage, { DARTLOOP_KEY: 'ab'.repeat(32) });
  await expect(wrong.start()).rejects.toThrow('the server ended before it was ready');
}, 120_000);
