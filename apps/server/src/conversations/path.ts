import type { Logger } from 'pino';
import type { Adapters } from '../channels';
import type { HookReading, OpenLine } from '../channels/adapter';
import type { Clock } from '../platform/clock';
import { makeMonths } from '../platform/db/months';
import type { Keyring } from '../platform/keyring';
import { isDatabaseAway, openPool, type Db } from '../platform/db/pool';
import { Deliveries } from '../sync/deliveries';
import { sendDaily } from '../sync/schedule';
import { Errands } from './errands';
import { Lane } from './lane';
import { Leads } from './leads';
import { Lines } from '../lines/lines';
import { dropHeld } from '../sending/held';
import { publishScheduled } from '../loops/publish';
import { planCues } from '../loops/cuePlans';
import { Lookups } from './lookups';
import { Receiver } from './receive';
import { SENDER_LOCK } from '../sending/lineLocks';
import { Sender } from '../sending/sender';
import { AsideAgain } from './asideAgain';
import { leadAside, putAside } from './setAside';
import { Statuses } from '../sending/statuses';
import { Resting } from '../platform/jobs/resting';
import { refreshTemplates } from '../lines/templates';
import { fallDue } from './timers';
import { actionTask } from '../people/actions';
import { convertTask } from '../people/convert';
import { indexUnindexed } from '../people/facts';
import { importTask } from '../people/importing';
import { mergeAlike } from '../people/merge';
import { beginTallies, foldTallies } from '../people/tally';
import { deleteClients } from '../clients/deleting';
import { keepRetention } from '../people/retention';
import { Threads } from '../platform/threads/threads';
import { Tasks } from '../platform/jobs/tasks';
import { watchLines } from '../lines/watch';
import type { Mailer } from '../platform/mail';
import type { Metrics, Waiting } from '../platform/metrics';

/** What could be decided or sent and waits for so long says that we stand still. */
const STANDING_STILL_MS = 30_000;
/** How often the lane looks for itself, should nobody wake it; also how exact timers are. */
const LOOK_MS = 250;
/** The pause after a batch that could not be taken at all, as when the database is away. */
const BATCH_AGAIN_MS = 250;
/** So long after something was decided people count as being answered. */
const BUSY_MS = 1_000;
const TAKE_LINES_MS = 2_000;
/** How often days and silences of newly published cues are looked for. */
const PLAN_MS = 1_000;
/** How often those who have changed are written into the tallies of large clients. */
const FOLD_MS = 5_000;
const DELETE_MS = 5_000;
/** How often clients are looked for that have grown large. */
const TALLIES_MS = 60_000;
/** How often what was held back is looked at. */
const HELD_MS = 60_000;
/** How often tasks are looked for that nobody was woken for, and people who may be one. */
const TASKS_MS = 1_000;
const ALIKE_MS = 30_000;
/** How often what lies aside and is due is tried again. */
const ASIDE_MS = 1_000;
/** How often the partitions of the coming months are seen to. */
const MONTHS_MS = 6 * 3_600_000;

/** What woke the other processes and the open screens: see live.ts. */
export type Tell = (clientIds: number[]) => void;

/**
 * The way of a message through one process: the receiver stores, the lane decides, the sender sends. Any
 * number of processes share the same database; each can be killed at any moment.
 */
export class MessagePath {
  readonly lines: Lines;
  readonly receiver: Receiver;
  readonly lookups: Lookups;
  readonly statuses: Statuses;
  readonly leads: Leads;
  readonly #lane: Lane;
  readonly #sender: Sender;
  readonly #errands: Errands;
  readonly #deliveries: Deliveries;
  readonly #tasks: Tasks;
  readonly #aside: AsideAgain;
  readonly #resting: Resting;
  readonly #threads: Threads;
  readonly #db: Db;
  /** When the lane last decided something, by the process's own clock. */
  #answeredAt = -Infinity;
  #woken = false;
  #stopped = false;
  #running: Promise<void> | null = null;
  #watching: Promise<number[]> | null = null;
  #timers: NodeJS.Timeout[] = [];
  /** What looks by itself from time to time, and is at it now. */
  readonly #looking = new Set<Promise<void>>();

  constructor(
    private readonly options: {
      laneDatabase: string;
      /** The bundle that threads run. */
      threads: string;
      keys: Keyring;
      clock: Clock;
      adapters: Adapters;
      log: Logger;
      tell: Tell;
      chance: () => number;
      /** Whether this process sends; if not, another does. */
      sending: boolean;
      standins: string | null;
      files: string | null;
      mailer: Mailer;
      metrics: Metrics;
      /**
       * How often lines are asked whether they work; null for a process that does not know where their
       * webhooks point.
       */
      watch: { seconds: number; hookAddress: (token: string) => string } | null;
    },
  ) {
    const { laneDatabase, keys, clock, adapters, log, tell, chance } = options;
    const key = keys.root;
    // Every statement of the path has its index; statistics of queues that fill and empty would say
    // otherwise.
    this.#db = openPool(laneDatabase, {
      most: 8,
      name: 'dart-loop lane',
      statementMs: 300_000,
      idleMs: 300_000,
      waitMs: 30_000,
      settings: '-c enable_seqscan=off',
    });
    const { metrics } = options;
    metrics.watchPool('message path', this.#db);
    metrics.watchWaiting(() => this.#waiting());
    this.lines = new Lines(this.#db, keys);
    this.receiver = new Receiver(this.#db, clock, log, () => this.wake());
    this.lookups = new Lookups(this.#db, clock);
    this.statuses = new Statuses(this.#db, clock, tell);
    this.leads = new Leads(this.#db, this.lines);
    this.#lane = new Lane(this.#db, clock, log);
    this.#sender = new Sender(this.#db, clock, adapters, this.lines, log, tell, chance, metrics);
    this.#threads = new Threads(options.threads);
    this.#resting = new Resting(clock, log);
    this.#aside = new AsideAgain(this.#db, {
      clock,
      log,
      lines: this.lines,
      leads: this.leads,
      receiver: this.receiver,
      adapters,
      store: (line, reading) => this.store(line, reading),
      chance,
      wake: () => this.wake(),
      tell,
    });
    this.#tasks = new Tasks(
      this.#db,
      clock,
      {
        import: importTask(clock, key, this.#threads),
        action: actionTask(clock, key),
        convert: convertTask(clock),
      },
      log,
      (clientIds) => {
        tell(clientIds);
        this.wake();
      },
      () => performance.now() - this.#answeredAt < BUSY_MS,
    );
    const { standins, files, mailer } = this.options;
    this.#deliveries = new Deliveries(this.#db, { clock, log, keys, standins, files, chance, tell });
    this.#errands = new Errands(this.#db, {
      clock,
      log,
      lines: this.lines,
      adapters,
      key,
      standins,
      mailer,
      chance,
      answered: () => this.wake(),
    });
  }

  async start(): Promise<void> {
    const { clock, tell, keys } = this.options;
    await this.#takeLines();
    // What an earlier process left unsent.
    await this.#sender.wake();
    this.wake();
    const every = (ms: number, what: string, work: () => Promise<unknown>) => {
      let looking: Promise<void> | null = null;
      const once = () => {
        // One that takes longer than its pause, or waits for the database, is not begun again beside itself.
        if (looking || this.#stopped) return;
        const begun = work()
          .then(
            () => undefined,
            (error: Error) => void (this.#stopped || this.options.log.error({ error: error.message }, what)),
          )
          .finally(() => {
            looking = null;
            this.#looking.delete(begun);
          });
        looking = begun;
        this.#looking.add(begun);
      };
      this.#timers.push(setInterval(once, ms));
    };
    while (await indexUnindexed(this.#db));
    const makeMonthsAhead = () => makeMonths(this.#db, clock.now());
    await makeMonthsAhead();
    every(MONTHS_MS, 'the months ahead could not be made', makeMonthsAhead);
    every(LOOK_MS, 'the lane could not look', async () => {
      await fallDue(this.#db, this.options.clock);
      this.wake();
      if (this.options.sending) {
        await this.#errands.wake();
        await this.#deliveries.wake();
      }
    });
    every(ASIDE_MS, 'what lies aside could not be tried again', () => this.#aside.run());
    every(TASKS_MS, 'tasks could not be looked for', async () => this.#tasks.wake());
    every(ALIKE_MS, 'people could not be made one', async () =>
      tell(await mergeAlike(this.#db, clock.now(), this.#resting)),
    );
    every(MONTHS_MS, 'what is kept no longer could not be let go of', async () => {
      while (!this.#stopped && (await keepRetention(this.#db, clock.now(), keys.root, this.#resting)));
    });
    every(DELETE_MS, 'clients that are to be deleted could not be let go of', async () => {
      const { files } = this.options;
      while (!this.#stopped && (await deleteClients(this.#db, clock.now(), files, this.#resting)));
    });
    every(FOLD_MS, 'changes could not be written into the tallies', async () => {
      while (!this.#stopped && (await foldTallies(this.#db, clock, this.#resting)));
    });
    every(TALLIES_MS, 'tallies could not be begun', () => beginTallies(this.#db));
    every(PLAN_MS, 'cues could not be planned', () => planCues(this.#db, this.options.clock, this.#resting));
    every(PLAN_MS, 'what was scheduled could not be published', async () => {
      const clients = await publishScheduled(this.#db, clock, this.#threads);
      if (clients.length > 0) tell(clients);
    });
    every(PLAN_MS, 'what is sent every day could not be noted', async () => {
      const clients = await sendDaily(this.#db, clock, this.#resting);
      if (clients.length === 0) return;
      this.#tasks.wake();
      tell(clients);
    });
    every(HELD_MS, 'what was held too long could not be dropped', async () =>
      tell(await dropHeld(this.#db, clock)),
    );
    const { watch, sending } = this.options;
    if (watch && sending)
      every(watch.seconds * 1_000, 'lines could not be asked whether they work', async () => {
        // A channel that does not answer takes longer than the pause between two askings.
        this.#watching ??= watchLines(
          this.#db,
          this.#sender.ownLines(),
          this.lines,
          this.options.adapters,
          watch.hookAddress,
          clock,
          this.options.log,
        );
        tell(await this.#watching.finally(() => (this.#watching = null)));
      });
    every(TAKE_LINES_MS, 'lines could not be taken over', async () => {
      await this.#takeLines();
      await this.#sender.wake();
      await this.noteLines();
    });
  }

  /** Stores what a request of a platform says; resolves once it is durable. */
  async store(line: OpenLine, reading: HookReading): Promise<void> {
    const { adapters, clock, log, metrics } = this.options;
    const adapter = adapters[line.channel];
    const stored = metrics.storing.startTimer({ channel: line.channel });
    await this.lookups.complete(reading.received, line, adapter);
    await this.receiver.store(line, reading);
    for (const lead of reading.leads ?? []) {
      // What cannot be asked for now is asked for later; nothing else of the request waits for it.
      const met = await this.leads.meet(lead, line, adapter).catch((error: unknown) => {
        if (isDatabaseAway(error)) throw error;
        log.error(
          { line: line.id, error: (error as Error).message },
          'a lead form could not be met and is put aside',
        );
        return null;
      });
      if (met) await this.receiver.store(met.line, met.reading);
      else await putAside(this.#db, [leadAside(line, lead, clock.now())], clock.now());
    }
    await this.statuses.store(line, reading.statuses ?? []);
    metrics.received.inc({ channel: line.channel }, reading.received.length);
    stored();
    if (reading.templatesChanged)
      this.refreshTemplates(line).catch((error: Error) =>
        log.error({ line: line.id, error: error.message }, 'templates could not be read'),
      );
  }

  /** The channel has other templates for the line than it had. */
  async refreshTemplates(line: OpenLine): Promise<void> {
    if (await refreshTemplates(this.#db, this.options.adapters[line.channel], line))
      this.options.tell([line.clientId]);
  }

  /** Somebody has made a task, or something that the lane is to hear of. */
  wakeTasks(): void {
    this.#tasks.wake();
    this.wake();
  }

  /** Something may be waiting to be decided. */
  wake(): void {
    this.#woken = true;
    this.#running ??= this.#run().finally(() => {
      this.#running = null;
      if (this.#woken && !this.#stopped) this.wake();
    });
  }

  /** Lines have changed: connected, renewed or disconnected. */
  async linesChanged(): Promise<void> {
    this.#sender.release();
    await this.#takeLines();
    await this.#sender.wake();
  }

  /** Writes down when each line was last heard and last sent; done by itself now and then. */
  async noteLines(): Promise<void> {
    await this.#sender.noteSent();
    const heard = await this.receiver.noteHeard();
    if (heard.length > 0) this.options.tell(heard);
  }

  /**
   * Why what people write is not answered, in words: something that could be decided or sent has waited for
   * half a minute. Null while all is well.
   */
  async standsStill(): Promise<string | null> {
    const since = this.options.clock.now() - STANDING_STILL_MS;
    // The oldest rows tell: they are taken first.
    const { rows } = await this.#db.query<{ undecided: boolean; unsent: boolean }>({
      name: 'stands-still',
      text: `
        select exists (select from (select ready_at from pending order by id limit 200) p
          where ready_at <= $1) as undecided,
        exists (select from line l where l.secrets is not null
          and exists (select from message m where m.line_id = l.id and m.status = 'queued'
            and m.made_at <= $1)
          and not exists (select from pg_locks k where k.locktype = 'advisory' and k.classid = ${SENDER_LOCK}
            and k.objid = l.id and k.granted)) as unsent`,
      values: [new Date(since)],
    });
    if (rows[0]!.undecided)
      return 'something that people wrote more than half a minute ago is not decided yet';
    if (rows[0]!.unsent)
      return 'messages wait for more than half a minute on a line that no process sends for';
    return this.#sender.standsStill(since)
      ? 'messages wait for more than half a minute on a line that nothing holds'
      : null;
  }

  /** What waits, for the figures. */
  async #waiting(): Promise<Waiting> {
    const now = new Date(this.options.clock.now());
    const { rows } = await this.#db.query<Waiting>({
      name: 'waiting',
      text: `
        select p.*, m.*, (select count(*) from delivery where status = 'waiting')::int as deliveries,
          (select count(*) from delivery where status = 'shelf')::int as "failedDeliveries",
          (select count(*) from task where state in ('waiting', 'running', 'stopping', 'undoing'))::int as tasks,
          (select count(*) from aside)::int as aside,
          (select count(*) from line where failing_since is not null)::int as "failingLines"
        from (select count(*)::int as undecided,
            greatest(0, coalesce(extract(epoch from $1 - min(ready_at)), 0))::float as "undecidedAge"
          from pending where ready_at <= $1) p,
          (select count(*)::int as unsent,
            greatest(0, coalesce(extract(epoch from $1 - min(made_at)), 0))::float as "unsentAge"
          from message where status = 'queued') m`,
      values: [now],
    });
    return rows[0]!;
  }

  /**
   * Resolves when nothing is waiting to be decided; for tests and the demo's loading, where nothing else
   * arrives meanwhile.
   */
  async settled(): Promise<void> {
    while (await planCues(this.#db, this.options.clock, this.#resting));
    while (await this.#aside.run());
    // What was begun by itself holds what we have just passed over.
    await Promise.all(this.#looking);
    await fallDue(this.#db, this.options.clock);
    this.wake();
    while (this.#running) await this.#running;
    await this.#errands.wake();
    await this.#deliveries.wake();
    await this.#sender.wake();
    await this.#tasks.settled();
  }

  async #takeLines(): Promise<void> {
    if (this.options.sending) await this.#sender.takeLines();
  }

  async stop(): Promise<void> {
    this.#stopped = true;
    for (const timer of this.#timers) clearInterval(timer);
    await this.#running;
    await this.#tasks.stop();
    await this.#errands.stop();
    await this.#deliveries.stop();
    await this.#sender.stop();
    await this.#threads.stop();
    await this.#db.end();
  }

  async #run(): Promise<void> {
    while (this.#woken && !this.#stopped) {
      this.#woken = false;
      try {
        for (
          let done = await this.#lane.runBatch();
          done && done.events > 0 && !this.#stopped;
          done = await this.#lane.runBatch()
        ) {
          this.#answeredAt = performance.now();
          this.options.metrics.decided.inc(done.events);
          if (done.messages > 0)
            void this.#sender
              .wake()
              .catch((error: Error) =>
                this.options.log.error({ error: error.message }, 'the sender could not be woken'),
              );
          if (done.errands > 0 && this.options.sending)
            void this.#errands
              .wake()
              .catch((error: Error) =>
                this.options.log.error({ error: error.message }, 'errands could not be taken'),
              );
          this.options.tell(done.clientIds);
        }
      } catch (error) {
        this.options.log.error({ error: (error as Error).message }, 'a batch failed and will be taken again');
        await new Promise((resolve) => setTimeout(resolve, BATCH_AGAIN_MS));
        this.#woken = true;
      }
    }
  }
}
