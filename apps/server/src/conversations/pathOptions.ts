import type { Logger } from 'pino';
import type { Adapters } from '../channels';
import type { Clock } from '../platform/clock';
import type { Keyring } from '../platform/keyring';
import type { Mailer } from '../platform/mail';
import type { Metrics } from '../platform/metrics';

/** What woke the other processes and the open screens: see live.ts. */
export type Tell = (clientIds: number[]) => void;

/** What the way of a message through a process needs. */
export interface PathOptions {
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
  /** Where the clients' own files stand: a folder or a bucket. */
  store: string | null;
  mailer: Mailer;
  metrics: Metrics;
  /**
   * How often lines are asked whether they work; null for a process that does not know where their
   * webhooks point.
   */
  watch: { seconds: number; hookAddress: (token: string) => string } | null;
}
