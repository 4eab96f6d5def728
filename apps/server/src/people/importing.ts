import { keyOf } from '@dart-loop/core/people/columnUse';
import type { ImportSpec } from '@dart-loop/contract';
import type { Clock } from '../platform/clock';
import { isRefusedData, type Connection, type Db } from '../platform/db/pool';
import type { Step, TaskKind, TaskRow } from '../platform/jobs/tasks';
import { bringIn } from './bringIn';
import { settingOf, withOptIns, type Setting } from './meeting';
import { undoBatches } from './undo';
import { TooHeavy, type Threads } from '../platform/threads/threads';
import type { ReadRow } from './rows';
import { partsOf } from './upload';
import { notDone } from '../platform/problem';

const AT_ONCE = 500;

/** Brings in a file of people, five hundred rows at a time; or, dry, says what would become of each row. */
export const importTask = (clock: Clock, key: Buffer, threads: Threads): TaskKind<ImportSpec> => ({
  async *batches(task, db) {
    const { spec } = task;
    const setting = await settingFor(db, task.client_id, spec, clock.now());
    let skip = task.done;
    let batch: ReadRow[] = [];
    let done = task.done;
    for await (const row of rowsOf(db, task, setting, threads)) {
      if (skip > 0) {
        skip--;
        continue;
      }
      batch.push({ ...row, record: withOptIns(row.record, setting, spec) });
      if (batch.length < AT_ONCE) continue;
      const rows = batch;
      batch = [];
      done += rows.length;
      yield (connection) => bringInWhatFits(connection, task, setting, rows, clock.now(), key);
    }
    const rows = batch;
    yield async (connection) => ({
      ...(await bringInWhatFits(connection, task, setting, rows, clock.now(), key)),
      total: done + rows.length,
    });
  },
  undo: (task, db) => undoBatches(task as TaskRow<never>, db, () => clock.now()),
  async after(task, db) {
    // Looked at again with every try; gone once it has been brought in.
    if (!task.spec.dry)
      await db.query('delete from upload where client_id = $1 and id = $2', [
        task.client_id,
        task.spec.uploadId,
      ]);
  },
});

/** The client's setting, its days read as the file writes them. */
async function settingFor(db: Db, clientId: number, spec: ImportSpec, now: number): Promise<Setting> {
  const setting = await settingOf(db, clientId, now);
  const unknown = spec.optIn.find((line) => !setting.lines.has(line));
  if (unknown) throw notDone(`The client has no line “${unknown}”.`);
  return { ...setting, cells: { ...setting.cells, dayOrder: spec.dayOrder } };
}

async function* rowsOf(
  db: Db,
  task: TaskRow<ImportSpec>,
  { cells, fields, lines }: Setting,
  threads: Threads,
): AsyncIterable<ReadRow> {
  const { spec, client_id } = task;
  const used = spec.uses.filter((use) => use.as !== 'nothing').map(keyOf);
  if (new Set(used).size !== used.length)
    throw notDone('Two columns are for the same thing. Choose another use for one of them.');
  let isThere = false;
  const pieces = async function* () {
    for await (const part of partsOf(db, client_id, spec.uploadId)) {
      isThere = true;
      yield part;
    }
  };
  try {
    for await (const rows of threads.rows({ spec, world: { ...cells, fields, lines } }, pieces()))
      yield* rows;
  } catch (error) {
    throw error instanceof TooHeavy ? notDone(error.message) : error;
  }
  if (!isThere) throw notDone('The file is not here any more. Bring it in again.');
}

/**
 * Rows that the database refuses in company are tried in halves, down to the one that it refuses alone: that
 * one is said to be bad, and all others come in.
 */
async function bringInWhatFits(
  db: Connection,
  task: TaskRow<ImportSpec>,
  setting: Setting,
  rows: ReadRow[],
  now: number,
  key: Buffer,
): Promise<Step> {
  // What a refused try has made goes with it.
  const tried = { ...setting, fields: new Map(setting.fields) };
  await db.query('savepoint rows');
  try {
    const step = await bringIn(db, task, tried, rows, now, key);
    await db.query('release savepoint rows');
    for (const [field, known] of tried.fields) setting.fields.set(field, known);
    return step;
  } catch (error) {
    if (!isRefusedData(error)) throw error;
    await db.query('rollback to savepoint rows');
    if (rows.length === 1) {
      const { number } = rows[0]!;
      const problem = {
        row: number,
        column: null,
        cell: '',
        reason: 'something in it is longer or larger than can be kept',
      };
      return { done: 1, counts: { 'left out': 1 }, problems: [...rows[0]!.problems, problem] };
    }
    const half = Math.ceil(rows.length / 2);
    const one = await bringInWhatFits(db, task, setting, rows.slice(0, half), now, key);
    const other = await bringInWhatFits(db, task, setting, rows.slice(half), now, key);
    const counts = { ...one.counts };
    for (const [what, count] of Object.entries(other.counts ?? {}))
      counts[what] = (counts[what] ?? 0) + count;
    return {
      done: one.done + other.done,
      counts,
      problems: [...(one.problems ?? []), ...(other.problems ?? [])],
    };
  }
}
