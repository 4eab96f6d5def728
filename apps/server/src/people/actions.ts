import type { Value } from '@dart-loop/core';
import { readCell, type CellWorld } from '@dart-loop/core/people/cellReading';
import type { PeopleAction } from '@dart-loop/contract';
import type { Clock } from '../platform/clock';
import type { Connection } from '../platform/db/pool';
import { newId } from '../platform/ids';
import { addressHash } from '../platform/secrets';
import { changedByTask, type TaskKind, type TaskRow } from '../platform/jobs/tasks';
import { changePeople } from './change';
import type { PersonChange } from './personChange';
import { peopleWordsOf } from './peopleWords';
import { askedOf, chosenSql, type Chosen } from './select';
import { liveLoops, raiseCues, startLoopFor } from './starting';
import { keepForUndo, undoBatches } from './undo';
import { Problem, notDone } from '../platform/problem';

/** What is done with many people. */
export interface ActionSpec {
  chosen: Chosen;
  action: PeopleAction;
  /** The value of a `set`, read once. */
  value?: Value | null;
  /** What brings a delivery about, where nobody does by hand. */
  cause?: string;
}

const AT_ONCE = 500;
/** Of those who are erased: each takes a statement of its own, over all tables. */
const ERASED_AT_ONCE = 25;

/** Does one thing with many people, in the order of their ids. */
export const actionTask = (clock: Clock, key: Buffer): TaskKind<ActionSpec> => ({
  async *batches(task, db) {
    const { chosen, action } = task.spec;
    const asked = await askedOf(db, task.client_id, clock.now());
    let after = task.cursor ?? '00000000-0000-0000-0000-000000000000';
    for (;;) {
      const { from, where, values } = chosenSql(chosen, asked, 3);
      const { rows } = await db.query<{ id: string }>(
        `select p.id from ${from} where ${where} and p.id > $1 order by p.id limit $2`,
        [after, action.do === 'erase' ? ERASED_AT_ONCE : AT_ONCE, ...values],
      );
      if (rows.length === 0) return;
      const ids = rows.map((row) => row.id);
      after = ids.at(-1)!;
      yield async (connection) => ({
        done: ids.length,
        cursor: after,
        counts: await doWith(connection, task, ids, clock.now(), key),
      });
    }
  },
  undo: (task, db) => undoBatches(task as TaskRow<never>, db, () => clock.now()),
});

async function doWith(
  db: Connection,
  task: TaskRow<ActionSpec>,
  ids: string[],
  now: number,
  key: Buffer,
): Promise<Record<string, number>> {
  const { action, value = null } = task.spec;
  if (action.do === 'erase') {
    for (const id of ids)
      await erase(db, task.client_id, id, { now, by: task.made_by, reason: action.reason, key });
    return { erased: ids.length };
  }
  if (action.do === 'start loop')
    return startLoop(db, task.client_id, action.loopId, ids, now, task.by_name ?? 'the team');
  if (action.do === 'send to')
    return sendTo(db, task.client_id, action.destinationId, ids, now, task.spec.cause ?? 'by hand');
  const changes = ids.map((id): PersonChange => {
    switch (action.do) {
      case 'add tag':
        return { id, tags: { on: [action.tag] } };
      case 'remove tag':
        return { id, tags: { off: [action.tag] } };
      case 'set':
      case 'clear':
        return { id, fields: { [action.field]: action.do === 'set' ? value : null } };
      case 'join list':
        return { id, lists: { on: [action.list] } };
      case 'leave list':
        return { id, lists: { off: [action.list] } };
    }
  });
  const stated = action.do === 'join list' ? action.stated : null;
  const { changes: allowed, kept } =
    action.do === 'join list'
      ? await withoutThoseWhoLeft(db, task.client_id, action.list, changes)
      : { changes, kept: 0 };
  const changed = await changePeople(
    db,
    {
      clientId: task.client_id,
      now,
      by: changedByTask(task),
      stated,
      wordings: await wordingsOf(db, task.client_id),
    },
    allowed,
  );
  const really = changed.filter(
    ({ fields, tagsOn, tagsOff, listsOn, listsOff }) =>
      fields.length + tagsOn.length + tagsOff.length + listsOn.length + listsOff.length > 0,
  );
  await keepForUndo(db, task, really);
  await raiseCues(db, task.client_id, really, now);
  return {
    changed: really.length,
    'as they were': changed.length - really.length,
    ...(kept > 0 && { 'left the list by themselves': kept }),
  };
}

/** Whoever has left a list by themselves is not put back on it by others. */
export async function withoutThoseWhoLeft(
  db: Connection,
  clientId: number,
  list: string,
  changes: PersonChange[],
): Promise<{ changes: PersonChange[]; kept: number }> {
  const { rows } = await db.query<{ person_id: string }>(
    `
     select person_id from (
       select distinct on (person_id) person_id, what, by from consent_now
       where client_id = $1 and person_id = any ($2::uuid[])
         and (scope = 'everything' or (scope = 'list' and list = $3)) order by person_id, id desc) last
     where what = 'opt-out' and by is null`,
    [clientId, changes.map((change) => change.id), list],
  );
  const left = new Set(rows.map((row) => row.person_id));
  return { changes: changes.filter((change) => !left.has(change.id)), kept: left.size };
}

/** The wordings of a client's lists as they are now, by the lists' names. */
export async function wordingsOf(
  db: Connection,
  clientId: number,
): Promise<Record<string, { words: string; version: number | null }>> {
  const { lists } = (await peopleWordsOf(db, [clientId]))(clientId);
  return Object.fromEntries(
    Object.values(lists).map(({ name, wording, version }) => [
      name,
      { words: wording, version: version || null },
    ]),
  );
}

async function startLoop(
  db: Connection,
  clientId: number,
  loopId: string,
  ids: string[],
  now: number,
  by: string,
): Promise<Record<string, number>> {
  const loop = (await liveLoops(db, clientId)).find(({ id }) => id === loopId);
  if (!loop) throw notDone('The loop is not live any more. Nobody else is started.');
  const told = await startLoopFor(db, clientId, loop, ids, now, by);
  return { started: told, ...(told < ids.length && { 'reachable on none of its lines': ids.length - told }) };
}

/** Notes a delivery for each, but for those who wait for one that nobody has taken yet. */
async function sendTo(
  db: Connection,
  clientId: number,
  destinationId: string,
  ids: string[],
  now: number,
  cause: string,
): Promise<Record<string, number>> {
  const { rows } = await db.query<{ state: string }>(
    'select state from destination where client_id = $1 and id = $2',
    [clientId, destinationId],
  );
  if ((rows[0]?.state ?? 'off') === 'off')
    throw notDone('The destination is off or gone. Nobody else is sent there.');
  const { rowCount } = await db.query(
    `
     insert into delivery (client_id, id, destination_id, person_id, causes, due_at, made_at)
     select $1, gen_random_uuid(), $2, p.id, array[$5::text], $4, $4 from person p
     where p.client_id = $1 and p.id = any ($3::uuid[])
     on conflict (client_id, destination_id, person_id) where status = 'waiting' and attempts = 0
       and taken_until is null do nothing`,
    [clientId, destinationId, ids, new Date(now), cause],
  );
  const noted = rowCount ?? 0;
  return { 'to be sent': noted, ...(noted < ids.length && { 'waiting already': ids.length - noted }) };
}

/** Erases somebody from every table, with a receipt that says nothing about them. */
export async function erase(
  db: Connection,
  clientId: number,
  personId: string,
  { now, by, reason, key }: { now: number; by: number | null; reason: string; key: Buffer },
): Promise<string | null> {
  // Nobody writes into their conversations meanwhile.
  const { rows: talks } = await db.query<{ line_id: number; address: string; out: boolean }>(
    `
      select line_id, address, coalesce((standing ->> 'optedOut')::boolean, false) as out from conversation
      where client_id = $1 and person_id = $2 order by id for update`,
    [clientId, personId],
  );
  const { rows } = await db.query<{ counts: Record<string, number> }>(
    'select erase_person($1, $2) as counts',
    [clientId, personId],
  );
  const counts = rows[0]!.counts;
  if (!counts.person) return null;
  for (const { line_id, address, out } of talks)
    if (out)
      await db.query(
        `
          insert into erased_opt_out (client_id, line_id, address_hash)
          values ($1, $2, $3) on conflict do nothing`,
        [clientId, line_id, addressHash(key, clientId, line_id, address)],
      );
  // Examples of what other systems say are somebody's; nobody asks whose.
  await db.query(
    'update inlet set example = null, example_at = null where client_id = $1 and example is not null',
    [clientId],
  );
  const id = newId(now);
  await db.query(
    'insert into erasure (client_id, id, at, by, reason, counts) values ($1, $2, $3, $4, $5, $6)',
    [clientId, id, new Date(now), by, reason, counts],
  );
  return id;
}

/** Reads the value of a `set` for its field; throws what is wrong with it, said of `where` it was written. */
export function valueOf(
  field: { type: Value['type']; options: string[] },
  written: string,
  world: CellWorld,
  where: { part: string; name?: string },
): Value {
  const reading = readCell(field.type, written, world, field.options);
  if (reading.ok) return reading.value;
  const detail = `“${written.slice(0, 60)}” does not fit: ${reading.reason}`;
  throw new Problem(400, 'That cannot be used', `${where.name ?? where.part}: ${detail}.`, {
    errors: [{ field: where.part, detail }],
  });
}
