import type { InboxPage, LoopRow, Session, TodayPage } from '@dart-loop/contract';
import { Api } from '../../../cli/api';
import { freePort } from '../../../cli/machine';
import { CHANNELS, Person, publishOneAndTwo } from './support/fivePeople';
import { startProxy, type Proxy } from './support/proxy';
import { ServerProcess } from './support/serverProcess';
import { Stage, until } from './support/stage';

/** How often one of the four processes is killed, and with what pause between. */
const KILLS = 6;
const PAUSE_MS = 5_000;
const PEOPLE_EACH = 8;
/** Somebody at work asks for three things in so long, below the limit of requests. */
const ROUND_MS = 400;

let stage: Stage;
let proxy: Proxy;
let servers: ServerProcess[];
let workers: ServerProcess[];
const ports: number[] = [];

beforeAll(async () => {
  const port = await freePort(0);
  stage = await Stage.open({ limits: false, port });
  await publishOneAndTwo(stage);
  await stage.server.stop();
  ports.push(await freePort(0), await freePort(0));
  servers = ports.map((each) => new ServerProcess(stage, { DARTLOOP_PORT: String(each) }));
  workers = [1, 2].map(() => new ServerProcess(stage, {}, ['worker']));
  for (const each of [...servers, ...workers]) await each.start();
  proxy = await startProxy(port, ports);
}, 120_000);
afterAll(async () => {
  for (const each of [...servers, ...workers]) await each.kill();
  await proxy.stop();
  await stage.closeStandins();
});

test('two servers and two workers behind a proxy, one of them killed every five seconds: everybody is answered, in order, and who works in the app goes on', async () => {
  const people = CHANNELS.flatMap((channel) =>
    Array.from({ length: PEOPLE_EACH }, (_, at) => new Person(stage, channel, 3_000 + at)),
  );
  let kills = 0;
  let isOver = false;
  const crowd = Promise.all(
    people.map(async (person, at) => {
      await until(
        () => kills,
        (count) => count >= Math.floor((at * KILLS) / people.length),
        180_000,
      );
      for (const word of ['one', 'two'])
        if (!(await person.writes(word))) throw new Error(`${person.who}: given up`);
    }),
  );
  // Somebody of the agency works meanwhile: nothing that they do is refused, and none of it is lost.
  const made: string[] = [];
  const work = async () => {
    const api = await Api.signIn(stage.server.address, 'owner');
    const { clients } = await api.get<Session>('/session');
    const slug = clients[0]!.slug;
    for (let round = 1; !isOver; round++) {
      await api.get<TodayPage>('/today');
      await api.get<InboxPage>('/inbox?shelf=settled');
      const name = `Round ${round}`;
      await api.post(`/clients/${slug}/loops`, { name });
      made.push(name);
      await new Promise((resolve) => setTimeout(resolve, ROUND_MS));
    }
    return (await api.get<LoopRow[]>(`/clients/${slug}/loops`)).map(({ name }) => name);
  };
  const working = work();
  // Said when it is waited for.
  working.catch(() => undefined);
  for (const each of Array.from({ length: KILLS }, (_, at) => [...servers, ...workers][at % 4]!)) {
    await new Promise((resolve) => setTimeout(resolve, PAUSE_MS));
    await each.kill();
    kills++;
    await each.start();
  }
  await crowd;
  isOver = true;
  expect(await working).toEqual(expect.arrayContaining(made));
  expect(made.length).toBeGreaterThan(KILLS);
  await until(
    () => people.filter((person) => new Set(person.heard()).size < 2).map(({ who }) => who),
    (silent) => silent.length === 0,
    120_000,
  );
  for (const person of people) {
    const texts = person.heard();
    // Between a platform's answer and our commit nobody can tell; what is repeated stands beside itself.
    const order = texts.filter((text, at) => text !== texts[at - 1]);
    expect({ who: person.who, order }).toEqual({
      who: person.who,
      order: [expect.stringContaining('First.'), 'Second.'],
    });
    expect(texts.length).toBeLessThanOrEqual(2 + KILLS);
    if (person.channel === 'sms') expect(texts).toHaveLength(2);
  }
  await stage.nothingLeft();
  const stored = await stage.one(
    'select (select count(*) from aside)::int as aside, (select count(*) from event)::int as events',
  );
  expect(stored).toEqual({ aside: 0, events: people.length * 2 });
}, 240_000);
