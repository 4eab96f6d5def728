import type { LoopRow, PeoplePage, TaskView } from '@dart-loop/contract';
import { openPool, withClients } from '../src/platform/db/pool';
import { Pooler } from './support/pooler';
import { Stage, cluster, until } from './support/stage';

/**
 * A pooler gives its few connections to whoever asks: for a session of theirs, or for each transaction
 * anew. What was set for one client must never be found by another.
 */
describe.each(['session', 'transaction'] as const)('with pgbouncer in %s mode', (mode) => {
  let pooler: Pooler;
  let stage: Stage;
  beforeAll(async () => {
    pooler = await Pooler.start(cluster().app, mode);
    stage = await Stage.open({ pooler: pooler.before, limits: false });
  }, 60_000);
  afterAll(async () => {
    await stage?.close();
    await pooler?.stop();
  });

  test('a keyword is answered, people are read, changed, imported and exported', async () => {
    await stage.publish(`format: dart-loop/1
name: Hello
cues:
  - kind: keyword
    words: [hello]
    match: exactly
scenes:
  - name: Start
    steps:
      - kind: say
        text: Hello yourself.
`);
    await stage.write('501', 'hello');
    expect(await stage.hears('501', 1)).toEqual(['Hello yourself.']);
    const { id } = await stage.api.post<{ id: string }>('/clients/saltmarsh-ferries/people', {
      firstName: 'Imke',
    });
    await stage.api.put(`/clients/saltmarsh-ferries/people/${id}`, { tagsOn: ['pooled'] });
    const found = await stage.api.get<PeoplePage>(
      `/clients/saltmarsh-ferries/people?where=${encodeURIComponent('has tag pooled')}`,
    );
    expect(found.rows.map((row) => row.name)).toEqual(['Imke']);
    const task = await stage.api.post<TaskView>('/clients/saltmarsh-ferries/people/actions', {
      people: { where: 'has tag pooled' },
      action: { do: 'add tag', tag: 'twice' },
      preview: false,
    });
    await until(
      () => stage.api.get<TaskView>(`/clients/saltmarsh-ferries/tasks/${task.id}`),
      ({ state }) => state === 'done',
    );
    const exported = await stage.api.text(
      `/clients/saltmarsh-ferries/people/export?format=csv&where=${encodeURIComponent('has tag twice')}`,
    );
    expect(exported).toContain('Imke');
  });

  test('300 requests, twelve at once, of different accounts for different clients: each sees its own', async () => {
    const builder = await stage.as('builder');
    const owner = stage.api;
    const slugs = ['saltmarsh-ferries', 'orrery-picture-house', 'northgate-climbing'];
    const namesOf = async (api: typeof owner, slug: string) => {
      // Whoever waits too long for a connection on a busy machine is told to try again.
      const { status, body } = await until(
        () => api.raw('GET', `/clients/${slug}/loops`),
        (answer) => answer.status !== 503,
      );
      expect(status).toBe(200);
      return (body as LoopRow[]).map((loop) => loop.name).sort();
    };
    const alone = Object.fromEntries(
      await Promise.all(slugs.map(async (slug) => [slug, await namesOf(owner, slug)] as const)),
    );
    const answers: (readonly [string, string[]])[] = [];
    for (let round = 0; round < 25; round++)
      answers.push(
        ...(await Promise.all(
          Array.from({ length: 12 }, async (_, at) => {
            const slug = slugs[at % slugs.length]!;
            return [slug, await namesOf(at % 2 === 0 ? owner : builder, slug)] as const;
          }),
        )),
      );
    for (const [slug, names] of answers) expect(names).toEqual(alone[slug]);
  });

  test('a connection that comes back to the pooler knows no client any more', async () => {
    const pool = openPool(pooler.before(stage.databases.app), {
      most: 6,
      name: 'test',
      statementMs: 400,
      pooled: true,
    });
    const { rows } = await stage.db.query<{ id: number }>('select id from client order by id');
    await Promise.all(
      rows.flatMap(({ id }) =>
        Array.from({ length: 20 }, () =>
          withClients(pool, [id], async (db) => {
            const seen = await db.query<{ client_id: number }>('select distinct client_id from loop');
            expect(seen.rows.filter((row) => row.client_id !== id)).toEqual([]);
          }),
        ),
      ),
    );
    const outside = await pool.query('select from loop');
    expect(outside.rowCount).toBe(0);
    // The time-out of a statement holds within a transaction.
    await expect(withClients(pool, [], (db) => db.query('select pg_sleep(5)'))).rejects.toThrow(
      'statement timeout',
    );
    await pool.end();
  });

  test('without the setting the pooler is not taken for a database', async () => {
    const pool = openPool(pooler.before(stage.databases.app), { most: 1, name: 'test', statementMs: 400 });
    await expect(pool.query('select 1')).rejects.toThrow(/unsupported startup parameter/);
    await pool.end();
  });
});
