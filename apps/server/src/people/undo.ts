import type { Value } from '@dart-loop/core';
import { toJson } from '../platform/db/json';
import type { Connection, Db } from '../platform/db/pool';
import type { Batch, TaskRow } from '../platform/jobs/tasks';
import { changePeople } from './change';
import type { Changed, PersonChange } from './personChange';
import { indexPeople, readPeople } from './facts';
import { sameJson } from '@dart-loop/core/sameJson';

/** What a task has made of one person, from which it can be taken back. */
interface Kept {
  firstName: [string | null, string | null] | null;
  lastName: [string | null, string | null] | null;
  language: [string | null, string | null] | null;
  fields: { field: string; before: Value | null; after: Value | null }[];
  tagsOn: string[];
  tagsOff: string[];
  listsOn: string[];
  listsOff: string[];
  /** Conversations that the task has brought, of somebody who was there already. */
  conversations?: string[];
}

const AT_ONCE = 500;

/** Writes down what a task has changed of whom. */
export async function keepForUndo(
  db: Connection,
  task: Pick<TaskRow, 'client_id' | 'id'>,
  changed: readonly Changed[],
  conversations: ReadonlyMap<string, readonly string[]> = new Map(),
): Promise<void> {
  const pair = <T>(before: T, after: T): [T, T] | null => (before === after ? null : [before, after]);
  const rows = changed.map(({ before, after, fields, tagsOn, tagsOff, listsOn, listsOff }) => ({
    person_id: after.id,
    made: before === null,
    before: {
      firstName: pair(before?.firstName ?? null, after.firstName),
      lastName: pair(before?.lastName ?? null, after.lastName),
      language: pair(before?.language ?? null, after.language),
      fields,
      tagsOn,
      tagsOff,
      listsOn,
      listsOff,
      conversations: [...(conversations.get(after.id) ?? [])],
    } satisfies Kept,
  }));
  await db.query({
    name: 'keep-for-undo',
    text: `
           insert into task_change (client_id, task_id, person_id, made, before)
           select $1, $2, person_id, made, before
           from json_to_recordset($3::json) as t (person_id uuid, made boolean, before jsonb)`,
    values: [task.client_id, task.id, toJson(rows)],
  });
}

/** The task's entries of the ledger count no more, and conversations remember what counts now. */
async function undoLedger(
  db: Connection,
  task: TaskRow<never>,
  people: readonly string[],
  now: number,
): Promise<void> {
  if (people.length === 0) return;
  const by = { kind: 'task', taskId: task.id, name: `${task.title}, undone` };
  const { rowCount } = await db.query({
    name: 'undo-ledger',
    text: `
           insert into consent (client_id, person_id, line_id, conversation_id, what, words, at, by, scope,
             list, undoes)
           select c.client_id, c.person_id, c.line_id, c.conversation_id, 'undone',
             'undone with the import or action that it came from', $4, $5, c.scope, c.list, c.id
           from consent_now c where c.client_id = $1 and c.person_id = any ($2::uuid[])
             and c.by ->> 'taskId' = $3 order by c.id`,
    values: [task.client_id, people, task.id, new Date(now), toJson(by)],
  });
  if (!rowCount) return;
  await db.query({
    name: 'undo-standings',
    text: `
           update conversation c set standing = c.standing || jsonb_build_object(
             'optedOut', coalesce(said.what = 'opt-out', false)
               or coalesce((c.standing ->> 'blocked')::boolean, false), 'optedIn',
               coalesce(said.what = 'opt-in', false))
           from unnest($2::uuid[]) as p (id)
           join conversation t on t.client_id = $1 and t.person_id = p.id
           left join lateral (
             select k.what from consent_now k where k.client_id = $1 and k.person_id = p.id
               and (k.scope = 'everything' or (k.scope = 'line' and k.conversation_id = t.id))
             order by k.id desc limit 1
           ) said on true
           where c.client_id = $1 and c.id = t.id
             and exists (select from consent u where u.client_id = $1 and u.person_id = p.id
               and u.what = 'undone' and u.by ->> 'taskId' = $3
               and (u.scope = 'everything' or (u.scope = 'line' and u.conversation_id = t.id)))`,
    values: [task.client_id, people, task.id],
  });
}

/**
 * Takes a task back, the newest change first. A value that somebody has changed since stays as they left it;
 * somebody whom the task made and who has written or been written to since stays as well, without what the
 * task set.
 */
export async function* undoBatches(task: TaskRow<never>, db: Db, now: () => number): AsyncIterable<Batch> {
  for (;;) {
    const { rows } = await db.query<{ n: number; person_id: string; made: boolean; before: Kept }>(
      `
        select n, person_id, made, before from task_change where client_id = $1 and task_id = $2
        order by n desc limit $3`,
      [task.client_id, task.id, AT_ONCE],
    );
    if (rows.length === 0) return;
    yield async (connection) => {
      const made = rows.filter((row) => row.made).map((row) => row.person_id);
      const { rows: untouched } = await connection.query<{ id: string }>(
        `
         select p.id from unnest($2::uuid[]) as p (id) where not exists (
           select from conversation c where c.client_id = $1 and c.person_id = p.id
             and (c.seq > 0 or exists (select from message m
             where m.client_id = $1 and m.conversation_id = c.id)))
         and not exists (select from merge g where g.client_id = $1 and (g.kept = p.id or g.gone = p.id)
           and g.parted_at is null)`,
        [task.client_id, made],
      );
      const gone = new Set(untouched.map((row) => row.id));
      if (gone.size > 0) await connection.query('select erase_people($1, $2)', [task.client_id, [...gone]]);
      const left = rows.filter((row) => !gone.has(row.person_id));
      const people = new Map(
        (
          await readPeople(
            connection,
            task.client_id,
            left.map((row) => row.person_id),
          )
        ).map((person) => [person.id, person]),
      );
      const changes = left.flatMap(({ person_id, before }): PersonChange[] => {
        const person = people.get(person_id);
        if (!person) return [];
        const name = (pair: [string | null, string | null] | null, now: string | null) =>
          pair && pair[1] === now ? pair[0] : undefined;
        return [
          {
            id: person_id,
            firstName: name(before.firstName, person.firstName),
            lastName: name(before.lastName, person.lastName),
            language: name(before.language, person.language),
            fields: Object.fromEntries(
              before.fields.flatMap((change) =>
                sameJson(person.fields[change.field] ?? null, change.after)
                  ? [[change.field, change.before]]
                  : [],
              ),
            ),
            tags: { on: before.tagsOff, off: before.tagsOn },
            lists: { on: before.listsOff, off: before.listsOn },
          },
        ];
      });
      await changePeople(
        connection,
        {
          clientId: task.client_id,
          now: now(),
          by: { kind: 'task', taskId: task.id, name: `${task.title}, undone` },
          stated: null,
          // What was recorded is undone below, so that what counted before it counts again.
          ledgerOf: () => false,
        },
        changes,
      );
      const brought = left.flatMap(({ before }) => before.conversations ?? []);
      if (brought.length > 0)
        await connection.query('select take_back_conversations($1, $2)', [task.client_id, brought]);
      await undoLedger(connection, task, [...people.keys()], now());
      await indexPeople(connection, task.client_id, [...people.keys()]);
      await connection.query(
        'delete from task_change where client_id = $1 and task_id = $2 and n = any ($3::bigint[])',
        [task.client_id, task.id, rows.map((row) => row.n)],
      );
      return { done: rows.length, counts: { 'taken back': rows.length } };
    };
  }
}
