import { CAME_RANK, type Came } from '@dart-loop/core/answers/came';
import type { SheetRow } from '@dart-loop/core/answers/sheet';
import { toJson } from '../platform/db/json';
import { withClients, type Connection, type Db } from '../platform/db/pool';
import { newId } from '../platform/ids';
import type { Clock } from '../platform/clock';
import type { Resting } from '../platform/jobs/resting';
import type { Answers } from './answers';
import { whileTaken } from './taken';

/** Runs that are kept of one client. */
const KEPT_RUNS = 50;

/** How the sheet stands, where the client's loops that answer wait for it. */
export async function gateOf(
  db: Connection,
  clientId: number,
): Promise<{ unexpected: number; isStale: boolean } | null> {
  const { rows } = await db.query<{ gates: boolean; unexpected: number; is_stale: boolean }>(
    `
      select c.sheet_gates as gates, c.sheet_revision <> c.sources_revision and r.questions > 0 as is_stale,
        r.unexpected
      from client c, lateral (select count(*)::int as questions,
          count(*) filter (where s.is_expected is not true)::int as unexpected
        from sheet_row s where s.client_id = c.id) r
      where c.id = $1`,
    [clientId],
  );
  const { gates, unexpected, is_stale } = rows[0]!;
  return gates ? { unexpected, isStale: is_stale } : null;
}

interface Row {
  id: string;
  question: string;
  place_of: string;
  contains: string[];
  lacks: string[];
  known: 'yes' | 'no';
  least: 'answer' | 'offer' | 'open';
  came: Came | null;
}

const rowsOf = async (db: Connection, clientId: number): Promise<Row[]> =>
  (
    await db.query<Row>(
      `
        select id, question, place_of, contains, lacks, known, least, came from sheet_row
        where client_id = $1 order by id`,
      [clientId],
    )
  ).rows;

async function sheetRevisionOf(db: Connection, clientId: number): Promise<number> {
  const { rows } = await db.query<{ sheet_revision: number }>(
    'select sheet_revision from client where id = $1',
    [clientId],
  );
  return rows[0]!.sheet_revision;
}

const asked = ({ question, place_of, contains, lacks, known, least }: Row): SheetRow => ({
  ...{ question, from: place_of, contains, lacks, known, least },
});

/**
 * Asks a client's question sheet, and writes down how each question came out, beside how it did before. What
 * was asked of other questions meanwhile stays as it is.
 */
export async function runClientSheet(
  database: Db,
  clientId: number,
  answers: Answers,
  clock: Clock,
): Promise<void> {
  const { rows, sheetRevision } = await withClients(database, [clientId], async (db) => ({
    sheetRevision: await sheetRevisionOf(db, clientId),
    rows: await rowsOf(db, clientId),
  }));
  const { revision, results } = await answers.sheet(clientId, rows.map(asked));
  const came = results.map(({ came: now, isAsExpected, answered }, at) => ({
    ...{ id: rows[at]!.id, question: rows[at]!.question, before: rows[at]!.came },
    ...{ came: now, is_expected: isAsExpected },
    said: answered.text ?? answered.found.map(({ passage }) => passage.headings.at(-1)).join(' · '),
  }));
  const count = (what: Came) => came.filter((each) => each.came === what).length;
  const moved = came.flatMap(({ came: now, before }) =>
    before === null ? [] : [CAME_RANK[now] - CAME_RANK[before]],
  );
  await withClients(database, [clientId], async (db) => {
    await db.query(
      `
        update sheet_row s
        set came_before = case when s.came is distinct from r.came then s.came else s.came_before end,
          said_before = case when s.came is distinct from r.came then s.said else s.said_before end,
          came = r.came, is_expected = r.is_expected, said = r.said
        from jsonb_to_recordset($2) as r (id uuid, question text, came text, is_expected boolean,
          said text)
        where s.client_id = $1 and s.id = r.id and s.question = r.question`,
      [clientId, toJson(came)],
    );
    await db.query(
      `
        insert into sheet_run (client_id, id, at, because, counts, better, worse)
        select $1, $2, $3, coalesce(nullif(sources_because, ''), 'the sheet was made'), $4, $5, $6
        from client where id = $1`,
      [
        clientId,
        newId(clock.now()),
        new Date(clock.now()),
        toJson({
          right: count('right'),
          offered: count('offered'),
          open: count('open'),
          wrong: count('wrong'),
        }),
        moved.filter((each) => each > 0).length,
        moved.filter((each) => each < 0).length,
      ],
    );
    await db.query(
      `
        delete from sheet_run where client_id = $1 and id not in
          (select id from sheet_run where client_id = $1 order by id desc limit $2)`,
      [clientId, KEPT_RUNS],
    );
    // One that was changed meanwhile is asked once more.
    await db.query('update client set sheet_revision = $2 where id = $1 and sheet_revision = $3', [
      clientId,
      revision,
      sheetRevision,
    ]);
  });
}

/**
 * Asks the sheets of clients whose sources have changed since, one client after the other; says which. One of
 * whose asking fails rests, and the others go on.
 */
export async function runStaleSheets(
  db: Db,
  answers: Answers,
  clock: Clock,
  resting: Resting,
): Promise<number[]> {
  const { rows } = await db.query<{ id: number }>(
    `
      select c.id from client c
      where c.sheet_revision <> c.sources_revision and c.encoded_revision = c.sources_revision
        and c.archived_at is null
        and exists (select from sheet_row s where s.client_id = c.id)
      order by c.id`,
  );
  const done: number[] = [];
  for (const { id } of rows)
    await resting.try('sheet', id, async () => {
      const isDone = await whileTaken(db, 'sheet_taken_at', id, clock, () =>
        runClientSheet(db, id, answers, clock),
      );
      if (isDone) done.push(id);
    });
  return done;
}
