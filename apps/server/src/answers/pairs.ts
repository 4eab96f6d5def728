import { AddPair, PairBody, PastedPairs, type Pair } from '@dart-loop/contract';
import { readPairs } from '@dart-loop/core/answers/pairs';
import { route } from '../http/route';
import type { Clock } from '../platform/clock';
import { audit } from '../platform/db/audit';
import { toJson } from '../platform/db/json';
import type { Connection } from '../platform/db/pool';
import { newId } from '../platform/ids';
import { notFound, Problem } from '../platform/problem';
import { pasted } from './pasted';
import { sourcesChanged } from './sources';
import { settleAsked } from './unanswered';

const MOST_PAIRS = 2_000;

type Row = Omit<Pair, 'madeAt' | 'madeBy'> & { made_at: Date; made_by: string | null };

/** A client's pairs of question and answer, in the order of their questions. */
export async function pairsOf(db: Connection, clientId: number): Promise<Pair[]> {
  const { rows } = await db.query<Row>(
    `
      select p.id, p.question, p.wordings, p.answer, p.made_at, a.name as made_by
      from pair p left join account a on a.id = p.made_by
      where p.client_id = $1 order by lower(p.question), p.id`,
    [clientId],
  );
  return rows.map(({ made_at, made_by, ...row }) => ({
    ...row,
    madeAt: made_at.toISOString(),
    madeBy: made_by,
  }));
}

/** Adds pairs; where a question is there already, it has the new answer and all wordings from now on. */
export async function addPairs(
  db: Connection,
  clientId: number,
  accountId: number,
  now: number,
  pairs: readonly PairBody[],
): Promise<string[]> {
  const { rows: known } = await db.query<{ id: string; question: string }>(
    'select id, lower(question) as question from pair where client_id = $1 for update',
    [clientId],
  );
  const ids = new Map(known.map(({ id, question }) => [question, id]));
  const rows = pairs.map((pair) => ({ ...pair, id: ids.get(pair.question.toLowerCase()) ?? newId(now) }));
  if (new Set([...ids.values(), ...rows.map(({ id }) => id)]).size > MOST_PAIRS)
    throw new Problem(409, 'Too many pairs', `A client has at most ${MOST_PAIRS} pairs.`);
  await db.query(
    `
      insert into pair (client_id, id, question, answer, wordings, made_by, made_at)
      select $1, r.id, r.question, r.answer, array(select jsonb_array_elements_text(r.wordings)), $2, $3
      from jsonb_to_recordset($4) as r (id uuid, question text, answer text, wordings jsonb)
      on conflict (client_id, id) do update set answer = excluded.answer,
        wordings = array(select distinct unnest(pair.wordings || excluded.wordings))`,
    [clientId, accountId, new Date(now), toJson(rows)],
  );
  return rows.map(({ id }) => id);
}

/** Questions with their answers, as somebody of the agency wrote them. */
export const pairRoutes = ({ clock }: { clock: Clock }) => [
  route<Record<string, never>, AddPair>({
    method: 'post',
    path: '/clients/:client/pairs',
    may: 'change sources',
    body: AddPair,
    async handle({ db, client, body: { settles, ...body }, account }): Promise<{ id: string }> {
      const [id] = await addPairs(db, client.id, account.id, clock.now(), [body]);
      if (settles.length > 0) await settleAsked(db, client.id, settles, 'answered', clock.now());
      await sourcesChanged(db, client.id, `“${body.question}” was answered`);
      await audit(db, client.id, account.id, clock.now(), 'added a pair', body);
      return { id: id! };
    },
  }),
  route<Record<string, never>, { csv: string }>({
    method: 'post',
    path: '/clients/:client/pairs/paste',
    may: 'change sources',
    body: PastedPairs,
    async handle({ db, client, body, account }): Promise<{ pairs: number }> {
      const read = readPairs(body.csv);
      const pairs = pasted(
        PairBody,
        read.pairs.map(({ line, ...row }) => ({ line, row })),
        read.problems,
      );
      await addPairs(db, client.id, account.id, clock.now(), pairs);
      await sourcesChanged(db, client.id, `${pairs.length} pairs were pasted`);
      await audit(db, client.id, account.id, clock.now(), 'pasted pairs', { pairs: pairs.length });
      return { pairs: pairs.length };
    },
  }),
  route<Record<string, never>, PairBody>({
    method: 'put',
    path: '/clients/:client/pairs/:pairId',
    may: 'change sources',
    body: PairBody,
    async handle({ db, client, params, body, account }): Promise<void> {
      const { rowCount } = await db.query(
        'update pair set question = $3, answer = $4, wordings = $5 where client_id = $1 and id = $2',
        [client.id, params.pairId, body.question, body.answer, body.wordings],
      );
      if (!rowCount) throw notFound('pair');
      await sourcesChanged(db, client.id, `the answer to “${body.question}” was changed`);
      await audit(db, client.id, account.id, clock.now(), 'changed a pair', body);
    },
  }),
  route({
    method: 'delete',
    path: '/clients/:client/pairs/:pairId',
    may: 'change sources',
    async handle({ db, client, params, account }): Promise<void> {
      const { rows } = await db.query<{ question: string }>(
        'delete from pair where client_id = $1 and id = $2 returning question',
        [client.id, params.pairId],
      );
      if (!rows[0]) throw notFound('pair');
      await sourcesChanged(db, client.id, `the answer to “${rows[0].question}” was removed`);
      await audit(db, client.id, account.id, clock.now(), 'removed a pair', rows[0]);
    },
  }),
];
