import { valueWords, type FieldType, type Value } from '@dart-loop/core';
import { readCell, type CellWorld } from '@dart-loop/core/people/cellReading';
import type { TypeChangePreview } from '@dart-loop/contract';
import type { Clock } from '../platform/clock';
import type { Connection } from '../platform/db/pool';
import { cuesChanged } from '../loops/cueRevision';
import { changedByTask, type TaskKind, type TaskRow } from '../platform/jobs/tasks';
import { changePeople } from './change';
import { keepForUndo, undoBatches } from './undo';

export interface ConvertSpec {
  field: string;
  from: FieldType;
  to: FieldType;
  options: string[];
  world: CellWorld;
}

const AT_ONCE = 500;
/** Different values that a preview looks at. */
const MOST_DIFFERENT = 50_000;
const MOST_SHOWN = 50;

/** A value as one of another type, or why it is none. */
export function convert(
  value: Value,
  to: FieldType,
  world: CellWorld,
  options: readonly string[],
): { ok: true; value: Value } | { ok: false; reason: string } {
  if (value.type === to) return { ok: true, value };
  return readCell(to, valueWords(value), world, options);
}

/** What changing a field's type would do, value by value. */
export async function typeChangePreview(
  db: Connection,
  clientId: number,
  { field, to, options, world }: Omit<ConvertSpec, 'from'>,
): Promise<TypeChangePreview> {
  const { rows } = await db.query<{ value: Value; count: number }>(
    `
      select fields -> $2 as value, count(*)::int as count from person where client_id = $1 and fields ? $2
      group by 1 order by 2 desc limit ${MOST_DIFFERENT}`,
    [clientId, field],
  );
  let converts = 0;
  const lost: TypeChangePreview['lost'] = [];
  for (const { value, count } of rows) {
    const converted = convert(value, to, world, options);
    if (converted.ok) converts += count;
    else lost.push({ words: valueWords(value).slice(0, 120), reason: converted.reason, count });
  }
  return { converts, lost: lost.slice(0, MOST_SHOWN) };
}

/**
 * Changes every value of a field to another type. What does not convert goes, stays in each person's history,
 * and comes back when this is undone.
 */
export const convertTask = (clock: Clock): TaskKind<ConvertSpec> => ({
  async *batches(task, db) {
    const { field, to, options, world } = task.spec;
    let after = task.cursor ?? '00000000-0000-0000-0000-000000000000';
    for (;;) {
      const { rows } = await db.query<{ id: string; value: Value }>(
        `
          select id, fields -> $3 as value from person where client_id = $1 and id > $2 and fields ? $3
          order by id limit ${AT_ONCE}`,
        [task.client_id, after, field],
      );
      if (rows.length === 0) return;
      after = rows.at(-1)!.id;
      const converted = rows.map(({ id, value }) => ({ id, value, to: convert(value, to, world, options) }));
      yield async (connection) => {
        const changed = await changePeople(
          connection,
          { clientId: task.client_id, now: clock.now(), by: changedByTask(task), stated: null },
          converted.map(({ id, to: read }) => ({ id, fields: { [field]: read.ok ? read.value : null } })),
        );
        await keepForUndo(connection, task, changed);
        const lost = converted.filter((each) => !each.to.ok);
        return {
          done: rows.length,
          cursor: after,
          counts: { converted: rows.length - lost.length, 'did not convert': lost.length },
          problems: lost.map((each) => ({
            row: 0,
            column: field,
            cell: valueWords(each.value),
            reason: each.to.ok ? '' : each.to.reason,
          })),
        };
      };
    }
  },
  async *undo(task, db) {
    yield async (connection) => {
      await connection.query('update field set type = $3 where client_id = $1 and key = $2', [
        task.client_id,
        task.spec.field,
        task.spec.from,
      ]);
      await cuesChanged(connection, task.client_id);
      return { done: 0 };
    };
    yield* undoBatches(task as TaskRow<never>, db, () => clock.now());
  },
});
