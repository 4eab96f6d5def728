import { Counter, Gauge, Histogram, Registry, collectDefaultMetrics } from 'prom-client';
import type pg from 'pg';

/** Seconds, from a quick answer to one that a platform gives up on. */
const SECONDS = [0.005, 0.01, 0.025, 0.05, 0.1, 0.25, 0.5, 1, 2.5, 5, 10, 30];

/** What stands in the database and waits, as one look tells it. Ages in seconds, 0 where nothing waits. */
export interface Waiting {
  undecidedAge: number;
  undecided: number;
  unsentAge: number;
  unsent: number;
  deliveries: number;
  failedDeliveries: number;
  tasks: number;
  aside: number;
  failingLines: number;
}

/** The figures of one process, in the form that Prometheus reads. Nothing of people or texts is in them. */
export class Metrics {
  readonly registry = new Registry();
  /** Events that platforms have handed in and that are stored. */
  readonly received = new Counter({
    name: 'dartloop_events_received_total',
    help: 'Events that platforms have handed in',
    labelNames: ['channel'] as const,
    registers: [this.registry],
  });
  /** How long it took to store one request of a platform, until it was answered. */
  readonly storing = new Histogram({
    name: 'dartloop_webhook_seconds',
    help: 'From a webhook’s body to its answer',
    labelNames: ['channel'] as const,
    buckets: SECONDS,
    registers: [this.registry],
  });
  readonly decided = new Counter({
    name: 'dartloop_events_decided_total',
    help: 'Events that were decided, set aside or let go',
    registers: [this.registry],
  });
  /** What became of one try of a message: sent, queued (tried again), held or failed. */
  readonly sends = new Counter({
    name: 'dartloop_sends_total',
    help: 'Tries to send a message, by what became of it',
    labelNames: ['line', 'channel', 'result'] as const,
    registers: [this.registry],
  });
  /** From when a message was made to when its channel had taken it. */
  readonly sending = new Histogram({
    name: 'dartloop_send_seconds',
    help: 'From the making of a message to the channel’s answer',
    labelNames: ['channel'] as const,
    buckets: SECONDS,
    registers: [this.registry],
  });

  constructor() {
    collectDefaultMetrics({ register: this.registry });
  }

  /** Connections of a pool, in use, idle and waited for. */
  watchPool(name: string, pool: pg.Pool): void {
    this.#pools.set(name, pool);
    if (this.#pools.size > 1) return;
    const pools = this.#pools;
    new Gauge({
      name: 'dartloop_pool_connections',
      help: 'Connections to the database, by pool and state',
      labelNames: ['pool', 'state'] as const,
      registers: [this.registry],
      collect() {
        for (const [of, { totalCount, idleCount, waitingCount }] of pools) {
          this.set({ pool: of, state: 'in use' }, totalCount - idleCount);
          this.set({ pool: of, state: 'idle' }, idleCount);
          this.set({ pool: of, state: 'waited for' }, waitingCount);
        }
      },
    });
  }
  readonly #pools = new Map<string, pg.Pool>();

  /** What waits in the database, looked at when it is asked for: once for all figures of one asking. */
  watchWaiting(look: () => Promise<Waiting>): void {
    let looking: Promise<Waiting | null> | null = null;
    const waiting = () =>
      (looking ??= look()
        .catch(() => null)
        .finally(() => (looking = null)));
    const gauge = (name: string, help: string, of: (waiting: Waiting | null) => number) =>
      new Gauge({
        name: `dartloop_${name}`,
        help,
        registers: [this.registry],
        async collect() {
          this.set(of(await waiting()));
        },
      });
    for (const [key, name, help] of WAITING) gauge(name, help, (now) => (now ? now[key] : Number.NaN));
    gauge('database_reachable', '1 where the database answered this very look', (now) => (now ? 1 : 0));
  }
}

const WAITING: [key: keyof Waiting, name: string, help: string][] = [
  ['undecidedAge', 'undecided_oldest_seconds', 'Age of the oldest event that may be decided'],
  ['undecided', 'undecided', 'Events that may be decided'],
  ['unsentAge', 'unsent_oldest_seconds', 'Age of the oldest message that waits to be sent'],
  ['unsent', 'unsent', 'Messages that wait to be sent'],
  ['deliveries', 'deliveries_waiting', 'Deliveries that wait'],
  ['failedDeliveries', 'deliveries_failed', 'Deliveries that failed for good and can be sent again'],
  ['tasks', 'tasks', 'Long tasks that wait or run'],
  ['aside', 'set_aside', 'What could not be processed and lies aside'],
  ['failingLines', 'lines_failing', 'Lines that are failing'],
];
