import { SettleAsked, type UnansweredGroup, type UnansweredPage } from '@dart-loop/contract';
import { groupAlike, type AlikeQuestions, type AskedQuestion } from '@dart-loop/core/answers/alike';
import { outside, route } from '../http/route';
import type { Clock } from '../platform/clock';
import { audit } from '../platform/db/audit';
import { withClients, type Connection, type Db } from '../platform/db/pool';
import type { Resting } from '../platform/jobs/resting';
import { notFound } from '../platform/problem';
import type { Threads } from '../platform/threads/threads';
import type { Answers } from './answers';

/** Of so many open questions the groups are made, the newest. */
const MOST_LOOKED_AT = 1_000;
const MOST_GROUPS = 200;
/** Today looks at so many of each client, as it does so again and again. */
const MOST_ON_TODAY = 50;
/** Conversations that a group shows. */
const SHOWN_CONVERSATIONS = 3;

/** What could not be answered, as it is told of. */
export const OPEN = "settled is null and came in ('passed over', 'not known', 'disagree')";

interface Row {
  id: string;
  conversation_id: string;
  at: Date;
  question: string;
  came: 'passed over' | 'not known' | 'disagree';
  loop: string | null;
  name: string;
}

/** Questions as they are grouped. */
const asAsked = (rows: readonly Pick<Row, 'id' | 'question' | 'at'>[]): AskedQuestion[] =>
  rows.map(({ id, question, at }) => ({ id, question, at: at.getTime() }));

async function openOf(db: Connection, clientId: number): Promise<Row[]> {
  const { rows } = await db.query<Row>(
    `
      select a.id, a.conversation_id, a.at, a.question, a.came, l.name as loop,
        coalesce(nullif(concat_ws(' ', p.first_name, p.last_name), ''), c.address) as name
      from asked a
      join conversation c on c.client_id = a.client_id and c.id = a.conversation_id
      left join person p on p.client_id = c.client_id and p.id = c.person_id
      left join loop l on l.client_id = a.client_id and l.id = a.loop_id
      where a.client_id = $1 and ${OPEN} order by a.id desc limit $2`,
    [clientId, MOST_LOOKED_AT],
  );
  return rows;
}

/** What is asked most of a client's newest open questions; null where nothing is open. */
export async function mostAsked(db: Connection, clientId: number): Promise<AlikeQuestions | null> {
  const { rows } = await db.query<Pick<Row, 'id' | 'question' | 'at'>>(
    `select id, question, at from asked where client_id = $1 and ${OPEN} order by id desc limit $2`,
    [clientId, MOST_ON_TODAY],
  );
  return groupAlike(asAsked(rows))[0] ?? null;
}

function shownGroups(rows: readonly Row[], groups: readonly AlikeQuestions[]): UnansweredGroup[] {
  const byId = new Map(rows.map((row) => [row.id, row]));
  return groups.slice(0, MOST_GROUPS).map(({ lastAt, ids, ...group }) => {
    const asked = ids.map((id) => byId.get(id)!);
    return {
      ...group,
      ids,
      lastAt: new Date(lastAt).toISOString(),
      why: asked[0]!.came,
      asked: asked.slice(0, SHOWN_CONVERSATIONS).map(({ conversation_id, question, at, name, loop }) => ({
        ...{ conversationId: conversation_id, question, name, loop },
        at: at.toISOString(),
      })),
    };
  });
}

/** They are settled: answered from now on, or none of our business. How many there were. */
export async function settleAsked(
  db: Connection,
  clientId: number,
  ids: readonly string[],
  settled: 'answered' | 'not ours',
  now: number,
): Promise<number> {
  const { rowCount } = await db.query(
    `
      update asked set settled = $3, settled_at = $4 where client_id = $1 and id = any ($2) and ${OPEN}`,
    [clientId, ids, settled, new Date(now)],
  );
  return rowCount ?? 0;
}

/** What people asked and the sources did not say. */
export const unansweredRoutes = ({
  clock,
  database,
  threads,
}: {
  clock: Clock;
  database: Db;
  threads: Threads;
}) => [
  route({
    method: 'get',
    path: '/clients/:client/unanswered',
    may: 'see sources',
    handle: ({ client }) =>
      Promise.resolve(
        outside(async (): Promise<UnansweredPage> => {
          const rows = await withClients(database, [client.id], (db) => openOf(db, client.id));
          // Many are compared with many.
          const groups = await threads.run('groupAsked', asAsked(rows));
          return { groups: shownGroups(rows, groups) };
        }),
      ),
  }),
  route<Record<string, never>, SettleAsked>({
    method: 'post',
    path: '/clients/:client/unanswered/not-ours',
    may: 'change sources',
    body: SettleAsked,
    async handle({ db, client, body, account }): Promise<void> {
      const count = await settleAsked(db, client.id, body.ids, 'not ours', clock.now());
      if (count === 0) throw notFound('question');
      await audit(db, client.id, account.id, clock.now(), 'set questions aside', { count });
    },
  }),
];

/**
 * Asks again what clients' sources could not answer before they changed, one client after the other: what
 * they answer now leaves by itself. Says of which clients something has. One whose asking fails rests.
 */
export async function askOpenAgain(
  db: Db,
  answers: Answers,
  clock: Clock,
  resting: Resting,
): Promise<number[]> {
  const { rows: clients } = await db.query<{ id: number; sources_revision: number }>(
    `
      select c.id, c.sources_revision from client c
      where c.asked_revision <> c.sources_revision and c.encoded_revision = c.sources_revision
        and c.archived_at is null
        and exists (select from asked a where a.client_id = c.id and ${OPEN})
      order by c.id`,
  );
  const changed: number[] = [];
  for (const { id, sources_revision } of clients)
    await resting.try('asked again', id, async () => {
      const { rows } = await db.query<{ id: string; question: string }>(
        `select id, question from asked where client_id = $1 and ${OPEN} order by id desc limit $2`,
        [id, MOST_LOOKED_AT],
      );
      const questions = [...new Set(rows.map(({ question }) => question))];
      const known = new Set(await answers.answered(id, questions));
      const ids = rows.filter(({ question }) => known.has(question)).map((row) => row.id);
      await withClients(db, [id], async (connection) => {
        if (ids.length > 0) await settleAsked(connection, id, ids, 'answered', clock.now());
        await connection.query('update client set asked_revision = $2 where id = $1', [id, sources_revision]);
      });
      if (ids.length > 0) changed.push(id);
    });
  return changed;
}
