import type { Request } from 'express';
import {
  ActOnPeople,
  ImportSpec,
  LookQuery,
  UploadQuery,
  type ActionPreview,
  type PeopleAction,
  type TaskView,
} from '@dart-loop/contract';
import type { Clock } from '../platform/clock';
import { audit } from '../platform/db/audit';
import { toJson } from '../platform/db/json';
import type { Connection } from '../platform/db/pool';
import { READ_SITE } from '../answers/siteReading';
import { newId } from '../platform/ids';
import { askedOf, chosenOf, countChosen } from './select';
import { MOST_BYTES, PART_BYTES } from './upload';
import type { Threads } from '../platform/threads/threads';
import { Problem, notFound } from '../platform/problem';
import { bodyParts } from '../http/bodyBytes';
import { route, transferring, type Account } from '../http/route';
import { valueToSet, previewWords, titleOf, look } from './taskPreview';

/** How long a file that is not sent on is waited for. */
const UNSENT_MS = 60_000;
const CAN_UNDO = ['import', 'action', 'convert'];

interface TaskRow {
  id: string;
  kind: string;
  title: string;
  state: TaskView['state'];
  spec: { dry?: boolean; action?: PeopleAction };
  total: number | null;
  done: number;
  counts: Record<string, number>;
  problems: TaskView['problems'];
  failure: string | null;
  made_at: Date;
  by: string | null;
  has_changes: boolean;
}
const TASKS = `
  select t.id, t.kind, t.title, t.state, t.spec, t.total, t.done, t.counts, t.problems, t.failure, t.made_at,
    a.name as by,
    exists (select from task_change c where c.client_id = t.client_id and c.task_id = t.id) as has_changes
  from task t left join account a on a.id = t.made_by where t.client_id = $1`;

const shown = (row: TaskRow): TaskView => ({
  id: row.id,
  kind: row.kind,
  title: row.title,
  state: row.state,
  total: row.total,
  done: row.done,
  counts: row.counts,
  problems: row.problems,
  failure: row.failure,
  madeAt: row.made_at.toISOString(),
  by: row.by,
  canUndo:
    row.has_changes && CAN_UNDO.includes(row.kind) && ['done', 'stopped', 'failed'].includes(row.state),
});

/** Writes a task down; whoever is free works it off. */
export async function makeTask(
  db: Connection,
  clientId: number,
  account: Account,
  now: number,
  task: { kind: string; title: string; spec: object; total: number | null },
): Promise<TaskView> {
  const id = newId(now);
  await db.query(
    `
      insert into task (client_id, id, kind, title, spec, total, made_at, made_by)
      values ($1, $2, $3, $4, $5, $6, $7, $8)`,
    [clientId, id, task.kind, task.title, toJson(task.spec), task.total, new Date(now), account.id],
  );
  return one(db, clientId, id);
}

async function one(db: Connection, clientId: number, id: string): Promise<TaskView> {
  const { rows } = await db.query<TaskRow>(`${TASKS} and t.id = $2`, [clientId, id]);
  if (!rows[0]) throw notFound('task');
  return shown(rows[0]);
}

export function peopleTaskRoutes({
  clock,
  threads,
  woken,
}: {
  clock: Clock;
  threads: Threads;
  woken: () => void;
}) {
  return [
    route({
      method: 'get',
      path: '/clients/:client/tasks',
      may: 'manage people',
      async handle({ db, client }): Promise<TaskView[]> {
        const { rows } = await db.query<TaskRow>(
          `${TASKS} and t.kind <> $2 order by t.made_at desc limit 30`,
          [client.id, READ_SITE],
        );
        return rows
          .filter((row) => !row.spec.dry)
          .map((row) => ({ ...shown(row), problems: row.problems.slice(0, 3) }));
      },
    }),
    route({
      method: 'get',
      path: '/clients/:client/tasks/:taskId',
      may: 'manage people',
      handle: ({ db, client, params }) => one(db, client.id, params.taskId!),
    }),
    route({
      method: 'post',
      path: '/clients/:client/tasks/:taskId/stop',
      may: 'manage people',
      async handle({ db, client, params, account, afterwards }): Promise<TaskView> {
        await audit(db, client.id, account.id, clock.now(), 'stopped a task', { taskId: params.taskId });
        await db.query(
          `
            update task set state = 'stopping'
            where client_id = $1 and id = $2 and state in ('waiting', 'running', 'undoing')`,
          [client.id, params.taskId],
        );
        afterwards(woken);
        return one(db, client.id, params.taskId!);
      },
    }),
    route({
      method: 'post',
      path: '/clients/:client/tasks/:taskId/undo',
      may: 'manage people',
      async handle({ db, client, params, account, afterwards }): Promise<TaskView> {
        const task = await one(db, client.id, params.taskId!);
        if (!task.canUndo)
          throw new Problem(
            409,
            'Nothing to take back',
            'Nothing of this is left to be taken back, or it is still under way.',
          );
        await db.query("update task set state = 'undoing', counts = '{}' where client_id = $1 and id = $2", [
          client.id,
          params.taskId,
        ]);
        await audit(db, client.id, account.id, clock.now(), 'took a task back', { taskId: params.taskId });
        afterwards(woken);
        return one(db, client.id, params.taskId!);
      },
    }),
    route({
      method: 'post',
      path: '/clients/:client/people/actions',
      may: 'manage people',
      body: ActOnPeople,
      async handle({ db, client, body, account, afterwards }): Promise<TaskView | ActionPreview> {
        const { action, preview } = body;
        const chosen = chosenOf(body.people);
        const now = clock.now();
        const asked = await askedOf(db, client.id, now);
        const total = await countChosen(db, chosen, asked);
        const value = action.do === 'set' ? await valueToSet(db, client.id, action, now) : null;
        if (preview) return { total, words: await previewWords(db, chosen, asked, action, total) };
        if (total === 0)
          throw new Problem(409, 'Nobody is chosen', 'Nobody fits any more, so nothing was done.');
        const task = await makeTask(db, client.id, account, now, {
          kind: 'action',
          title: await titleOf(db, client.id, action),
          spec: { chosen, action, value },
          total,
        });
        await audit(db, client.id, account.id, now, 'did something with many people', {
          do: action.do,
          total,
        });
        afterwards(woken);
        return task;
      },
    }),
    route({
      method: 'post',
      path: '/clients/:client/people/files',
      may: 'manage people',
      query: UploadQuery,
      handle: ({ client, query, account, request }) =>
        Promise.resolve(
          transferring(async (db) => {
            const id = newId(clock.now());
            await db.query('insert into upload (client_id, id, name, made_at) values ($1, $2, $3, $4)', [
              client.id,
              id,
              query.name,
              new Date(clock.now()),
            ]);
            await keepBytes(db, client.id, id, request);
            await audit(db, client.id, account.id, clock.now(), 'handed in a file', { name: query.name });
            return look(db, client.id, id, clock.now(), {}, threads);
          }),
        ),
    }),
    route({
      method: 'get',
      path: '/clients/:client/people/files/:uploadId',
      may: 'manage people',
      query: LookQuery,
      handle: ({ db, client, params, query }) =>
        look(db, client.id, params.uploadId!, clock.now(), query, threads),
    }),
    route({
      method: 'post',
      path: '/clients/:client/people/imports',
      may: 'manage people',
      body: ImportSpec,
      async handle({ db, client, body, account, afterwards }): Promise<TaskView> {
        const { rows } = await db.query<{ name: string }>(
          'select name from upload where client_id = $1 and id = $2',
          [client.id, body.uploadId],
        );
        if (!rows[0]) throw notFound('file');
        const task = await makeTask(db, client.id, account, clock.now(), {
          kind: 'import',
          title: rows[0].name,
          spec: body,
          total: null,
        });
        if (!body.dry)
          await audit(db, client.id, account.id, clock.now(), 'brought people in', {
            file: rows[0].name,
            taskId: task.id,
          });
        afterwards(woken);
        return task;
      },
    }),
  ];
}

/** Keeps a file part by part as it comes. Whoever sends nothing for a minute is let go of. */
async function keepBytes(db: Connection, clientId: number, id: string, request: Request): Promise<void> {
  let bytes = 0;
  let n = 0;
  let gathered: Buffer[] = [];
  let size = 0;
  const keep = async () => {
    if (size === 0) return;
    await db.query({
      name: 'keep-part',
      text: 'insert into upload_part (client_id, upload_id, n, bytes) values ($1, $2, $3, $4)',
      values: [clientId, id, n++, Buffer.concat(gathered)],
    });
    gathered = [];
    size = 0;
  };
  const tooLarge = 'The file is larger than 400 MB. Part it, and bring the parts in one after the other.';
  for await (const chunk of bodyParts(request, { most: MOST_BYTES, tooLarge, unsentMs: UNSENT_MS })) {
    bytes += chunk.length;
    gathered.push(chunk);
    size += chunk.length;
    if (size >= PART_BYTES) await keep();
  }
  await keep();
  if (bytes === 0) throw new Problem(400, 'That cannot be used', 'The file is empty.');
  await db.query('update upload set bytes = $3 where client_id = $1 and id = $2', [clientId, id, bytes]);
}
