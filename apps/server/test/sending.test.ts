import pg from 'pg';
import type { Logger } from 'pino';
import type { LineRow, ConversationPage } from '@dart-loop/contract';
import { wallClock } from '../src/platform/clock';
import type { Db } from '../src/platform/db/pool';
import type { QueuedRow } from '../src/sending/lineSender';
import { Results } from '../src/sending/results';
import { Turns } from '../src/sending/turns';
import { Pace, growingPause } from '../src/platform/jobs/pace';
import { startServer } from '../src/server';
import type { Mood } from '../../standins/src/mood';
import { Person } from './support/fivePeople';
import { BOT, NUMBER, Stage, until } from './support/stage';

let stage: Stage;
beforeAll(async () => void (stage = await Stage.open()));
afterAll(() => stage.close());

const mood = (channel: 'telegram' | 'sms', is: Mood) =>
  void ((channel === 'telegram'
    ? stage.standins.telegram.bot(BOT)!
    : stage.standins.sms.numbers.get(NUMBER)!
  ).mood = is);
const line = async (channel: 'telegram' | 'sms') =>
  (await stage.api.get<LineRow[]>('/clients/saltmarsh-ferries/lines')).find(
    (each) => each.channel === channel,
  )!;
const person = (channel: 'telegram' | 'sms', n: number) =>
  channel === 'sms' ? `+4477009006${n}` : `670${n}`;

describe.each(['telegram', 'sms'] as const)('the platform on %s', (channel) => {
  test.each([
    ['429', 10, false],
    ['500', 11, true],
    ['401', 12, true],
    ['garbage', 13, true],
    ['silent', 14, true],
  ] as const)(
    'answers %s: the message waits, the line says so when it fails, and it goes once all is well',
    async (is, n, fails) => {
      const who = person(channel, n);
      mood(channel, is);
      await stage.write(who, 'sailings');
      const held = await until(
        () =>
          stage.one<{ status: string; attempts: number; failure: { reason: string } | null }>(
            `
              select m.status, m.attempts, m.failure from message m
              join conversation c on c.id = m.conversation_id where c.address = $1`,
            [who],
          ),
        (row) => row?.attempts > 0,
      );
      expect(held).toMatchObject({ status: 'queued' });
      expect(held.failure!.reason).not.toMatch(/undefined|null/);
      if (fails) {
        const failing = await until(
          () => line(channel),
          (each) => each.state === 'failing',
        );
        expect(failing.failure!.reason.length).toBeGreaterThan(20);
        expect(failing.failure!.remedy.length).toBeGreaterThan(10);
        expect(failing.held).toBeGreaterThan(0);
      }
      // A second message must not overtake the one that waits.
      await stage.write(who, 'not today');
      mood(channel, 'well');
      // A try that began just before may run into the silence once more, a quarter of a minute long.
      const heard = await until(
        () => stage.heard(who),
        (each) => each.length === 2,
        75_000,
      );
      expect(heard.map((text) => text.slice(0, 5))).toEqual(['Hello', 'Fine.']);
      await until(
        () => line(channel),
        (each) => each.state === 'connected' && each.held === 0,
      );
    },
  );

  test('refuses for good: the message has failed, with its reason on the conversation and in Today', async () => {
    const who = person(channel, 20);
    mood(channel, '403');
    await stage.write(who, 'sailings');
    const failed = await until(
      () =>
        stage.one<{ id: string; status: string }>(
          `
            select c.id, m.status from message m join conversation c on c.id = m.conversation_id
            where c.address = $1`,
          [who],
        ),
      (row) => row?.status === 'failed',
    );
    mood(channel, 'well');
    const talk = await stage.api.get<ConversationPage>(
      `/clients/saltmarsh-ferries/conversations/${failed.id}`,
    );
    const out = talk.entries.find((entry) => entry.kind === 'out');
    expect(out).toMatchObject({ status: 'failed' });
    expect(out!.kind === 'out' && out!.failure!.remedy).toContain('Only the person');
    const today = await stage.api.get<{ attention: { words: string }[] }>('/today');
    expect(today.attention.some((each) => each.words.includes('not sent'))).toBe(true);
  });

  test('answers slowly: other lines do not wait, and it is sent once', async () => {
    const other = channel === 'sms' ? 'telegram' : 'sms';
    mood(channel, 'slow');
    await stage.write(person(channel, 22), 'sailings');
    await stage.write(person(other, 23), 'sailings');
    await until(
      () => stage.heard(person(other, 23)),
      (heard) => heard.length === 1,
    );
    expect(stage.heard(person(channel, 22))).toEqual([]);
    await until(
      () => stage.heard(person(channel, 22)),
      (heard) => heard.length === 1,
    );
    mood(channel, 'well');
  });
});

test('a timer that fell due while no server ran is played once when one starts', async () => {
  const who = '67030';
  await stage.write(who, 'sailings');
  await until(
    () => stage.heard(who),
    (heard) => heard.length === 1,
  );
  const { id } = await stage.one<{ id: string }>('select id from conversation where address = $1', [who]);
  expect(
    (
      await stage.one<{ due: Date }>('select due_at as due from timer where conversation_id = $1', [id])
    ).due.getTime(),
  ).toBeGreaterThan(Date.now() + 2.9 * 3_600_000);
  await stage.server.stop();
  // Three hours later, as far as the timer knows.
  await stage.db.query("update timer set due_at = now() - interval '1 minute' where conversation_id = $1", [
    id,
  ]);
  stage.server = await startServer(
    { ...stage.config, port: Number(new URL(stage.server.address).port) },
    wallClock,
  );
  const heard = await until(
    () => stage.heard(who),
    (each) => each.length === 2,
  );
  expect(heard[1]).toBe('Still there? The offer stands.');
  // The next reply settles the timer that followed.
  await stage.tap(who, 'No thanks');
  await until(
    () => stage.heard(who),
    (each) => each.length === 3,
  );
  expect(
    (
      await stage.one<{ left: number }>(
        'select count(*)::int as left from timer where conversation_id = $1',
        [id],
      )
    ).left,
  ).toBe(0);
});

test('a disconnected line’s secrets are gone, its webhook too, and what waited is closed with its reason', async () => {
  mood('sms', '500');
  const who = person('sms', 40);
  await stage.write(who, 'sailings');
  await until(
    () => line('sms'),
    (each) => each.held === 1,
  );
  const before = await line('sms');
  const gone = await stage.api.raw('delete', `/clients/saltmarsh-ferries/lines/${before.id}`);
  expect(gone).toMatchObject({ status: 200 });
  expect((gone.body as { words: string }).words).toMatch(
    /Its 2 secrets were wiped; its conversations are kept\. 1 unsent/,
  );
  expect(await stage.one('select secrets, secret_hints from line where id = $1', [before.id])).toEqual({
    secrets: null,
    secret_hints: {},
  });
  expect((await fetch(before.webhook, { method: 'POST', body: 'x' })).status).toBe(404);
  expect(
    (await stage.api.get<LineRow[]>('/clients/saltmarsh-ferries/lines')).map((each) => each.channel),
  ).not.toContain('sms');
  mood('sms', 'well');
});

describe('connecting a line', () => {
  const connect = (body: object) => stage.api.raw('post', '/clients/northgate-climbing/lines', body);
  test('a token without its shape is refused before anybody is asked, a dead one with the remedy', async () => {
    expect(await connect({ channel: 'telegram', token: '123:short' })).toMatchObject({
      status: 422,
      body: { detail: expect.stringContaining('not the shape of a bot token') },
    });
    const token = `7001200399:${'x'.repeat(35)}`;
    expect((await connect({ channel: 'telegram', token })).status).toBe(200);
    stage.standins.telegram.bot('7001200399')!.mood = '401';
    expect(await connect({ channel: 'telegram', token })).toMatchObject({
      status: 422,
      body: { errors: [{ field: 'token', detail: expect.stringContaining('not valid any more') }] },
    });
    expect(
      await connect({ channel: 'sms', number: '12', key: 'k'.repeat(20), signing: 's'.repeat(20) }),
    ).toMatchObject({
      status: 422,
      body: { errors: [{ field: 'number' }] },
    });
    expect(
      await connect({
        channel: 'sms',
        number: '+447700900999',
        key: 'k'.repeat(20),
        signing: 's'.repeat(20),
      }),
    ).toMatchObject({
      status: 422,
      body: { errors: [{ field: 'key' }] },
    });
  });
  test('secrets are encrypted where they are kept, and shown by their last four characters only', async () => {
    const lines = await stage.api.get<LineRow[]>('/clients/northgate-climbing/lines');
    expect(lines.find((each) => each.channel === 'telegram')!.hints).toEqual({ token: '89xy' });
    const { rows } = await stage.db.query<{ secrets: Buffer }>(
      'select secrets from line where secrets is not null',
    );
    for (const row of rows) expect(row.secrets.toString('latin1')).not.toMatch(/AAE|key_|sig_/);
    expect(JSON.stringify(lines)).not.toContain('northgate_climbing_0123456789');
  });
});

describe('pace', () => {
  test('never more than the rate in any second, and a quiet line answers at once', async () => {
    let now = 0;
    const gone: number[] = [];
    const pace = new Pace({ now: () => now, until: async (moment) => void (now = Math.max(now, moment)) }, 3);
    for (let each = 0; each < 10; each++) {
      await pace.turn();
      gone.push(now);
    }
    expect(gone.slice(0, 3)).toEqual([0, 0, 0]);
    for (let at = 3; at < gone.length; at++) expect(gone[at]! - gone[at - 3]!).toBeGreaterThanOrEqual(1_000);
  });
  test('a place is taken only where one is free, counts from when it is used, and is free again when it is not', () => {
    let now = 0;
    const pace = new Pace({ now: () => now, until: async () => undefined }, 2, 1_000);
    const [first, second] = [pace.take()!, pace.take()!];
    expect([first, second, pace.take()]).toEqual([0, 0, null]);
    pace.giveBack(second);
    expect(pace.take()).toBe(0);
    expect(pace.take()).toBeNull();
    now = 600;
    pace.goes(first);
    now = 1_000;
    expect(pace.take()).toBe(1_000);
    expect(pace.take()).toBeNull();
    expect(pace.nextAt()).toBe(1_600);
  });
  test('pauses grow to five minutes, with some chance in them', () => {
    expect([1, 2, 3, 20].map((tries) => growingPause(tries, 0.5))).toEqual([1_000, 2_000, 4_000, 300_000]);
    expect(growingPause(1, 0)).toBeLessThan(growingPause(1, 1));
  });
});

describe('whose turn it is on a line', () => {
  const row = (conversation_id: string, via: QueuedRow['via'], unasked = false) =>
    ({ conversation_id, via, unasked }) as QueuedRow;
  const comment = (kind: 'public reply' | 'private reply') => ({ kind, commentId: 'c1' }) as const;
  let now = 0;
  const woken: string[] = [];
  /** One line's turns, with what waits for each conversation. */
  class Line {
    readonly queues = new Map<string, QueuedRow[]>();
    readonly #clock = {
      now: () => now,
      until: (moment: number) => Promise.resolve().then(() => void (now = Math.max(now, moment))),
    };
    readonly turns = new Turns(
      (id) => this.queues.get(id) ?? [],
      new Pace(this.#clock, 1, 3_605_000),
      this.#clock,
      () => woken.push(...this.all()),
    );
    queue(each: QueuedRow): void {
      const rows = this.queues.get(each.conversation_id);
      this.queues.set(each.conversation_id, [...(rows ?? []), each]);
      if (rows) this.turns.joined(each.conversation_id);
      else this.turns.ready(each.conversation_id);
    }
    all(): string[] {
      return Array.from({ length: 9 }, () => this.turns.take()).filter((id) => id !== null);
    }
  }

  test('whoever wrote goes before whoever commented, and those before whoever is written to unasked', () => {
    const line = new Line();
    line.queue(row('news', null, true));
    line.queue(row('comment', comment('public reply')));
    line.queue(row('wrote', null));
    line.queue(row('both', null, true));
    line.queue(row('both', null));
    expect(line.all()).toEqual(['wrote', 'both', 'comment', 'news']);
  });

  test('a private answer without a place stands aside until there is one; a place that was not used is the next one’s', async () => {
    const line = new Line();
    for (const id of ['one', 'two', 'three']) line.queue(row(id, comment('private reply')));
    line.queue(row('wrote', null));
    expect(line.all()).toEqual(['wrote', 'one']);
    line.turns.giveBackPlace('one');
    expect(line.turns.take()).toBe('two');
    line.turns.usePlace('two');
    expect(line.turns.take()).toBeNull();
    await until(
      () => woken,
      (ids) => ids.length > 0,
    );
    expect(woken).toEqual(['three']);
    expect(now).toBeGreaterThan(3_600_000);
  });

  test('a conversation whose last message is not written down comes up once it is', () => {
    const line = new Line();
    line.queue(row('one', null));
    line.queue(row('other', null));
    expect(line.all()).toEqual(['one', 'other']);
    line.turns.unwritten('one');
    line.queues.clear();
    for (const id of ['one', 'other']) line.queue(row(id, null));
    expect(line.all()).toEqual(['other']);
    line.turns.written('one');
    expect(line.all()).toEqual(['one']);
    // Nothing more was there for the other.
    line.turns.unwritten('other');
    line.turns.written('other');
    expect(line.all()).toEqual([]);
  });
});

test('a result that the database refuses takes no other along, and one that lost to another is written whole', async () => {
  /** How often each message's result is refused yet, and with which SQLSTATE. */
  const refusals = new Map([
    ['deadlocked', { code: '40P01', times: 1 }],
    ['refused', { code: '22P05', times: 1 }],
    ['refused twice', { code: '22P05', times: 2 }],
  ]);
  const kept = new Map<string, string | null>();
  const db = {
    query: async ({ values }: { values: unknown[][] }) => {
      const ids = values[1] as string[];
      // In company all are refused.
      if (ids.length > 1) throw Object.assign(new Error('refused'), { code: '22P05' });
      const refusal = refusals.get(ids[0]!);
      if (refusal && refusal.times-- > 0) throw Object.assign(new Error('refused'), { code: refusal.code });
      kept.set(ids[0]!, values[4]![0] as string | null);
    },
  } as unknown as Db;
  const log = { error: () => undefined } as unknown as Logger;
  const written: string[] = [];
  const results = new Results(db, wallClock, log, (batch) => written.push(...batch.map(({ row }) => row.id)));
  const ids = ['well', ...refusals.keys(), 'the last'];
  for (const id of ids)
    results.add({
      row: { id, client_id: 1, attempts: 0 } as QueuedRow,
      status: 'sent',
      providerId: `p-${id}`,
      failure: null,
    });
  await until(
    () => written,
    (all) => all.length === ids.length,
  );
  expect(Object.fromEntries(kept)).toEqual({
    well: 'p-well',
    deadlocked: 'p-deadlocked',
    // What became of it is known; the platform's id could not be kept.
    refused: null,
    'refused twice': 'p-refused twice',
    'the last': 'p-the last',
  });
  expect(new Set(written)).toEqual(new Set(ids));
});

test('the next message of a conversation waits until what became of the last is written down', async () => {
  const account = stage.standins.graph.account('messenger', '100220022')!;
  await stage.publish(
    `
format: dart-loop/1
name: In a row
cues: [{ kind: keyword, words: [row], match: exactly }]
scenes: [{ name: S, steps: [{ kind: say, text: One. }, { kind: say, text: Two. }] }]`,
    'bramble-row-nursery',
  );
  const [person, other] = [7_101, 7_102].map((n) => new Person(stage, 'messenger', n)) as [Person, Person];
  const keeps = new pg.Client({ connectionString: stage.databases.owner });
  await keeps.connect();
  try {
    account.mood = 'slow';
    await person.writes('row');
    const { id } = await until(
      () =>
        stage.one<{ id: string }>(
          "select id from message where body ->> 'text' = 'One.' and status = 'queued' and going_out_at is not null",
        ),
      Boolean,
    );
    // It is past the gate, which marks it; from here on nobody can write down what becomes of it.
    await keeps.query('begin');
    await keeps.query('select from message where id = $1 for update', [id]);
    account.mood = 'well';
    await until(
      () => person.heard(),
      (heard) => heard.length > 0,
    );
    // Others are answered meanwhile.
    await other.writes('row');
    await until(
      () => other.heard(),
      (heard) => heard.length > 0,
    );
    expect(person.heard()).toEqual(['One.']);
    await keeps.query('commit');
    for (const each of [person, other])
      expect(
        await until(
          () => each.heard(),
          (heard) => heard.length > 1,
        ),
      ).toEqual(['One.', 'Two.']);
  } finally {
    account.mood = 'well';
    await keeps.end();
  }
});
