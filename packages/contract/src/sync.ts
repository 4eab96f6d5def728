import { z } from 'zod';
import { Condition } from '@dart-loop/core/people/condition';
import type { DestinationKindName } from '@dart-loop/core/sync/kinds/index';
import { ContactSettings } from '@dart-loop/core/sync/kinds/contact';
import { FileSettings } from '@dart-loop/core/sync/kinds/file';
import { RowsSettings } from '@dart-loop/core/sync/kinds/rows';
import { WebhookSettings } from '@dart-loop/core/sync/kinds/webhook';
import { TimeOfDay } from '@dart-loop/core/time/clockTime';
import { OutsideAddress } from '@dart-loop/core/engine/steps/outsideAddress';
import { Mapping, type MappingFinding, type Row, type TheirColumn } from '@dart-loop/core/sync/mapping';

const AnyOr = z.union([z.literal('any'), z.array(z.string().min(1).max(100)).max(100)]);

/**
 * What brings a delivery about: a change of any of these, a run of a loop that is finished, or, of everybody
 * it is for, a time of every day by the client's clock.
 */
export const Triggers = z
  .object({
    fields: AnyOr.optional(),
    tags: AnyOr.optional(),
    lists: AnyOr.optional(),
    runs: AnyOr.optional(),
    /** Bookings that are made, moved or cancelled, by the names of their calendars. */
    bookings: AnyOr.optional(),
    daily: z.object({ at: TimeOfDay }).strict().optional(),
  })
  .strict();
export type Triggers = z.infer<typeof Triggers>;

const Kept = {
  name: z.string().trim().min(1, 'a destination needs a name').max(60, 'the name has at most 60 characters'),
  mapping: Mapping,
  triggers: Triggers,
  /** Whom it is for; null: everybody. */
  who: Condition.nullable().default(null),
  /** A new bearer token; left out, the one that is kept stays. */
  token: z.string().trim().min(1).max(2_000).optional(),
};
export const SaveDestination = z.discriminatedUnion('kind', [
  z.object({ kind: z.literal('webhook'), settings: WebhookSettings, ...Kept }).strict(),
  z.object({ kind: z.literal('contact'), settings: ContactSettings, ...Kept }).strict(),
  z.object({ kind: z.literal('rows'), settings: RowsSettings, ...Kept }).strict(),
  z
    .object({
      kind: z.literal('file'),
      settings: FileSettings,
      ...Kept,
      triggers: Triggers.pick({ daily: true }).strict(),
    })
    .strict(),
]) satisfies z.ZodType<{ kind: DestinationKindName }>;
export type SaveDestination = z.infer<typeof SaveDestination>;

export const SetDestinationState = z.object({ state: z.enum(['off', 'on', 'paused']) }).strict();
export const TryDestination = z.object({ personId: z.uuid() }).strict();
/** Deliveries of the shelf that are to go out again: these, or all. */
export const Replay = z
  .object({ ids: z.union([z.literal('all'), z.array(z.uuid()).min(1).max(1_000)]) })
  .strict();
export const DELIVERY_SHELVES = ['all', 'waiting', 'shelf'] as const;
export const DeliveriesQuery = z.object({
  of: z.enum(DELIVERY_SHELVES).default('all'),
  before: z.coerce.number().int().positive().optional(),
});

export interface DestinationRow {
  id: string;
  name: string;
  kind: DestinationKindName;
  /** The kind in words. */
  what: string;
  /** The host it goes to; null: into a folder of the server. */
  host: string | null;
  state: 'off' | 'on' | 'paused';
  waiting: number;
  shelf: number;
  failingSince: string | null;
  failure: string | null;
  /** Nothing is tried before. */
  resumesAt: string | null;
  lastOkAt: string | null;
}
export interface DestinationPage extends DestinationRow {
  /** Another one as soon as somebody changes how it is set up. */
  revision: string;
  settings: SaveDestination['settings'];
  /** The last four characters of its token. */
  hint: string | null;
  mapping: Mapping;
  triggers: Triggers;
  who: Condition | null;
  columns: TheirColumn[] | null;
  findings: MappingFinding[];
}
/** Another client of the account's, as a destination is copied to it. */
export interface CopyRow {
  client: string;
  name: string;
  /** The destination of the same name that the client has; null: none yet. */
  copy: { id: string; host: string | null; state: DestinationRow['state']; hint: string | null } | null;
  /** What the copy has otherwise; empty where it is the same, or not there. */
  differences: string[];
  /** Fields that it would be given. */
  missingFields: string[];
  /** Loops and calendars that its triggers name and that the client has not, in sentences. */
  missingNames: string[];
}
/** Clients that a destination is copied to, each with its own token and address where they are given. */
export const CopyDestination = z
  .object({
    to: z
      .array(
        z
          .object({
            client: z.string().min(1).max(80),
            token: z.string().trim().min(1).max(2_000).optional(),
            address: OutsideAddress.optional(),
          })
          .strict(),
      )
      .min(1, 'choose at least one client')
      .max(200),
  })
  .strict();
export type CopyDestination = z.infer<typeof CopyDestination>;

/** A row as it would go out, of somebody who was met lately. */
export interface PreviewRow extends Row {
  personId: string;
  name: string;
  /** Why nothing goes out of them, where nothing does. */
  leftOut: string | null;
}
export interface CallView {
  request: { method: string; address: string; headers?: Record<string, string>; body: unknown };
  answer: { status: number; body: unknown } | { silence: string };
  ms: number;
}
export interface AttemptView {
  n: number;
  at: string;
  ms: number;
  ok: boolean;
  reason: string;
  calls: CallView[];
}
export interface DeliveryRow {
  id: string;
  n: number;
  /** Null for a file of everybody. */
  personId: string | null;
  name: string;
  status: 'waiting' | 'done' | 'shelf' | 'left out';
  isTest: boolean;
  causes: string[];
  attempts: number;
  outcome: string | null;
  madeAt: string;
  dueAt: string;
  endedAt: string | null;
}
export interface DeliveryPage extends DeliveryRow {
  tries: AttemptView[];
}
