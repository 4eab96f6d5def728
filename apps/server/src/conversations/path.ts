import type { HookReading, OpenLine } from '../channels/adapter';
import { makeMonths } from '../platform/db/months';
import { isDatabaseAway, type Db } from '../platform/db/pool';
import { Deliveries } from '../sync/deliveries';
import { Errands } from './errands';
import { Lane } from './lane';
import { Leads } from './leads';
import { Lines } from '../lines/lines';
import { planCues } from '../loops/cuePlans';
import { Lookups } from './lookups';
import { Receiver } from './receive';
import { Sender } from '../sending/sender';
import { AsideAgain } from './asideAgain';
import { leadAside, putAside } from './setAside';
import { Statuses } from '../sending/statuses';
import { Resting } from '../platform/jobs/resting';
import { Rounds } from '../platform/jobs/rounds';
import { refreshTemplates } from '../lines/templates';
import { fallDue } from './timers';
import { storeOf } from '../files/store';
import { beginBackground } from './background';
import type { PathOptions } from './pathOptions';
import { pathPools } from './pathPools';
import { oldestWaiting, waitingNow } from './waiting';
import { actionTask } from '../people/actions';
import { Answers } from '../answers/answers';
import { HostedModels } from '../answers/hosted/hostedModels';
import { READ_SITE } from '../answers/siteReading';
import { siteTask } from '../answers/siteTask';
import { convertTask } from '../people/convert';
import { indexUnindexed } from '../people/facts';
import { importTask } from '../people/importing';
import { Threads } from '../platform/threads/threads';
import { Tasks } from '../platform/jobs/tasks';
import { watchLines } from '../lines/watch';

/** What could be decided or sent and waits for so long says that we stand still. */
const STANDING_STILL_MS = 30_000;
/** How often the lane looks for itself, should nobody wake it; also how exact timers are. */
const LOOK_MS = 250;
/** The pause after a batch that could not be taken at all, as when the database is away. */
const BATCH_AGAIN_MS = 250;
/** So long after something was decided people count as being answered. */
const BUSY_MS = 1_000;
const TAKE_LINES_MS = 2_000;
/** How often what lies aside and is due is tried again. */
const ASIDE_MS = 1_000;

/** How often deliveries are looked for, should nobody have said that some are due. */
const DELIVERIES_MS = 2_000;
/** For so long a delivery gathers changes: see note_for_destinations. */
const GATHERED_MS = 1_010;

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
  readonly threads: Threads;
  readonly #answers: Answers;
  readonly #db: Db;
  readonly #background: Db;
  /** When the lane last decided something, by the process's own clock. */
  #answeredAt = -Infinity;
  #woken = false;
  #stopped = false;
  #running: Promise<void> | null = null;
  #watching: Promise<number[]> | null = null;
  readonly #rounds: Rounds;
  #deliveriesDue: NodeJS.Timeout | null = null;

  constructor(private readonly options: PathOptions) {
    const { laneDatabase, keys, clock, adapters, log, tell, chance } = options;
    const key = keys.root;
    const { metrics } = options;
    const pools = pathPools(laneDatabase, metrics);
    this.#db = pools.path;
    this.#background = pools.background;
    metrics.watchWaiting(() => waitingNow(this.#db, clock.now()));
    this.lines = new Lines(this.#db, keys);
    this.receiver = new Receiver(this.#db, clock, log, () => this.wake());
    this.lookups = new Lookups(this.#db, clock);
    this.statuses = new Statuses(this.#db, clock, tell);
    this.leads = new Leads(this.#db, this.lines);
    this.#lane = new Lane(this.#db, clock, log);
    this.#sender = new Sender(this.#db, clock, adapters, this.lines, log, tell, chance, metrics);
    this.threads = new Threads(options.threads);
    this.#answers = new Answers(this.#background, this.threads, clock);
    this.#resting = new Resting(clock, log);
    this.#rounds = new Rounds(log);
    this.#aside = new AsideAgain(this.#background, {
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
      this.#background,
      clock,
      {
        import: importTask(clock, key, this.threads),
        action: actionTask(clock, key),
        convert: convertTask(clock),
        [READ_SITE]: siteTask(clock, this.threads, { standins: options.standins }),
      },
      log,
      (clientIds) => {
        tell(clientIds);
        this.wake();
      },
      () => performance.now() - this.#answeredAt < BUSY_MS,
    );
    const { standins, files, mailer } = this.options;
    this.#deliveries = new Deliveries(this.#background, { clock, log, keys, standins, files, chance, tell });
    this.#errands = new Errands(this.#db, {
      clock,
      log,
      lines: this.lines,
      adapters,
      key,
      standins,
      mailer,
      models: new HostedModels(this.#background, { answers: this.#answers, keys, clock, log, standins }),
      chance,
      answered: () => this.wake(),
    });
  }

  async start(): Promise<void> {
    const { clock, tell, keys, files } = this.options;
    await this.#takeLines();
    // What an earlier process left unsent.
    await this.#sender.wake();
    this.wake();
    while (await indexUnindexed(this.#background));
    await makeMonths(this.#background, clock.now());
    beginBackground(this.#rounds, {
      ...{ db: this.#background, answers: this.#answers, threads: this.threads, resting: this.#resting },
      rootKey: keys.root,
      clock,
      tell,
      files,
      store: storeOf(this.options.store),
      tasksWaiting: () => this.#tasks.wake(),
    });
    const every = this.#rounds.every.bind(this.#rounds);
    every(LOOK_MS, 'the lane could not look', async () => {
      await fallDue(this.#db, clock);
      this.wake();
      if (this.options.sending) await this.#errands.wake();
    });
    // What is due at once wakes it: see deliveriesNoted.
    every(DELIVERIES_MS, 'deliveries could not be looked for', async () => {
      if (this.options.sending) await this.#deliveries.wake();
    });
    every(ASIDE_MS, 'what lies aside could not be tried again', () => this.#aside.run());
    const { watch, sending } = this.options;
    if (watch && sending)
      every(watch.seconds * 1_000, 'lines could not be asked whether they work', async () => {
        // A channel that does not answer takes longer than the pause between two askings.
        this.#watching ??= watchLines(
          this.#background,
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
    const adapter = adapters.of(line);
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
    if (await refreshTemplates(this.#db, this.options.adapters.of(line), line))
      this.options.tell([line.clientId]);
  }

  /** Somebody has made a task, or something that the lane is to hear of. */
  wakeTasks(): void {
    this.#tasks.wake();
    this.wake();
  }

  /** Deliveries have been noted, and are due in `ms`: at first for so long as others may join them. */
  deliveriesNoted(ms = GATHERED_MS): void {
    if (!this.options.sending || this.#stopped || this.#deliveriesDue) return;
    this.#deliveriesDue = setTimeout(() => {
      this.#deliveriesDue = null;
      this.#deliveries.wakeAndGoOn();
    }, ms);
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
    const { undecided, unsent } = await oldestWaiting(this.#db, since);
    if (undecided) return 'something that people wrote more than half a minute ago is not decided yet';
    if (unsent) return 'messages wait for more than half a minute on a line that no process sends for';
    return this.#sender.standsStill(since)
      ? 'messages wait for more than half a minute on a line that nothing holds'
      : null;
  }

  /**
   * Resolves when nothing is waiting to be decided; for tests and the demo's loading, where nothing else
   * arrives meanwhile.
   */
  async settled(): Promise<void> {
    while (await planCues(this.#background, this.options.clock, this.#resting));
    while (await this.#aside.run());
    // What was begun by itself holds what we have just passed over.
    await this.#rounds.finished();
    await fallDue(this.#db, this.options.clock);
    this.wake();
    while (this.#running) await this.#running;
    await this.#errands.settled();
    while (this.#running) await this.#running;
    await this.#deliveries.wake();
    await this.#sender.wake();
    await this.#tasks.settled();
  }

  #takeLines = async (): Promise<void> => (this.options.sending ? this.#sender.takeLines() : undefined);

  async stop(): Promise<void> {
    this.#stopped = true;
    this.#rounds.stop();
    if (this.#deliveriesDue) clearTimeout(this.#deliveriesDue);
    await this.#running;
    await this.#tasks.stop();
    await this.#errands.stop();
    await this.#deliveries.stop();
    await this.#sender.stop();
    await this.threads.stop();
    await this.#background.end();
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
          if (done.errands > 0 && this.options.sending) this.#errands.wakeAndGoOn();
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
