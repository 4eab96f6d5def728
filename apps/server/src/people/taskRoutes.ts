import type { Value } from '@dart-loop/core';
import type { Request } from 'express';
import {
  ActOnPeople,
  ImportSpec,
  LookQuery,
  UploadQuery,
  type ActionPreview,
  type PeopleAction,
  type TaskView,
  type UploadPage,
} from '@dart-loop/contract';
import type { Clock } from '../platform/clock';
import { audit } from '../platform/db/audit';
import { toJson } from '../platform/db/json';
import type { Connection } from '../platform/db/pool';
import { newId } from '../platform/ids';
import { valueOf } from './actions';
import { cellWorldOf } from './cellWorld';
import { askedOf, chosenOf, chosenSql, countChosen, type Chosen } from './select';
import type { AskedOf } from './segmentSql';
import { MOST_COLUMNS } from './columns';
import { MOST_BYTES, PART_BYTES, firstPart, partsOf } from './upload';
import type { Threads } from '../platform/threads/threads';
import { TaskProblem } from '../platform/jobs/tasks';
import { Problem, notFound } from '../platform/problem';
import { outside, route, transferring, type Account } from '../http/route';

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
        const { rows } = await db.query<TaskRow>(`${TASKS} order by t.made_at desc limit 30`, [client.id]);
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
  request.setTimeout(UNSENT_MS, () => request.destroy());
  for await (const chunk of request as AsyncIterable<Buffer>) {
    bytes += chunk.length;
    if (bytes > MOST_BYTES)
      throw new Problem(
        413,
        'Too large',
        'The file is larger than 400 MB. Part it, and bring the parts in one after the other.',
      );
    gathered.push(chunk);
    size += chunk.length;
    if (size >= PART_BYTES) await keep();
  }
  await keep();
  if (bytes === 0) throw new Problem(400, 'That cannot be used', 'The file is empty.');
  await db.query('update upload set bytes = $3 where client_id = $1 and id = $2', [clientId, id, bytes]);
}

/** What a file is, and what its columns may be for, as what a handler returns. */
async function look(
  db: Connection,
  clientId: number,
  uploadId: string,
  now: number,
  chosen: { encoding?: UploadPage['encoding'] & 'utf-8'; separator?: string } | object,
  threads: Threads,
): Promise<unknown> {
  const { rows } = await db.query<{ name: string; bytes: number }>(
    'select name, bytes from upload where client_id = $1 and id = $2',
    [clientId, uploadId],
  );
  if (!rows[0]) throw notFound('file');
  const { name, bytes } = rows[0];
  const beginning = (await firstPart(partsOf(db, clientId, uploadId))) ?? Buffer.alloc(0);
  const fields = (
    await db.query<{ key: string; name: string; type: Value['type'] }>(
      'select key, name, type from field where client_id = $1',
      [clientId],
    )
  ).rows;
  const lines = (
    await db.query<{ key: string; channel: string }>(
      'select key, channel from line where client_id = $1 order by id',
      [clientId],
    )
  ).rows;
  const world = await cellWorldOf(db, clientId, now);
  return outside(async (): Promise<UploadPage> => {
    const seen = await threads.run('lookAtFile', {
      beginning,
      isWhole: beginning.length === bytes,
      chosen,
      known: { fields, lines },
      world,
    });
    if ('tooMany' in seen)
      throw new Problem(
        400,
        'That cannot be used',
        `The file has ${seen.tooMany} columns, and at most ${MOST_COLUMNS} are taken. Is its separator right?`,
      );
    return { id: uploadId, name, ...seen.page };
  });
}

async function valueToSet(
  db: Connection,
  clientId: number,
  { field, value }: Extract<PeopleAction, { do: 'set' }>,
  now: number,
): Promise<Value> {
  const { rows } = await db.query<{ type: Value['type']; options: string[] }>(
    'select type, options from field where client_id = $1 and key = $2',
    [clientId, field],
  );
  if (!rows[0]) throw new Problem(400, 'That cannot be used', `action: the client has no field “${field}”.`);
  try {
    return valueOf(rows[0], value, await cellWorldOf(db, clientId, now));
  } catch (error) {
    if (error instanceof TaskProblem)
      throw new Problem(400, 'That cannot be used', `action: ${error.message}`);
    throw error;
  }
}

async function titleOf(db: Connection, clientId: number, action: PeopleAction): Promise<string> {
  switch (action.do) {
    case 'add tag':
      return `Tag ${action.tag}`;
    case 'remove tag':
      return `Remove tag ${action.tag}`;
    case 'set':
      return `Set ${action.field.replaceAll('_', ' ')} to ${action.value}`.slice(0, 200);
    case 'clear':
      return `Clear ${action.field.replaceAll('_', ' ')}`;
    case 'join list':
      return `Put on the list ${action.list}`;
    case 'leave list':
      return `Take off the list ${action.list}`;
    case 'erase':
      return 'Erase';
    case 'start loop': {
      const { rows } = await db.query<{ name: string }>(
        `
          select name from loop where client_id = $1 and id = $2 and live_version is not null
            and state = 'live' and archived_at is null`,
        [clientId, action.loopId],
      );
      if (!rows[0])
        throw new Problem(409, 'Not live', 'That loop is not live, so nobody can be started in it.');
      return `Start ${rows[0].name}`;
    }
    case 'send to': {
      const { rows } = await db.query<{ name: string }>(
        "select name from destination where client_id = $1 and id = $2 and state <> 'off'",
        [clientId, action.destinationId],
      );
      if (!rows[0])
        throw new Problem(
          409,
          'Off',
          'That destination is off, so nobody can be sent there. Switch it on, or to paused.',
        );
      return `Send to ${rows[0].name}`;
    }
  }
}

/** What an action would pass over. */
async function previewWords(
  db: Connection,
  chosen: Chosen,
  asked: AskedOf,
  action: PeopleAction,
  total: number,
): Promise<string[]> {
  const { from, where, values } = chosenSql(chosen, asked, 1);
  const count = async (condition: string, ...more: unknown[]) =>
    (
      await db.query<{ count: number }>(
        `select count(*)::int as count from ${from} where ${where} and ${condition}`,
        [...values, ...more],
      )
    ).rows[0]!.count;
  const next = `$${values.length + 1}`;
  const people = (n: number) => (n === 1 ? '1 person' : `${n.toLocaleString('en-GB')} people`);
  switch (action.do) {
    case 'add tag':
      return [`${people(await count(`${next} = any (p.tags)`, action.tag))} have it already.`];
    case 'remove tag':
      return [`${people(await count(`not ${next} = any (p.tags)`, action.tag))} do not have it.`];
    case 'join list':
      return [
        `${people(await count(`${next} = any (p.lists)`, action.list))} stand on it already.`,
        'Whoever has left it by themselves is passed over.',
      ];
    case 'leave list':
      return [`${people(await count(`not ${next} = any (p.lists)`, action.list))} do not stand on it.`];
    case 'set':
      return [
        `${people(await count(`p.fields ? ${next}`, action.field))} have a value already; it is replaced.`,
      ];
    case 'clear':
      return [`${people(await count(`not p.fields ? ${next}`, action.field))} have no value.`];
    case 'start loop': {
      const out = await count(
        `exists (select from conversation c where c.client_id = p.client_id and c.person_id = p.id and (c.standing ->> 'optedOut')::boolean)`,
      );
      const unreachable = await count(
        'not exists (select from identity i where i.client_id = p.client_id and i.person_id = p.id)',
      );
      return [
        ...(unreachable > 0 ? [`${people(unreachable)} are reachable on no line and are passed over.`] : []),
        ...(out > 0 ? [`${people(out)} have opted out of a line; there nothing is sent to them.`] : []),
        'Messages wait for each person’s quiet hours and the client’s limits.',
      ];
    }
    case 'send to': {
      const { rows } = await db.query<{ state: string; waits: number }>(
        `
         select state, (select count(*)::int from delivery w
           where w.client_id = d.client_id and w.destination_id = d.id and w.status = 'waiting') as waits
         from destination d where client_id = $1 and id = $2`,
        [asked.clientId, action.destinationId],
      );
      const { state, waits } = rows[0] ?? { state: 'off', waits: 0 };
      return [
        'Each goes out once, as they stand when it is their turn. Whoever waits to be sent there already is not sent twice.',
        ...(state === 'paused'
          ? ['The destination is paused: they are noted, and go out when it is switched on.']
          : []),
        ...(waits > 0 ? [`${people(waits)} wait to be sent there already, and go first.`] : []),
      ];
    }
    case 'erase':
      return [
        `Everything about ${people(total)} goes from every table: messages, events, deliveries, facts, the ledger. This cannot be undone.`,
        'Numbers that had opted out stay opted out, as hashes that cannot be read back.',
      ];
  }
}
