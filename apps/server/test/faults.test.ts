import { freePort } from '../../../cli/machine';
import { CrmStandin } from '../../standins/src/crm';
import { FAULT_POINTS, OUTSIDE_FAULT_POINTS, type FaultPoint } from '../src/platform/fault';
import { Person, publishOneAndTwo } from './support/fivePeople';
import { ServerProcess } from './support/serverProcess';
import { Stage, until } from './support/stage';

let stage: Stage;
let server: ServerProcess;

beforeAll(async () => {
  stage = await Stage.open({ port: await freePort(0) });
  // From here on the server runs in a process of its own, at the same address, so that it can be killed.
  await publishOneAndTwo(stage);
  await stage.server.stop();
  server = new ServerProcess(stage);
});
afterAll(async () => {
  await server.kill();
  await stage.closeStandins();
});

/** Starts the server where it is not there. */
async function start(): Promise<void> {
  if (!server.isThere) await server.start();
}
/**
 * A server that has nothing left to do and ends at a point; `killed` resolves with the signal that ended it.
 */
async function endsAt(point: FaultPoint): Promise<{ killed: Promise<NodeJS.Signals | null> }> {
  await start();
  await stage.nothingLeft();
  await server.arm(point);
  return { killed: server.gone() };
}

const points = Object.entries(FAULT_POINTS).map(
  ([point, words]) => [Number(point) as FaultPoint, words] as const,
);
describe.each(['telegram', 'sms'] as const)('killed on %s at', (channel) => {
  test.each(points)('point %d (%s), everything is sent once', async (point) => {
    const who = channel === 'sms' ? `+4477009005${point}0` : `6500${point}`;
    const { killed } = await endsAt(point);
    // The platform delivers again until it has its 200.
    const delivered = stage.write(who, 'sailings');
    expect(await killed).toBe('SIGKILL');
    await start();
    await delivered;
    const first = await until(
      () => stage.heard(who),
      (heard) => heard.length >= 1,
    );
    expect(first[0]).toContain('This is Saltmarsh Ferries.');
    await stage.write(who, 'b');
    await until(
      () => stage.heard(who),
      (heard) => heard.at(-1)!.startsWith('Fine.'),
    );
    await stage.nothingLeft();
    // Between Telegram’s answer and our commit nothing can tell whether it was sent: it is then sent again.
    const hellos = point === 8 && channel === 'telegram' ? [1, 2] : [1];
    expect(hellos).toContain(stage.heard(who).length - 1);
    const { events, decisions, messages } = await stage.one<{
      events: number;
      decisions: number;
      messages: number;
    }>(
      `
         select (select count(*) from event e where e.conversation_id = c.id)::int as events, (select count(*)
           from decision d where d.conversation_id = c.id)::int as decisions,
         (select count(*) from message m
           where m.conversation_id = c.id and m.status = 'sent')::int as messages from conversation c
         where c.address = $1`,
      [who],
    );
    expect({ events, decisions, messages }).toEqual({ events: 2, decisions: 2, messages: 2 });
  });
});

/**
 * On the other three somebody writes at the same time: one of them meets the point, the others are broken off
 * wherever they are.
 */
describe('killed on messenger, instagram and whatsapp at', () => {
  test.each(points)('point %d (%s), everything is said', async (point) => {
    const people = (['messenger', 'instagram', 'whatsapp'] as const).map(
      (channel) => new Person(stage, channel, 5_000 + point),
    );
    const { killed } = await endsAt(point);
    const delivered = Promise.all(people.map((person) => person.writes('one')));
    expect(await killed).toBe('SIGKILL');
    await start();
    expect(await delivered).toEqual([true, true, true]);
    for (const person of people) {
      await person.writes('two');
      const heard = await until(
        () => person.heard(),
        (texts) => texts.includes('Second.'),
      );
      // Between the platform’s answer and our commit nothing can tell whether it was sent: it is then sent
      // again.
      expect(heard.filter((text, at) => text !== heard[at - 1])).toEqual(['First.', 'Second.']);
    }
    await stage.nothingLeft();
  });
});

test(`killed when ${OUTSIDE_FAULT_POINTS[10]}: it goes again with the same id, and the run goes on once`, async () => {
  await start();
  const file =
    '{ format: dart-loop/1, name: Errand, cues: [{ kind: keyword, words: [errand], match: exactly }], scenes: [{ name: One, steps: [{ kind: send out, address: "https://crm.saltmarshferries.example/x", reply: [{ from: id, field: crm_id }] }, { kind: say, text: "It is number {{ person.crm_id }}." }] }] }';
  await stage.publish(file);
  const { killed } = await endsAt(10);
  await stage.write('65100', 'errand');
  expect(await killed).toBe('SIGKILL');
  expect(stage.standins.outside.requests).toHaveLength(1);
  // Whoever took it is gone: its half minute is over at once.
  await stage.db.query("update errand set next_at = now() where status = 'waiting'");
  await start();
  const heard = await until(
    () => stage.heard('65100'),
    (all) => all.length >= 1,
  );
  expect(heard).toEqual(['It is number 2.']);
  const { requests } = stage.standins.outside;
  expect(requests).toHaveLength(2);
  expect(requests[0]!.headers['webhook-id']).toBe(requests[1]!.headers['webhook-id']);
  expect(await stage.one('select status, attempts from errand')).toEqual({ status: 'done', attempts: 2 });
});

test(`killed when ${OUTSIDE_FAULT_POINTS[11]}: it goes again with the same id and row, and the other side knows it again`, async () => {
  await start();
  const client = '/clients/saltmarsh-ferries';
  await stage.fields(client, { email: 'email', town: 'text' });
  const { id } = await stage.api.post<{ id: string }>(`${client}/destinations`, {
    kind: 'contact',
    name: 'CRM',
    settings: { address: 'https://crm.example/contacts', findBy: 'email' },
    token: CrmStandin.token,
    mapping: ['email', 'town'].map((to) => ({ to, as: 'text', origin: { from: 'field', field: to } })),
    triggers: { fields: 'any' },
  });
  await stage.api.post(`${client}/destinations/${id}/state`, { state: 'on' });
  const person = await stage.api.post<{ id: string }>(`${client}/people`, { firstName: 'Ada' });
  const { killed } = await endsAt(11);
  await stage.api.put(`${client}/people/${person.id}`, {
    fields: { email: 'ada@example.org', town: 'Harwick' },
  });
  expect(await killed).toBe('SIGKILL');
  expect(stage.standins.crm.contacts.size).toBe(1);
  // Its lease is over at once.
  await stage.db.query("update delivery set taken_until = now() where status = 'waiting'");
  await start();
  await until(
    () => stage.one<{ status: string; attempts: number }>('select status, attempts from delivery'),
    ({ status }) => status === 'done',
  );
  expect([...stage.standins.crm.contacts.values()]).toEqual([{ email: 'ada@example.org', town: 'Harwick' }]);
  const keys = stage.standins.outside.requests
    .filter(({ host, body }) => host === 'crm.example' && body)
    .map(({ headers }) => headers['idempotency-key']);
  expect(keys.length).toBeGreaterThan(1);
  expect(new Set(keys).size).toBe(1);
});

test('every connection to the database is cut again and again while a crowd writes: nothing is lost or repeated', async () => {
  await start();
  stage.standins.telegram.limits = stage.standins.sms.limits = false;
  const before = stage.standins.telegram.sendings.length;
  const people = Array.from({ length: 60 }, (_, at) => String(66_000 + at));
  let cutting = true;
  const cuts = (async () => {
    for (let cut = 0; cut < 4 && cutting; cut++) {
      const heard = () => people.reduce((sum, who) => sum + stage.heard(who).length, 0);
      const before = heard();
      await until(heard, (count) => count >= before + 10 || !cutting);
      await stage.db.query(
        `
          select pg_terminate_backend(pid) from pg_stat_activity
          where datname = current_database() and pid <> pg_backend_pid()`,
      );
    }
  })();
  // Ten at a time, so that somebody writes whenever connections are cut.
  const coming = people.values();
  await Promise.all(
    Array.from({ length: 10 }, async () => {
      for (const who of coming) {
        await stage.write(who, 'sailings');
        await stage.write(who, 'not today');
      }
    }),
  );
  cutting = false;
  await cuts;
  await until(
    () => people.filter((who) => stage.heard(who).length >= 2).length,
    (done) => done === people.length,
    60_000,
  );
  await stage.nothingLeft();
  for (const who of people)
    expect([...new Set(stage.heard(who))].map((text) => text.slice(0, 5))).toEqual(['Hello', 'Fine.']);
  const { decisions, messages } = await stage.one<{ decisions: number; messages: number }>(
    `
      select (select count(*) from decision d join conversation c on c.id = d.conversation_id
        where c.address like '66%')::int as decisions, (select count(*) from message m
      join conversation c on c.id = m.conversation_id where c.address like '66%')::int as messages`,
  );
  expect({ decisions, messages }).toEqual({ decisions: 120, messages: 120 });
  // A result that was lost with its connection is marked later, not sent again: at most the messages under
  // way at a cut.
  expect(stage.standins.telegram.sendings.length - before).toBe(120);
});
