import type { Logger } from 'pino';
import type { Clock } from '../clock';
import { toJson } from '../db/json';
import { inTransactionAgain, isDatabaseAway, type Connection, type Db } from '../db/pool';
import { Taking } from './taking';
import type { CellProblem } from '@dart-loop/core/people/rowReading';
import type { ChangedBy } from '../../conversations/changes';
import { Problem } from '../problem';

/** A task as its kind sees it. */
export interface TaskRow<Spec = unknown> {
  client_id: number;
  id: string;
  kind: string;
  title: string;
  state: string;
  spec: Spec;
  total: number | null;
  done: number;
  cursor: string | null;
  made_by: number | null;
  /** Whoever made it. */
  by_name: string | null;
}

/** What one batch has done: how many more, where the next begins, and what there is to say of it. */
export interface Step {
  done: number;
  cursor?: string | null;
  total?: number | null;
  counts?: Record<string, number>;
  problems?: CellProblem[];
}

/**
 * One batch of a task, done in one transaction together with the note that it is done; done again where the
 * transaction gave way to another.
 */
export type Batch = (db: Connection) => Promise<Step>;

/**
 * A kind of long work. Its batches begin where the last one that was committed ended, whatever happened in
 * between.
 */
export interface TaskKind<Spec = never> {
  batches(task: TaskRow<Spec>, db: Db): AsyncIterable<Batch>;
  /** Takes back what the task has done, newest first; absent where that cannot be. */
  undo?(task: TaskRow<Spec>, db: Db): AsyncIterable<Batch>;
  /** When it is over, however it ended; best effort. */
  after?(task: TaskRow<Spec>, db: Db): Promise<void>;
}

/** The first number of the advisory lock that names one worker per task. */
const TASK_LOCK = 7_712;
export const UNDER_WAY = ['waiting', 'running', 'stopping', 'undoing'];
/** Problems that are kept of one task; the rest are counted. */
const MOST_PROBLEMS = 500;
const TELL_MS = 300;

const TASK = `
  select t.client_id, t.id, t.kind, t.title, t.state, t.spec, t.total, t.done, t.cursor, t.made_by,
    a.name as by_name
  from task t left join account a on a.id = t.made_by`;

export const changedByTask = (task: Pick<TaskRow, 'id' | 'title' | 'by_name'>): ChangedBy => ({
  kind: 'task',
  taskId: task.id,
  name: task.by_name ? `${task.title}, by ${task.by_name}` : task.title,
});

/** Tasks under way at once in a process, each of another client. */
const AT_ONCE = 2;
/**
 * After so long a task makes room where one of another client waits; it goes on where it was when its turn
 * comes again.
 */
const TURN_MS = 10_000;
const MOST_PAUSE_MS = 1_000;

/**
 * Works off tasks: a few at a time in a process, one of each client, in turns, so that the long work of one
 * client holds up nobody else's; any number of processes beside each other. A lock that dies with its
 * connection names who has a task, and every batch is committed with the place where the next one begins:
 * whatever is killed, another goes on from there.
 */
export class Tasks {
  /** By client. */
  readonly #taking: Taking;
  /** When each client's task was last taken, as a count. */
  #turns = new Map<number, number>();
  #taken = 0;
  /** Clients with something that this process has no room for. */
  #waiting = 0;
  constructor(
    private readonly db: Db,
    private readonly clock: Clock,
    private readonly kinds: Record<string, TaskKind<never>>,
    private readonly log: Logger,
    private readonly tell: (clientIds: number[]) => void,
    /** Whether people are being answered right now. */
    private readonly isBusy: () => boolean = () => false,
  ) {
    this.#taking = new Taking(() => this.#look(), log, 'tasks could not be looked for');
  }

  /** Something may be waiting to be done. */
  wake(): void {
    this.#taking.wakeAndGoOn();
  }

  /** Resolves when nothing is left that this process could do. */
  settled(): Promise<void> {
    return this.#taking.settled();
  }

  /** What was committed is kept: a batch that is under way is waited for, however long it takes. */
  stop(): Promise<void> {
    return this.#taking.stop(Infinity);
  }

  /**
   * Takes the oldest task of each client that has none under way here, those first whose turn was longest
   * ago.
   */
  async #look(): Promise<void> {
    const { rows } = await this.db.query<{ id: string; client_id: number }>(
      `
        select distinct on (client_id) id, client_id from task
        where state = any ($1) and client_id <> all ($2::int[]) order by client_id, made_at, id`,
      [UNDER_WAY, this.#taking.keys()],
    );
    const inTurn = rows.sort(
      (one, other) => (this.#turns.get(one.client_id) ?? 0) - (this.#turns.get(other.client_id) ?? 0),
    );
    this.#waiting = inTurn.length;
    for (const { id, client_id } of inTurn) {
      if (this.#taking.isStopped || this.#taking.size >= AT_ONCE) return;
      this.#waiting--;
      this.#turns.set(client_id, ++this.#taken);
      this.#taking.begin(client_id, this.#take(id), (isOver) => isOver === true || this.#waiting > 0);
    }
  }

  /**
   * Works on a task if nobody else does. Never throws; says whether there may be more for the same client.
   */
  async #take(id: string): Promise<boolean> {
    let lock: Connection | undefined;
    let broken: Error | undefined;
    try {
      lock = await this.db.connect();
      const { rows } = await lock.query<{ mine: boolean }>(
        'select pg_try_advisory_lock($1, hashtext($2)) as mine',
        [TASK_LOCK, id],
      );
      if (!rows[0]!.mine) return false;
      try {
        const task = (
          await lock.query<TaskRow<never>>(`${TASK} where t.id = $1 and t.state = any ($2)`, [id, UNDER_WAY])
        ).rows[0];
        if (task) await this.#work(task);
        return task !== undefined && !this.#taking.isStopped;
      } finally {
        await lock.query('select pg_advisory_unlock($1, hashtext($2))', [TASK_LOCK, id]);
      }
    } catch (error) {
      broken = error as Error;
      this.log.error({ task: id, error: broken.message }, 'a task was interrupted and will be gone on with');
      return false;
    } finally {
      lock?.release(broken);
    }
  }

  async #work(task: TaskRow<never>): Promise<void> {
    // Stopped before anything was begun: what it would have begun with may be gone by now.
    if (task.state === 'stopping') {
      await this.#end(task, 'stopped', null);
      return this.tell([task.client_id]);
    }
    const kind = this.kinds[task.kind];
    const undoing = task.state === 'undoing';
    const began = performance.now();
    let told = 0;
    try {
      if (!kind) throw new Error(`there is no task of the kind “${task.kind}”`);
      for await (const batch of undoing ? (kind.undo?.(task, this.db) ?? []) : kind.batches(task, this.db)) {
        if (this.#taking.isStopped) return;
        const batchBegan = performance.now();
        if (!(await this.#batch(task, undoing, batch))) return;
        // While people are answered, long work takes no more than every other moment.
        if (this.isBusy())
          await new Promise((resolve) =>
            setTimeout(resolve, Math.min(MOST_PAUSE_MS, 2 * (performance.now() - batchBegan))),
          );
        if (this.#waiting > 0 && performance.now() - began > TURN_MS) return;
        if (Date.now() - told > TELL_MS) {
          told = Date.now();
          this.tell([task.client_id]);
        }
      }
      await this.#end(task, undoing ? 'undone' : 'done', null);
    } catch (error) {
      if (isDatabaseAway(error)) throw error;
      this.log.error({ task: task.id, kind: task.kind, error: (error as Error).stack }, 'a task failed');
      await this.#end(task, 'failed', sentenceOf(error));
    } finally {
      this.tell([task.client_id]);
    }
    if (!undoing)
      await kind
        ?.after?.(task, this.db)
        .catch((error: Error) =>
          this.log.error({ task: task.id, error: error.message }, 'a task could not be cleared up'),
        );
  }

  /** One batch with its note. False when somebody wants the task to stop. */
  #batch(task: TaskRow<never>, undoing: boolean, batch: Batch): Promise<boolean> {
    return inTransactionAgain(this.db, async (db) => {
      const { rows } = await db.query<{ state: string }>(
        'select state from task where client_id = $1 and id = $2 for update',
        [task.client_id, task.id],
      );
      if (rows[0]?.state === 'stopping') {
        await db.query(
          "update task set state = 'stopped', cursor = null, ended_at = $3 where client_id = $1 and id = $2",
          [task.client_id, task.id, new Date(this.clock.now())],
        );
        return false;
      }
      const { done, cursor, total, counts = {}, problems = [] } = await batch(db);
      await db.query(
        `
         update task
         set state = $3, done = done + $4, cursor = coalesce($5, cursor), total = coalesce($6, total),
           counts = counts ||
             (select coalesce(jsonb_object_agg(key, coalesce((counts ->> key)::int, 0) + value::int), '{}')
             from jsonb_each_text($7::jsonb)),
           problems = case when jsonb_array_length(problems) >= ${MOST_PROBLEMS} then problems
             else problems || $8::jsonb end
         where client_id = $1 and id = $2`,
        [
          task.client_id,
          task.id,
          undoing ? 'undoing' : 'running',
          undoing ? -done : done,
          cursor ?? null,
          total ?? null,
          toJson(counts),
          toJson(problems.slice(0, MOST_PROBLEMS)),
        ],
      );
      return true;
    });
  }

  async #end(
    task: TaskRow<never>,
    state: 'done' | 'undone' | 'stopped' | 'failed',
    failure: string | null,
  ): Promise<void> {
    await this.db.query(
      `
        update task set state = $3, failure = $4, cursor = null, ended_at = $5
        where client_id = $1 and id = $2`,
      [task.client_id, task.id, state, failure, new Date(this.clock.now())],
    );
  }
}

const sentenceOf = (error: unknown) =>
  error instanceof Problem
    ? error.message
    : 'The program met a fault of its own. What was done up to here is kept, and can be undone.';
