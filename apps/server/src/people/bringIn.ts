import type { FieldType } from '@dart-loop/core';
import type { LedgerEntry, PersonRecord } from '@dart-loop/core/people/record';
import type { CellProblem } from '@dart-loop/core/people/rowReading';
import type { ImportSpec } from '@dart-loop/contract';
import { toJson } from '../platform/db/json';
import type { Connection } from '../platform/db/pool';
import { cuesChanged } from '../loops/cueRevision';
import { changedByTask, type Step, type TaskRow } from '../platform/jobs/tasks';
import { wordingsOf } from './actions';
import { changePeople, makeFields } from './change';
import type { PersonChange } from './personChange';
import { identitiesOf, meet, optedOutBefore, type Meeting, type Setting } from './meeting';
import type { ReadRow } from './rows';
import { keepForUndo } from './undo';

/** What rows are counted by: what each would be or become, and what of them was not taken. */
type Counted = 'made' | 'changed' | 'left as they were' | 'left out' | 'opt-ins passed over';

/** Brings rows of a file in, or, dry, only says what would become of each. */
export async function bringIn(
  db: Connection,
  task: TaskRow<ImportSpec>,
  setting: Setting,
  rows: ReadRow[],
  now: number,
  key: Buffer,
): Promise<Step> {
  const counts = new Counts();
  const { readable, problems } = readableOf(rows, task.spec, counts);
  const meeting = await meet(db, setting, readable, key);
  const known = [...meeting.met.values()].flatMap((met) => (met.known ? [met.known.id] : []));
  const optedOut = await optedOutBefore(db, setting.clientId, [...new Set(known)]);
  const brought = new Brought({ task, setting, meeting, optedOut, now }, counts);
  for (const row of readable) brought.take(row);
  if (!task.spec.dry) await write(db, task, setting, brought, now);
  return { done: rows.length, counts: counts.all, problems };
}

class Counts {
  readonly all: Record<string, number> = {};

  count(what: Counted, by = 1): void {
    if (by > 0) this.all[what] = (this.all[what] ?? 0) + by;
  }
}

/** The rows that say who it is and may be taken as they are; and what is wrong with any of them. */
function readableOf(
  rows: ReadRow[],
  spec: ImportSpec,
  counts: Counts,
): { readable: ReadRow[]; problems: CellProblem[] } {
  const problems = rows.flatMap((row) => row.problems);
  const readable = rows.filter((row) => {
    const whole = row.problems.some((problem) => problem.column === null);
    const isOut =
      whole || (row.problems.length > 0 && spec.bad === 'leave out the row') || isEmpty(row.record);
    if (isOut) counts.count('left out');
    if (isEmpty(row.record) && row.problems.length === 0)
      problems.push({ row: row.number, column: null, cell: '', reason: 'nothing in it says who it is' });
    return !isOut;
  });
  return { readable, problems };
}

/** What the rows come to, person by person: several rows may be of one. */
class Brought {
  readonly changes = new Map<string, PersonChange>();
  /** Ledgers that the file itself brings, of people it has made. */
  readonly ledgers: { personId: string; entries: LedgerEntry[] }[] = [];
  /** The identities that each person was given, by their ids. */
  readonly identities = new Map<string, string[]>();
  /** Fields that the client does not have yet. */
  readonly missing = new Map<string, FieldType>();

  constructor(
    private readonly from: {
      task: TaskRow<ImportSpec>;
      setting: Setting;
      meeting: Meeting;
      /** What each has opted out of: lists, or everything. */
      optedOut: Map<string, Set<string>>;
      now: number;
    },
    private readonly counts: Counts,
  ) {}

  take({ number, record }: ReadRow): void {
    const { task, setting, meeting, optedOut } = this.from;
    const met = meeting.met.get(number)!;
    if (met.known && task.spec.known === 'leave alone') return this.counts.count('left as they were');
    const before = this.changes.get(met.id);
    const isNew = !met.known && !before;
    this.counts.count(isNew ? 'made' : 'changed');
    for (const [field, value] of Object.entries(record.fields))
      if (!setting.fields.has(field)) this.missing.set(field, value.type);
    const out = optedOut.get(met.id) ?? new Set<string>();
    const lists = this.#listsOf(record, out);
    const { identities, optIns, optOuts, passedOver } = identitiesOf(setting, record, met, meeting, out);
    this.counts.count('opt-ins passed over', passedOver);
    if (identities.length > 0)
      this.identities.set(met.id, [
        ...(this.identities.get(met.id) ?? []),
        ...identities.map(({ id }) => id),
      ]);
    if (record.ledger.length > 0 && isNew) this.ledgers.push({ personId: met.id, entries: record.ledger });
    const fills = task.spec.known === 'fill gaps' && !isNew;
    const name = (what: 'firstName' | 'lastName' | 'language') => {
      const isTaken = record[what] !== null && !(fills && (met.known?.[what] ?? before?.[what]));
      return isTaken ? record[what]! : before?.[what];
    };
    const had = (field: string) => Boolean(met.known?.fields[field] ?? before?.fields?.[field]);
    this.changes.set(met.id, {
      ...before,
      id: met.id,
      ...(isNew && { isNew: this.#beginning(record) }),
      firstName: name('firstName'),
      lastName: name('lastName'),
      language: name('language'),
      fields: {
        ...before?.fields,
        ...Object.fromEntries(Object.entries(record.fields).filter(([field]) => !fills || !had(field))),
      },
      tags: { on: [...(before?.tags?.on ?? []), ...record.tags, ...task.spec.tags] },
      // Where the file brings its own ledger, that says what the memberships rest on.
      lists: { on: [...(before?.lists?.on ?? []), ...lists] },
      identities: [...(before?.identities ?? []), ...identities],
      optIns: [...(before?.optIns ?? []), ...optIns],
      optOuts: [...(before?.optOuts ?? []), ...optOuts],
    });
  }

  /** The lists that somebody comes onto: none that they have opted out of. */
  #listsOf(record: PersonRecord, out: Set<string>): string[] {
    return [...record.lists, ...this.from.task.spec.lists].filter((list) => {
      const isRefused = out.has('everything') || out.has(`list:${list}`);
      if (isRefused) this.counts.count('opt-ins passed over');
      return !isRefused;
    });
  }

  #beginning(record: PersonRecord): NonNullable<PersonChange['isNew']> {
    const { task, now } = this.from;
    return {
      met: record.met ?? now,
      seen: record.seen ?? record.met ?? now,
      source: record.source ?? (record.id === null ? task.spec.stated || task.title : null),
    };
  }
}

async function write(
  db: Connection,
  task: TaskRow<ImportSpec>,
  setting: Setting,
  { changes, ledgers, identities, missing }: Brought,
  now: number,
): Promise<void> {
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
      stated: task.spec.stated || null,
      wordings: await wordingsOf(db, setting.clientId),
      ledgerOf: (personId) => !own.has(personId),
    },
    [...changes.values()],
  );
  await writeLedgers(db, setting, ledgers, task);
  await keepForUndo(db, task, changed, identities);
  if (missing.size > 0) await cuesChanged(db, setting.clientId);
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
