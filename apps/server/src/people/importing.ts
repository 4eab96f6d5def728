import type { FieldType } from '@dart-loop/core';
import { keyOf } from '@dart-loop/core/people/columnUse';
import type { LedgerEntry, PersonRecord } from '@dart-loop/core/people/record';
import type { CellProblem } from '@dart-loop/core/people/rowReading';
import type { ImportSpec } from '@dart-loop/contract';
import type { Clock } from '../platform/clock';
import { toJson } from '../platform/db/json';
import { isRefusedData, type Connection, type Db } from '../platform/db/pool';
import { cuesChanged } from '../loops/cueRevision';
import { changedByTask, type Step, type TaskKind, type TaskRow } from '../platform/jobs/tasks';
import { wordingsOf } from './actions';
import { changePeople, makeFields, type PersonChange } from './change';
import { identitiesOf, meet, optedOutBefore, settingOf, withOptIns, type Setting } from './meeting';
import { keepForUndo, undoBatches } from './undo';
import { TooHeavy, type Threads } from '../platform/threads/threads';
import type { ReadRow } from './rows';
import { partsOf } from './upload';
import { Problem } from '../platform/problem';

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
  if (unknown) throw new Problem(409, 'Not done', `The client has no line “${unknown}”.`);
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
    throw new Problem(
      409,
      'Not done',
      'Two columns are for the same thing. Choose another use for one of them.',
    );
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
    throw error instanceof TooHeavy ? new Problem(409, 'Not done', error.message) : error;
  }
  if (!isThere) throw new Problem(409, 'Not done', 'The file is not here any more. Bring it in again.');
}

/** What a row would be or become. */
type Fate = 'made' | 'changed' | 'left as they were' | 'left out';

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

async function bringIn(
  db: Connection,
  task: TaskRow<ImportSpec>,
  setting: Setting,
  rows: ReadRow[],
  now: number,
  key: Buffer,
): Promise<Step> {
  const { spec } = task;
  const counts: Partial<Record<Fate | 'opt-ins passed over', number>> = {};
  const count = (what: keyof typeof counts, by = 1) => (counts[what] = (counts[what] ?? 0) + by);
  const problems: CellProblem[] = rows.flatMap((row) => row.problems);
  const readable = rows.filter((row) => {
    const whole = row.problems.some((problem) => problem.column === null);
    const isOut =
      whole || (row.problems.length > 0 && spec.bad === 'leave out the row') || isEmpty(row.record);
    if (isOut) count('left out');
    if (isEmpty(row.record) && row.problems.length === 0)
      problems.push({ row: row.number, column: null, cell: '', reason: 'nothing in it says who it is' });
    return !isOut;
  });
  const meeting = await meet(db, setting, readable, key);
  const { met: people } = meeting;
  const optedOut = await optedOutBefore(db, setting.clientId, [
    ...new Set([...people.values()].flatMap(({ known }) => (known ? [known.id] : []))),
  ]);
  const changes = new Map<string, PersonChange>();
  const ledgers: { personId: string; entries: LedgerEntry[] }[] = [];
  const brought = new Map<string, string[]>();
  const missing = new Map<string, FieldType>();
  for (const row of readable) {
    const { record } = row;
    const met = people.get(row.number)!;
    if (met.known && spec.known === 'leave alone') {
      count('left as they were');
      continue;
    }
    const before = changes.get(met.id);
    const isNew = !met.known && !before;
    count(isNew ? 'made' : 'changed');
    for (const [field, value] of Object.entries(record.fields))
      if (!setting.fields.has(field)) missing.set(field, value.type);
    const fills = spec.known === 'fill gaps' && !isNew;
    const had = (field: string) => Boolean(met.known?.fields[field] ?? before?.fields?.[field]);
    const out = optedOut.get(met.id) ?? new Set<string>();
    const lists = [...record.lists, ...spec.lists].filter((list) => {
      const refused = out.has('everything') || out.has(`list:${list}`);
      if (refused) count('opt-ins passed over');
      return !refused;
    });
    const { identities, optIns, optOuts, passedOver } = identitiesOf(setting, record, met, meeting, out);
    if (passedOver > 0) count('opt-ins passed over', passedOver);
    if (identities.length > 0)
      brought.set(met.id, [...(brought.get(met.id) ?? []), ...identities.map(({ id }) => id)]);
    if (record.ledger.length > 0 && isNew) ledgers.push({ personId: met.id, entries: record.ledger });
    const name = (value: string | null, known: string | null | undefined) =>
      value === null || (fills && known) ? undefined : value;
    changes.set(met.id, {
      ...before,
      id: met.id,
      ...(isNew && {
        isNew: {
          met: record.met ?? now,
          seen: record.seen ?? record.met ?? now,
          source: record.source ?? (record.id === null ? spec.stated || task.title : null),
        },
      }),
      firstName: name(record.firstName, met.known?.firstName ?? before?.firstName) ?? before?.firstName,
      lastName: name(record.lastName, met.known?.lastName ?? before?.lastName) ?? before?.lastName,
      language: name(record.language, met.known?.language ?? before?.language) ?? before?.language,
      fields: {
        ...before?.fields,
        ...Object.fromEntries(Object.entries(record.fields).filter(([field]) => !fills || !had(field))),
      },
      tags: { on: [...(before?.tags?.on ?? []), ...record.tags, ...spec.tags] },
      // Where the file brings its own ledger, that says what the memberships rest on.
      lists: { on: [...(before?.lists?.on ?? []), ...lists] },
      identities: [...(before?.identities ?? []), ...identities],
      optIns: [...(before?.optIns ?? []), ...optIns],
      optOuts: [...(before?.optOuts ?? []), ...optOuts],
    });
  }
  if (!spec.dry) {
    await makeFields(db, setting.clientId, Object.fromEntries(missing));
    for (const [field, type] of missing) setting.fields.set(field, { type, options: [] });
    const lists = [...new Set([...changes.values()].flatMap((change) => change.lists?.on ?? []))];
    if (lists.length > 0)
      await db.query(
        'insert into list (client_id, name) select $1, unnest($2::text[]) on conflict do nothing',
        [setting.clientId, lists],
      );
    const own = new Set(ledgers.map(({ personId }) => personId));
    const changed = await changePeople(
      db,
      {
        clientId: setting.clientId,
        now,
        by: changedByTask(task),
        stated: spec.stated || null,
        wordings: await wordingsOf(db, setting.clientId),
        ledgerOf: (personId) => !own.has(personId),
      },
      [...changes.values()],
    );
    await writeLedgers(db, setting, ledgers, task);
    await keepForUndo(db, task, changed, brought);
    if (missing.size > 0) await cuesChanged(db, setting.clientId);
  }
  return { done: rows.length, counts: counts as Record<string, number>, problems };
}

const isEmpty = (record: PersonRecord) =>
  record.id === null &&
  record.firstName === null &&
  record.lastName === null &&
  record.identities.length === 0 &&
  Object.keys(record.fields).length === 0;

/** A ledger that a file brings is kept as it is, with its own moments and wordings. */
async function writeLedgers(
  db: Connection,
  setting: Setting,
  ledgers: readonly { personId: string; entries: LedgerEntry[] }[],
  task: TaskRow<ImportSpec>,
): Promise<void> {
  const rows = ledgers.flatMap(({ personId, entries }) =>
    entries.map((entry) => ({
      ...entry,
      person_id: personId,
      line_id: entry.line === null ? null : (setting.lines.get(entry.line)?.id ?? null),
      at: new Date(entry.at).toISOString(),
    })),
  );
  if (rows.length === 0) return;
  await db.query(
    `
     insert into consent (client_id, person_id, line_id, conversation_id, what, scope, list, words, wording,
       language, stated, confirmed, at, by)
     select $1, t.person_id, t.line_id, i.id, t.what, t.scope, t.list, t.words, t.wording, t.language,
       t.stated, t.confirmed, t.at, $3
     from json_to_recordset($2::json) as t (person_id uuid, line_id int, what text, scope text, list text,
       words text, wording int, language text, stated text, confirmed boolean, at timestamptz)
     left join identity i on t.line_id is not null and i.client_id = $1 and i.person_id = t.person_id
       and i.line_id = t.line_id`,
    [setting.clientId, toJson(rows), toJson(changedByTask(task))],
  );
}
