import type {
  ListRow,
  MergePreview,
  PeopleCount,
  PersonPage,
  Proof,
  SegmentRow,
  TaskView,
} from '@dart-loop/contract';
import pg from 'pg';
import { WoundClock, wallClock } from '../src/platform/clock';
import { makeLog } from '../src/platform/log';
import { Resting } from '../src/platform/jobs/resting';
import { Stage, until } from './support/stage';
import { remains } from './support/remains';

let stage: Stage;
const clock = new WoundClock(Date.UTC(2026, 10, 24, 10));
/** The clock goes by itself, five times as fast as ours, so that sending keeps its pace. */
let ticking: NodeJS.Timeout;
beforeAll(async () => {
  stage = await Stage.open({ clock, limits: false });
  ticking = setInterval(() => clock.wind(clock.now() + 100), 20);
});
afterAll(async () => {
  clearInterval(ticking);
  await stage.close();
});

const FERRIES = '/clients/saltmarsh-ferries';
const hears = (who: string, count: number) => stage.hears(who, count);
const personOf = async (who: string) => {
  const { id } = await until(
    () => stage.one<{ id: string }>('select person_id as id from conversation where address = $1', [who]),
    (row) => Boolean(row?.id),
  );
  return stage.api.get<PersonPage>(`${FERRIES}/people/${id}`);
};
const count = async (where: string) =>
  (await stage.api.get<PeopleCount>(`${FERRIES}/people/count?where=${encodeURIComponent(where)}`)).total;
const ended = (id: string) => stage.ended(FERRIES, id);
const act = async (people: object, action: object) =>
  ended((await stage.api.post<TaskView>(`${FERRIES}/people/actions`, { people, action })).id);

const loop = (name: string, keyword: string, steps: string) => `
format: dart-loop/1
name: ${name}
cues: [{ kind: keyword, words: [${keyword}], match: exactly, again: always }]
scenes:
  - id: one
    name: One
    steps: ${steps}
`;

describe('facts', () => {
  test('what the team changes says who did, and a value that does not fit is refused with its reason', async () => {
    await stage.write('61001', 'hello', 'Mira');
    const { id } = await personOf('61001');
    await stage.api.post(`${FERRIES}/fields`, { key: 'party', type: 'number', name: 'Party size' });
    const bram = await stage.as('builder');
    const changed = await bram.put<PersonPage>(`${FERRIES}/people/${id}`, {
      lastName: 'Lund',
      fields: { party: '4' },
      tagsOn: ['vip'],
    });
    expect(changed).toMatchObject({
      name: 'Mira Lund',
      facts: [{ key: 'party', words: '4', by: { words: 'Bram Tansy' } }],
      tags: [{ tag: 'vip', by: { words: 'Bram Tansy' } }],
    });
    await bram.put(`${FERRIES}/people/${id}`, { fields: { party: '5' } });
    const page = await personOf('61001');
    expect(page.timeline.filter((entry) => entry.kind === 'fact').map((entry) => entry.words)).toEqual([
      'Party size = 5, before: 4',
      'Party size = 4',
    ]);
    expect(await bram.raw('put', `${FERRIES}/people/${id}`, { fields: { party: 'many' } })).toMatchObject({
      status: 400,
      body: { detail: expect.stringContaining('Party size: “many” does not fit') },
    });
    expect(await bram.raw('put', `${FERRIES}/people/${id}`, { listsOn: ['News'] })).toMatchObject({
      status: 400,
      body: { detail: expect.stringContaining('say what the opt-in rests on') },
    });
    expect(await count('party is at least 5 and tagged vip and reachable on telegram')).toBe(1);
  });
  test('a sentence that cannot be read is said to be, with the words', async () => {
    expect(
      await stage.api.raw(
        'get',
        `${FERRIES}/people/count?where=${encodeURIComponent('tagged vip and wibble')}`,
      ),
    ).toMatchObject({
      status: 400,
      body: { detail: expect.stringContaining('“wibble” cannot be read') },
    });
    expect(await stage.api.raw('get', `${FERRIES}/people?where=open`)).toMatchObject({
      status: 400,
      body: { detail: expect.stringContaining('about a conversation') },
    });
  });
});

describe('lists and the ledger', () => {
  test('a list that is confirmed is joined with a yes, by its wording, and left by its name', async () => {
    await stage.api.put(`${FERRIES}/lists`, {
      list: { name: 'Workshop news', double: true, wording: 'A letter each month about our workshops.' },
    });
    await stage.publish(
      loop(
        'Workshops',
        'workshops',
        '[{ kind: set, changes: [{ do: join list, list: Workshop news }] }, { kind: say, text: Thanks. }]',
      ),
    );
    await stage.write('61002', 'workshops', 'Ole');
    expect(await hears('61002', 2)).toEqual([
      'A letter each month about our workshops. Write YES to agree.',
      'Thanks.',
    ]);
    expect((await personOf('61002')).lists).toEqual([]);
    await stage.write('61002', 'yes please');
    expect((await hears('61002', 3))[2]).toBe(
      'You are on the list “Workshop news”. Write STOP Workshop news to leave it.',
    );
    const { id, lists } = await personOf('61002');
    expect(lists).toMatchObject([{ list: 'Workshop news', by: { words: 'Workshops, version 1' } }]);
    const proof = await stage.api.get<Proof>(`${FERRIES}/people/${id}/proof`);
    expect(proof.entries).toMatchObject([
      {
        what: 'opt-in',
        about: 'the list Workshop news',
        words: 'A letter each month about our workshops.',
        wording: 1,
        language: 'en',
        confirmed: true,
        by: 'Workshops, version 1',
        messageId: expect.any(String),
        cue: expect.any(String),
      },
    ]);
    // Another wording is another version.
    const lists2 = await stage.api.put<ListRow[]>(`${FERRIES}/lists`, {
      list: { name: 'Workshop news', double: true, wording: 'A letter now and then.' },
    });
    expect(lists2.find((list) => list.name === 'Workshop news')).toMatchObject({
      members: 1,
      wordings: [{ version: 2, words: 'A letter now and then.' }, { version: 1 }],
    });
    await stage.write('61002', 'stop workshop news');
    expect((await hears('61002', 4))[3]).toBe('You are off the list “Workshop news”.');
    expect((await personOf('61002')).lists).toEqual([]);
    // Whoever has left by themselves is not put back by others.
    expect(
      await act({ ids: [id] }, { do: 'join list', list: 'Workshop news', stated: 'fair' }),
    ).toMatchObject({
      counts: { changed: 0, 'left the list by themselves': 1 },
    });
    expect(
      await stage.api.raw('put', `${FERRIES}/people/${id}`, { listsOn: ['Workshop news'], stated: 'fair' }),
    ).toMatchObject({
      status: 409,
    });
  });

  test('a loop that writes to a list reaches nobody who is not on it, unless they have asked', async () => {
    const file = loop('Letters', 'letters', '[{ kind: say, text: A letter. }]').replace(
      'cues:',
      'list: Workshop news\ncues:',
    );
    const path = await stage.publish(file);
    await stage.write('61003', 'letters', 'Ada');
    expect(await hears('61003', 1)).toEqual(['A letter.']);
    const { id } = await personOf('61003');
    await act({ ids: [id] }, { do: 'start loop', loopId: path.split('/').pop() });
    const refused = await until(
      () =>
        stage.one<{ failure: { reason: string } | null }>(
          `
            select failure from message where status = 'failed' and conversation_id = (select id
              from conversation where address = '61003')`,
        ),
      (row) => Boolean(row),
    );
    expect(refused.failure!.reason).toContain('not on the list');
    await stage.api.put(`${FERRIES}/people/${id}`, {
      listsOn: ['Workshop news'],
      stated: 'asked on the phone',
    });
    await act({ ids: [id] }, { do: 'start loop', loopId: path.split('/').pop() });
    expect(await hears('61003', 2)).toEqual(['A letter.', 'A letter.']);
  });

  test('stopping everything stops every line; what was under way is not sent, whoever wrote it', async () => {
    await stage.publish(
      loop(
        'Slow',
        'slow',
        '[{ kind: say, text: First. }, { kind: wait, for: 10m }, { kind: say, text: Second. }]',
      ),
    );
    await stage.write('+447700900601', 'slow');
    await hears('+447700900601', 1);
    // The same person on another line.
    const sms = await personOf('+447700900601');
    await stage.db.query("update conversation set person_id = $1 where address = '61001'", [sms.id]);
    await stage.db.query("update identity set person_id = $1 where address = '61001'", [sms.id]);
    await stage.write('61001', 'slow', 'Mira');
    await hears('61001', 1);
    await stage.write('+447700900601', 'STOP ALL');
    await hears('+447700900601', 2);
    await until(
      () =>
        stage.one<{ out: boolean }>(
          "select (standing ->> 'optedOut')::boolean as out from conversation where address = '61001'",
        ),
      (row) => row.out === true,
    );
    clock.wind(clock.now() + 11 * 60_000);
    await stage.server.path.settled();
    expect(stage.heard('61001')).toEqual(['First.']);
    expect(stage.heard('+447700900601')).toHaveLength(2);
    expect(await count('opted out of sms and opted out of telegram')).toBe(1);
    // One line comes back, the other stays out.
    await stage.write('61001', 'START');
    await hears('61001', 2);
    expect(
      (await personOf('61001')).identities.map(({ channel, optedOut }) => [channel, optedOut]).sort(),
    ).toEqual([
      ['sms', true],
      ['telegram', false],
    ]);
  });

  test('people who opt out while they are written to get nothing after it, in any order that things happen', async () => {
    await stage.publish(
      loop(
        'Chatter',
        'chatter',
        `[${Array.from({ length: 6 }, (_, n) => `{ kind: say, text: "Part ${n + 1}." }`).join(', ')}, { kind: wait, for: 1m }, { kind: say, text: Late. }]`,
      ),
    );
    const people = Array.from({ length: 40 }, (_, n) => `6200${String(n).padStart(2, '0')}`);
    // A start that the team makes and a STOP that the person writes meet in every way.
    await Promise.all(
      people.map(async (who, n) => {
        await stage.write(who, 'chatter', `Walker ${n}`);
        // After none, one or two of the parts.
        await until(
          () => stage.heard(who).length,
          (count) => count >= n % 3,
        );
        await stage.write(who, 'stop');
      }),
    );
    await until(
      () =>
        stage.one<{ out: number }>(
          `
            select count(*)::int as out from conversation
            where address like '6200%' and (standing ->> 'optedOut')::boolean`,
        ),
      (row) => row.out === people.length,
      60_000,
    );
    clock.wind(clock.now() + 2 * 60_000);
    await stage.server.path.settled();
    await until(
      () => stage.one<{ left: number }>("select count(*)::int as left from message where status = 'queued'"),
      (row) => row.left === 0,
      60_000,
    );
    // Every message went past the ledger, and nothing came after the confirmation, which is written with the
    // opt-out.
    expect(
      await stage.one(
        "select count(*)::int as unasked from message where status = 'sent' and going_out_at is null",
      ),
    ).toEqual({
      unasked: 0,
    });
    for (const who of people) {
      const heard = stage.heard(who);
      expect(heard.at(-1)).toMatch(/^You will get no more/);
      expect(heard.filter((text) => text.startsWith('You will get no more'))).toHaveLength(1);
    }
    const { refused } = await stage.one<{ refused: number }>(
      `
        select count(*)::int as refused from message
        where status = 'failed' and failure ->> 'code' = 'opted out'`,
    );
    expect(refused).toBeGreaterThan(0);
  });
});

describe('when and how often', () => {
  test('quiet hours and the most in a day hold back what nobody asked for, and let answers go', async () => {
    const path = await stage.publish(loop('Notice', 'notice', '[{ kind: say, text: A notice. }]'));
    const loopId = path.split('/').pop();
    await stage.write('61011', 'notice', 'Kai');
    await hears('61011', 1);
    const { id } = await personOf('61011');
    await stage.api.put(`${FERRIES}/sending`, {
      quiet: { telegram: { from: '00:00', to: '23:59' } },
      frequency: { perDay: null, perWeek: null },
      matching: 'suggested',
      retention: { messages: null, people: null },
    });
    await act({ ids: [id] }, { do: 'start loop', loopId });
    await stage.server.path.settled();
    expect(stage.heard('61011')).toHaveLength(1);
    await stage.write('61011', 'notice');
    await hears('61011', 2);
    await stage.api.put(`${FERRIES}/sending`, {
      quiet: {},
      frequency: { perDay: 1, perWeek: null },
      matching: 'suggested',
      retention: { messages: null, people: null },
    });
    await stage.db.query(
      "delete from timer where conversation_id = (select id from conversation where address = '61011')",
    );
    await act({ ids: [id] }, { do: 'start loop', loopId });
    await hears('61011', 3);
    await act({ ids: [id] }, { do: 'start loop', loopId });
    const held = await until(
      () =>
        stage.one<{ code: string }>(
          `
            select failure ->> 'code' as code from message
            where status = 'queued' and conversation_id = (select id from conversation
              where address = '61011') and failure is not null`,
        ),
      (row) => Boolean(row),
    );
    expect(held.code).toBe('frequency');
    expect(stage.heard('61011')).toHaveLength(3);
    // An answer takes it along, in order.
    await stage.write('61011', 'notice');
    await hears('61011', 5);
    await stage.api.put(`${FERRIES}/sending`, {
      quiet: {},
      frequency: { perDay: null, perWeek: null },
      matching: 'suggested',
      retention: { messages: null, people: null },
    });
  });
});

describe('segments', () => {
  test('saved by name, asked for in a split, and kept while they are', async () => {
    const [saved] = await stage.api.post<SegmentRow[]>(`${FERRIES}/segments`, {
      name: 'Regulars',
      rule: { tag: 'regular' },
    });
    await stage.publish(
      loop(
        'Which',
        'which',
        '[{ kind: split, arms: [{ when: { segment: Regulars }, to: two }] }, { kind: say, text: Stranger. }, { kind: end }]',
      ) + '  - { id: two, name: Two, steps: [{ kind: say, text: Regular. }] }\n',
    );
    await stage.write('61021', 'which', 'Ida');
    expect(await hears('61021', 1)).toEqual(['Stranger.']);
    const { id } = await personOf('61021');
    expect(
      await act({ where: 'reachable on telegram', q: 'Ida' }, { do: 'add tag', tag: 'regular' }),
    ).toMatchObject({
      state: 'done',
      counts: { changed: 1 },
    });
    await stage.write('61021', 'which');
    expect((await hears('61021', 2))[1]).toBe('Regular.');
    expect(await count('in the segment Regulars')).toBe(1);
    expect(await stage.api.get<SegmentRow[]>(`${FERRIES}/segments`)).toMatchObject([
      { name: 'Regulars', words: 'tagged regular', loops: ['Which'] },
    ]);
    expect(await stage.api.raw('delete', `${FERRIES}/segments/${saved!.id}`)).toMatchObject({
      status: 409,
      body: { detail: expect.stringContaining('Which asks for “Regulars”') },
    });
    expect(
      await stage.api.raw('post', `${FERRIES}/segments`, { name: 'Now', rule: { open: true } }),
    ).toMatchObject({
      status: 400,
      body: { detail: expect.stringContaining('within a conversation') },
    });
    await act({ ids: [id] }, { do: 'remove tag', tag: 'regular' });
  });
});

describe('two who are one', () => {
  test('are suggested, previewed field by field, made one, and parted with everything put back', async () => {
    await stage.api.post(`${FERRIES}/fields`, { key: 'mail', type: 'email', name: 'Mail' });
    await stage.write('61031', 'hello', 'Anna');
    await stage.write('61032', 'hello', 'Anja');
    const [one, other] = [await personOf('61031'), await personOf('61032')];
    await stage.api.put(`${FERRIES}/people/${one.id}`, {
      fields: { mail: 'anna@example.org', party: '2' },
      tagsOn: ['early'],
    });
    await stage.api.put(`${FERRIES}/people/${other.id}`, {
      fields: { mail: 'Anna@Example.org', party: '3' },
      tagsOn: ['late'],
    });
    const before = { one: await personOf('61031'), other: await personOf('61032') };
    expect(before.one.alike).toEqual([{ id: other.id, name: 'Anja', shared: ['anna@example.org'] }]);
    const preview = await stage.api.get<MergePreview>(`${FERRIES}/people/${one.id}/merge?other=${other.id}`);
    expect(preview.differing.map(({ key, kept, gone }) => [key, kept, gone])).toEqual([
      ['first name', 'Anna', 'Anja'],
      ['mail', 'anna@example.org', 'Anna@example.org'],
      ['party', '2', '3'],
    ]);
    const merged = await stage.api.post<PersonPage>(`${FERRIES}/people/${one.id}/merge`, {
      other: other.id,
      take: ['party'],
    });
    expect(merged).toMatchObject({ name: 'Anna', alike: [], merged: [{ name: 'Anja' }] });
    expect(merged.identities.map((identity) => identity.address).sort()).toEqual(['61031', '61032']);
    expect(Object.fromEntries(merged.facts.map((fact) => [fact.key, fact.words]))).toEqual({
      mail: 'anna@example.org',
      party: '3',
    });
    expect(merged.tags.map((tag) => tag.tag)).toEqual(['early', 'late']);
    expect(await stage.api.raw('get', `${FERRIES}/people/${other.id}`)).toMatchObject({ status: 404 });
    expect(await count('tagged early and tagged late')).toBe(1);
    await stage.api.post(`${FERRIES}/merges/${merged.merged[0]!.id}/part`, {});
    const after = { one: await personOf('61031'), other: await personOf('61032') };
    for (const which of ['one', 'other'] as const) {
      const { id, name, tags, facts, identities, lists } = before[which];
      expect({ which, ...after[which] }).toMatchObject({
        which,
        id,
        name,
        lists,
        identities,
        tags: tags.map(({ tag }) => ({ tag })),
        facts: facts.map(({ key, words }) => ({ key, words })),
      });
    }
    // They were said not to be the same, and are not suggested again.
    expect(after.one.alike).toEqual([]);
    expect(await stage.api.raw('post', `${FERRIES}/merges/${merged.merged[0]!.id}/part`, {})).toMatchObject({
      status: 404,
    });
  });
});

describe('many at once', () => {
  test('an action is previewed, stopped, and taken back', async () => {
    const everybody = await count('reachable on telegram');
    const preview = await stage.api.post<{ total: number; words: string[] }>(`${FERRIES}/people/actions`, {
      people: { where: 'reachable on telegram' },
      action: { do: 'add tag', tag: 'wave' },
      preview: true,
    });
    expect(preview).toEqual({ total: everybody, words: ['0 people have it already.'] });
    const done = await act({ where: 'reachable on telegram' }, { do: 'add tag', tag: 'wave' });
    expect(done).toMatchObject({
      state: 'done',
      total: everybody,
      done: everybody,
      counts: { changed: everybody },
      canUndo: true,
    });
    expect(await count('tagged wave')).toBe(everybody);
    await stage.api.post(`${FERRIES}/tasks/${done.id}/undo`, {});
    expect(await ended(done.id)).toMatchObject({ state: 'undone', canUndo: false });
    expect(await count('tagged wave')).toBe(0);
    expect(
      await stage.api.raw('post', `${FERRIES}/people/actions`, {
        people: { where: 'tagged nobody-has-it' },
        action: { do: 'add tag', tag: 'x' },
      }),
    ).toMatchObject({ status: 409 });
  });

  test('what waits in a ring with another and has to give way is done again, whole', async () => {
    const { rows } = await stage.db.query<{ id: string }>(
      `
        select p.id from person p join client c on c.id = p.client_id where c.slug = 'saltmarsh-ferries'
        order by p.id limit 2`,
    );
    const [first, last] = rows.map((row) => row.id);
    const other = new pg.Client({ connectionString: stage.databases.owner });
    await other.connect();
    const lock = (id: string | undefined) => other.query('select from person where id = $1 for update', [id]);
    /** Makes a ring for a task; false where it was not the task that found it and gave way. */
    const ring = async (tag: string): Promise<boolean> => {
      await other.query('begin');
      await lock(last);
      const { id } = await stage.api.post<TaskView>(`${FERRIES}/people/actions`, {
        people: { ids: [first, last] },
        action: { do: 'add tag', tag },
      });
      // The task holds the first and waits for the last. It was there first, so it is the one to find the
      // ring and to end, unless the machine stands still for a second just now.
      await until(
        () =>
          stage.one<{ n: number }>(
            `
              select count(*)::int as n from pg_locks
              where not granted and locktype in ('transactionid', 'tuple')`,
          ),
        ({ n }) => n > 0,
      );
      const taskGaveWay = await lock(first).then(
        () => true,
        (error: { code?: string }) => {
          if (error.code !== '40P01') throw error;
          return false;
        },
      );
      await other.query(taskGaveWay ? 'commit' : 'rollback');
      expect(await ended(id)).toMatchObject({
        state: 'done',
        done: 2,
        counts: { changed: 2 },
        failure: null,
      });
      expect(await count(`tagged ${tag}`)).toBe(2);
      return taskGaveWay;
    };
    try {
      let gaveWay = false;
      for (let round = 1; round <= 10 && !gaveWay; round++) gaveWay = await ring(`ring${round}`);
      expect(gaveWay).toBe(true);
      await until(
        () =>
          stage.one<{ deadlocks: number }>(
            'select deadlocks from pg_stat_database where datname = current_database()',
          ),
        ({ deadlocks }) => deadlocks >= 1,
      );
    } finally {
      await other.end();
    }
  });
});

describe('erasing', () => {
  test('leaves nothing of somebody in any table but a receipt that says nothing about them', async () => {
    await stage.publish(
      loop(
        'Remember',
        'remember',
        '[{ kind: ask, text: Who are you?, reply: text, field: secret }, { kind: say, text: "Hello {{ person.secret }}." }, { kind: send out, address: "https://sink.example/x", body: "{{ person.secret }}" }]',
      ),
    );
    await stage.write('+447700900699', 'remember');
    await hears('+447700900699', 1);
    await stage.write('+447700900699', 'Quillfeather');
    await hears('+447700900699', 2);
    await stage.write('+447700900699', 'STOP');
    await hears('+447700900699', 3);
    const { id, name } = await personOf('+447700900699');
    // As it is shown: in groups.
    expect(name).toBe('+44 7700 900699');
    const archive = JSON.parse(await stage.api.text(`${FERRIES}/people/${id}/archive`)) as Record<
      string,
      unknown[]
    >;
    expect(JSON.stringify(archive)).toContain('Quillfeather');
    expect(Object.keys(archive)).toEqual(
      expect.arrayContaining(['person', 'message', 'event', 'consent', 'errand', 'run']),
    );
    expect(await remains(stage.db, 'Quillfeather')).toEqual(
      expect.arrayContaining(['errand', 'event', 'field_change', 'message', 'person', 'person_terms', 'run']),
    );
    const talk = await stage.one<{ id: string }>(
      "select id from conversation where address = '+447700900699'",
    );
    expect(await act({ ids: [id] }, { do: 'erase', reason: 'asked for it' })).toMatchObject({
      state: 'done',
      counts: { erased: 1 },
      canUndo: false,
    });
    for (const words of ['Quillfeather', '7700900699', talk.id])
      expect({ words, left: await remains(stage.db, words) }).toEqual({ words, left: [] });
    // Their id stands nowhere either, not even where it says what the team did.
    expect(await remains(stage.db, id)).toEqual([]);
    const receipt = await stage.one<{ reason: string; counts: Record<string, number> }>(
      'select reason, counts from erasure order by at desc limit 1',
    );
    expect(receipt).toMatchObject({
      reason: 'asked for it',
      counts: { person: 1, conversation: 1, message: 3 },
    });
    // Brought back by a file, the number stays opted out.
    const file = await stage.api.file<{
      id: string;
      encoding: string;
      separator: string;
      columns: { use: object }[];
    }>(
      `${FERRIES}/people/files?name=back.csv`,
      new TextEncoder().encode('first name,phone\nBack,+447700900699\n'),
    );
    const task = await stage.api.post<TaskView>(`${FERRIES}/people/imports`, {
      uploadId: file.id,
      encoding: file.encoding,
      separator: file.separator,
      uses: file.columns.map((column) => column.use),
      known: 'file wins',
      dry: false,
      optIn: ['sms'],
      stated: 'till',
    });
    expect(await ended(task.id)).toMatchObject({ counts: { made: 1, 'opt-ins passed over': 1 } });
    expect((await personOf('+447700900699')).identities).toMatchObject([{ optedOut: true }]);
  });

  test('what is kept no longer than the client wishes goes by itself', async () => {
    const { keepRetention } = await import('../src/people/retention');
    const lane = new pg.Pool({ connectionString: stage.databases.lane, max: 2 });
    try {
      const before = await stage.one<{ people: number; messages: number }>(
        `
          select (select count(*) from person where client_id = 1)::int as people, (select count(*)
            from message where client_id = 1)::int as messages`,
      );
      expect(before.messages).toBeGreaterThan(20);
      await stage.db.query(`update client set retention = '{"messages": 10, "people": 100}' where id = 1`);
      const at = (days: number) => clock.now() + days * 86_400_000;
      while (await keepRetention(lane, at(5), Buffer.alloc(32), new Resting(wallClock, makeLog('silent'))));
      expect(
        await stage.one('select (select count(*) from message where client_id = 1)::int as messages'),
      ).toEqual({
        messages: before.messages,
      });
      while (await keepRetention(lane, at(11), Buffer.alloc(32), new Resting(wallClock, makeLog('silent'))));
      expect(
        await stage.one(
          `
            select (select count(*) from message
              where client_id = 1 and status <> 'queued')::int as messages, (select count(*) from person
            where client_id = 1)::int as people`,
        ),
      ).toEqual({ messages: 0, people: before.people });
      while (await keepRetention(lane, at(101), Buffer.alloc(32), new Resting(wallClock, makeLog('silent'))));
      expect(await stage.one('select count(*)::int as people from person where client_id = 1')).toEqual({
        people: 0,
      });
    } finally {
      await lane.end();
    }
  });
});
