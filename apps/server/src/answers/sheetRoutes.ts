import {
  ChangeSheet,
  PastedSheet,
  SheetQuestion,
  type SheetPage,
  type SheetRowView,
  type SheetRun,
} from '@dart-loop/contract';
import { readSheet } from '@dart-loop/core/answers/sheet';
import { outside, route } from '../http/route';
import type { Clock } from '../platform/clock';
import { audit } from '../platform/db/audit';
import { toJson } from '../platform/db/json';
import type { Connection, Db } from '../platform/db/pool';
import { newId } from '../platform/ids';
import { notFound, Problem } from '../platform/problem';
import type { Answers } from './answers';
import { pasted } from './pasted';
import { runClientSheet } from './sheet';

const MOST_ROWS = 500;
const SHOWN_RUNS = 10;

interface Row extends Omit<SheetRowView, 'from' | 'cameBefore' | 'isExpected' | 'saidBefore'> {
  place_of: string;
  came_before: SheetRowView['cameBefore'];
  is_expected: boolean | null;
  said_before: string | null;
}

/** A client's question sheet, and how its questions come out by the sources. */
export const sheetRoutes = ({
  clock,
  answers,
  database,
}: {
  clock: Clock;
  answers: Answers;
  database: Db;
}) => [
  route({
    method: 'get',
    path: '/clients/:client/sheet',
    may: 'see sources',
    handle: ({ db, client }) => sheetOf(db, client.id),
  }),
  route<Record<string, never>, ChangeSheet>({
    method: 'put',
    path: '/clients/:client/sheet',
    may: 'change sources',
    body: ChangeSheet,
    async handle({ db, client, body, account }): Promise<void> {
      await db.query('update client set sheet_gates = $2 where id = $1', [client.id, body.gates]);
      const what = body.gates ? 'let loops wait for the sheet' : 'let loops not wait for the sheet';
      await audit(db, client.id, account.id, clock.now(), what, {});
    },
  }),
  route<Record<string, never>, SheetQuestion>({
    method: 'post',
    path: '/clients/:client/sheet/questions',
    may: 'change sources',
    body: SheetQuestion,
    async handle({ db, client, body, account }): Promise<{ id: string }> {
      const [id] = await addRows(db, client.id, clock.now(), [body]);
      await audit(db, client.id, account.id, clock.now(), 'added a question to the sheet', body);
      return { id: id! };
    },
  }),
  route<Record<string, never>, { csv: string }>({
    method: 'post',
    path: '/clients/:client/sheet/paste',
    may: 'change sources',
    body: PastedSheet,
    async handle({ db, client, body, account }): Promise<{ questions: number }> {
      const { rows, problems } = readSheet(body.csv);
      const questions = pasted(
        SheetQuestion,
        rows.map((row, at) => ({ line: at + 2, row })),
        problems,
      );
      await addRows(db, client.id, clock.now(), questions);
      await audit(db, client.id, account.id, clock.now(), 'pasted a question sheet', {
        questions: rows.length,
      });
      return { questions: rows.length };
    },
  }),
  route<Record<string, never>, SheetQuestion>({
    method: 'put',
    path: '/clients/:client/sheet/questions/:questionId',
    may: 'change sources',
    body: SheetQuestion,
    async handle({ db, client, params, body, account }): Promise<void> {
      const { rowCount } = await db.query(
        `
          update sheet_row set question = $3, place_of = $4, contains = $5, lacks = $6, known = $7, least = $8,
            came = null, came_before = null, said = null, said_before = null, is_expected = null
          where client_id = $1 and id = $2`,
        [client.id, params.questionId, ...columns(body)],
      );
      if (!rowCount) throw notFound('question');
      await isStale(db, client.id);
      await audit(db, client.id, account.id, clock.now(), 'changed a question of the sheet', body);
    },
  }),
  route({
    method: 'delete',
    path: '/clients/:client/sheet/questions/:questionId',
    may: 'change sources',
    async handle({ db, client, params, account }): Promise<void> {
      const { rows } = await db.query<{ question: string }>(
        'delete from sheet_row where client_id = $1 and id = $2 returning question',
        [client.id, params.questionId],
      );
      if (!rows[0]) throw notFound('question');
      await audit(db, client.id, account.id, clock.now(), 'removed a question from the sheet', rows[0]);
    },
  }),
  route({
    method: 'post',
    path: '/clients/:client/sheet/run',
    may: 'change sources',
    untraced: 'it asks the questions that are there, as happens by itself after each change',
    handle: ({ client }) =>
      Promise.resolve(outside(() => runClientSheet(database, client.id, answers, clock))),
  }),
];

const columns = ({ question, from, contains, lacks, known, least }: SheetQuestion) => [
  ...[question, from, contains, lacks, known, least],
];

/** Its questions are asked again soon; each time by another number, so that none is taken for another. */
const isStale = (db: Connection, clientId: number) =>
  db.query('update client set sheet_revision = least(sheet_revision, 0) - 1 where id = $1', [clientId]);

async function addRows(
  db: Connection,
  clientId: number,
  now: number,
  questions: readonly SheetQuestion[],
): Promise<string[]> {
  const { rows: known } = await db.query<{ id: string; question: string }>(
    'select id, lower(question) as question from sheet_row where client_id = $1 for update',
    [clientId],
  );
  const ids = new Map(known.map(({ id, question }) => [question, id]));
  const rows = [...new Map(questions.map((each) => [each.question.toLowerCase(), each])).values()].map(
    ({ from, ...each }) => ({
      ...each,
      ...{ place_of: from, id: ids.get(each.question.toLowerCase()) ?? newId(now) },
    }),
  );
  if (new Set([...ids.values(), ...rows.map(({ id }) => id)]).size > MOST_ROWS)
    throw new Problem(409, 'Too many questions', `A sheet has at most ${MOST_ROWS} questions.`);
  await db.query(
    `
      insert into sheet_row (client_id, id, question, place_of, contains, lacks, known, least)
      select $1, r.id, r.question, r.place_of, array(select jsonb_array_elements_text(r.contains)),
        array(select jsonb_array_elements_text(r.lacks)), r.known, r.least
      from jsonb_to_recordset($2) as r (id uuid, question text, place_of text, contains jsonb, lacks jsonb,
        known text, least text)
      on conflict (client_id, id) do update set place_of = excluded.place_of, contains = excluded.contains,
        lacks = excluded.lacks, known = excluded.known, least = excluded.least`,
    [clientId, toJson(rows)],
  );
  await isStale(db, clientId);
  return rows.map(({ id }) => id);
}

async function sheetOf(db: Connection, clientId: number): Promise<SheetPage> {
  // First: what is not stale now has its results in what is read after it.
  const { rows: stands } = await db.query<{ is_stale: boolean; gates: boolean }>(
    'select sheet_revision <> sources_revision as is_stale, sheet_gates as gates from client where id = $1',
    [clientId],
  );
  const { rows } = await db.query<Row>(
    `
      select id, question, place_of, contains, lacks, known, least, came, came_before, is_expected, said, said_before
      from sheet_row where client_id = $1 order by id`,
    [clientId],
  );
  const { rows: runs } = await db.query<Omit<SheetRun, 'at'> & { at: Date }>(
    `
      select at, because, counts, better, worse from sheet_run where client_id = $1
      order by id desc limit ${SHOWN_RUNS}`,
    [clientId],
  );
  return {
    rows: rows.map(({ place_of, came_before, is_expected, said_before, ...row }) => ({
      ...row,
      ...{ from: place_of, cameBefore: came_before, isExpected: is_expected, saidBefore: said_before },
    })),
    runs: runs.map(({ at, ...run }) => ({ ...run, at: at.toISOString() })),
    isStale: rows.length > 0 && stands[0]!.is_stale,
    gates: stands[0]!.gates,
  };
}
