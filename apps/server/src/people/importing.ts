import type { FieldType } from '@dart-loop/core';
import { keyOf } from '@dart-loop/core/people/mapping';
import { readJsonLine } from '@dart-loop/core/people/jsonLines';
import { emptyRecord, type LedgerEntry, type PersonRecord } from '@dart-loop/core/people/record';
import { readRow, type CellProblem } from '@dart-loop/core/people/rowReading';
import { readCard } from '@dart-loop/core/people/vCard';
import type { ImportSpec } from '@dart-loop/contract';
import type { Clock } from '../clock';
import { toJson } from '../db/json';
import type { Connection, Db } from '../db/pool';
import { cuesChanged } from '../work/publish';
import { TaskProblem, changedByTask, type Step, type TaskKind, type TaskRow } from '../work/tasks';
import { wordingsOf } from './actions';
import { changePeople, makeFields, type PersonChange } from './change';
import { identitiesOf, meet, optedOutBefore, settingOf, withOptIns, type ReadRow, type Setting } from './meeting';
import { keepForUndo, undoBatches } from './undo';
import { cardsOf, csvRows, firstPart, linesOf, lookAt, partsOf, textOf } from './upload';

const AT_ONCE = 500;

/** Brings in a file of people, five hundred rows at a time; or, dry, says what would become of each row. */
export const importTask = (clock: Clock, key: Buffer): TaskKind<ImportSpec> => ({
  async *batches(task, db) {
    const { spec } = task;
    const setting = await settingFor(db, task.client_id, spec, clock.now());
    let skip = task.done;
    let batch: ReadRow[] = [];
    let done = task.done;
    for await (const row of rowsOf(db, task, setting)) {
      if (skip > 0) {
        skip--;
        continue;
      }
      batch.push({ ...row, record: withOptIns(row.record, setting, spec) });
      if (batch.length < AT_ONCE) continue;
      const rows = batch;
      batch = [];
      done += rows.length;
      yield (connection) => bringIn(connection, task, setting, rows, clock.now(), key);
    }
    const rows = batch;
    yield async (connection) => ({ ...(await bringIn(connection, task, setting, rows, clock.now(), key)), total: done + rows.length });
  },
  undo: (task, db) => undoBatches(task as TaskRow<never>, db, () => clock.now()),
  async after(task, db) {
    // Looked at again with every try; gone once it has been brought in.
    if (!task.spec.dry) await db.query('delete from upload where client_id = $1 and id = $2', [task.client_id, task.spec.uploadId]);
  },
});

/** The client's setting, its days read as the file writes them. */
async function settingFor(db: Db, clientId: number, spec: ImportSpec, now: number): Promise<Setting> {
  const setting = await settingOf(db, clientId, now);
  const unknown = spec.optIn.find((line) => !setting.lines.has(line));
  if (unknown) throw new TaskProblem(`The client has no line “${unknown}”.`);
  return { ...setting, cells: { ...setting.cells, dayOrder: spec.dayOrder } };
}

async function* rowsOf(db: Db, task: TaskRow<ImportSpec>, setting: Setting): AsyncIterable<ReadRow> {
  const { spec, client_id } = task;
  const parts = () => partsOf(db, client_id, spec.uploadId);
  const first = await firstPart(parts());
  if (!first) throw new TaskProblem('The file is not here any more. Bring it in again.');
  const look = lookAt(first, false, spec);
  const text = textOf(parts(), spec.encoding);
  if (look.format === 'jsonl') {
    for await (const { number, line } of linesOf(text)) {
      const read = readJsonLine(line);
      yield read.ok
        ? { number, record: read.record, problems: [] }
        : { number, record: emptyRecord(), problems: [{ row: number, column: null, cell: line.slice(0, 200), reason: read.reason }] };
    }
    return;
  }
  if (look.format === 'vcard') {
    for await (const { number, card } of cardsOf(text)) yield { number, ...readCard(number, card, setting.cells) };
    return;
  }
  const used = spec.uses.filter((use) => use.as !== 'nothing').map(keyOf);
  if (new Set(used).size !== used.length) throw new TaskProblem('Two columns are for the same thing. Choose another use for one of them.');
  let header: string[] | null = spec.header ? null : spec.uses.map((_, at) => `column ${at + 1}`);
  const world = { ...setting.cells, ours: look.ours, uses: spec.uses, fields: setting.fields, lines: setting.lines };
  for await (const row of csvRows(text, look.shape)) {
    if (row.cells.every((cell) => cell.trim() === '') && !row.problem) continue;
    if (header === null) {
      header = row.cells;
      continue;
    }
    if (row.problem) {
      yield {
        number: row.number,
        record: emptyRecord(),
        problems: [{ row: row.number, column: null, cell: row.cells.join(', ').slice(0, 200), reason: row.problem }],
      };
      continue;
    }
    const mends = spec.mends[String(row.number)];
    const cells = mends ? row.cells.map((cell, at) => mends[header![at] ?? ''] ?? cell) : row.cells;
    yield { number: row.number, ...readRow(row.number, cells, { ...world, header }) };
  }
}

/** What a row would be or become. */
type Fate = 'made' | 'changed' | 'left as they were' | 'left out';

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
    const isOut = whole || (row.problems.length > 0 && spec.bad === 'leave out the row') || isEmpty(row.record);
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
  const optedIn = new Map<string, number[]>();
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
    for (const [field, value] of Object.entries(record.fields)) if (!setting.fields.has(field)) missing.set(field, value.type);
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
    if (optIns.length > 0) optedIn.set(met.id, [...(optedIn.get(met.id) ?? []), ...optIns.map(({ lineId }) => lineId)]);
    if (record.ledger.length > 0 && isNew) ledgers.push({ personId: met.id, entries: record.ledger });
    const name = (value: string | null, known: string | null | undefined) => (value === null || (fills && known) ? undefined : value);
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
      fields: { ...before?.fields, ...Object.fromEntries(Object.entries(record.fields).filter(([field]) => !fills || !had(field))) },
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
      await db.query('insert into list (client_id, name) select $1, unnest($2::text[]) on conflict do nothing', [setting.clientId, lists]);
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
    await keepForUndo(db, task, changed, optedIn);
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
    `insert into consent (client_id, person_id, line_id, conversation_id, what, scope, list, words, wording, language, stated, confirmed, at, by)
     select $1, t.person_id, t.line_id, i.id, t.what, t.scope, t.list, t.words, t.wording, t.language, t.stated, t.confirmed, t.at, $3
     from json_to_recordset($2::json) as t (person_id uuid, line_id int, what text, scope text, list text, words text, wording int, language text, stated text, confirmed boolean, at timestamptz)
     left join identity i on t.line_id is not null and i.client_id = $1 and i.person_id = t.person_id and i.line_id = t.line_id`,
    [setting.clientId, toJson(rows), toJson(changedByTask(task))],
  );
}
