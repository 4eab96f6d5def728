import { NUMBER_KINDS, type NumberKind } from '@dart-loop/core/channels/numberKinds';
import { z } from 'zod';
import { Menus, type ChannelKind, type Template } from '@dart-loop/core';

/** What the three Graph-style channels ask for. */
const app = { token: z.string().max(600), appId: z.string().max(40), appSecret: z.string().max(100) };

/** What a renewal leaves out stays as it is. */
const renews = z.number().int().optional();
export const ConnectLine = z.discriminatedUnion('channel', [
  z.object({ channel: z.literal('messenger'), renews, ...app }),
  z.object({ channel: z.literal('instagram'), renews, ...app }),
  z.object({
    channel: z.literal('whatsapp'),
    renews,
    ...app,
    numberId: z.string().max(40),
    wabaId: z.string().max(40),
  }),
  z.object({ channel: z.literal('telegram'), renews, token: z.string().max(200) }),
  z.object({
    channel: z.literal('sms'),
    renews,
    number: z.string().max(40),
    numberKind: z
      .enum(Object.keys(NUMBER_KINDS) as [NumberKind, ...NumberKind[]])
      .or(z.literal(''))
      .default(''),
    key: z.string().max(200),
    signing: z.string().max(200),
  }),
]);
export type ConnectLine = z.infer<typeof ConnectLine>;

/** A line for trying out: the test phone alone can write to it. */
export const TrialLine = z.object({
  channel: z.enum(['messenger', 'instagram', 'whatsapp', 'telegram', 'sms']),
});
export type TrialLine = z.infer<typeof TrialLine>;

/**
 * How many messages that nobody asked for may go in a day (of the client's zone), on the line and to one
 * person.
 */
export const LineCaps = z.object({
  perDay: z.number().int().min(1, 'at least 1 a day, or no cap').max(1_000_000).nullable(),
  perPerson: z.number().int().min(1, 'at least 1 a day, or no cap').max(1_000).nullable(),
});
export type LineCaps = z.infer<typeof LineCaps>;

/** Something that the platform says of a line, beside whether it works. */
export interface PlatformNote {
  /** For a machine: `undelivered`, `not handed over`, `quality`, `limit`. */
  code: string;
  tone: 'quiet' | 'warning';
  words: string;
  /** When it happened, where it is of a moment. */
  at: string | null;
}

export interface LineRow {
  id: number;
  key: string;
  name: string;
  channel: ChannelKind;
  webhook: string;
  /** What had to be typed besides secrets. */
  known: Record<string, string>;
  /** Secrets by name, as their last four characters. */
  hints: Record<string, string>;
  /** For trying out: the test phone alone writes to it, and nothing leaves this machine. */
  trial: boolean;
  state: 'never heard' | 'connected' | 'failing';
  connectedAt: string | null;
  lastHeardAt: string | null;
  lastSentAt: string | null;
  failingSince: string | null;
  failure: { reason: string; remedy: string } | null;
  /** What the platform says of it. */
  notes: PlatformNote[];
  /** What could not be sent in the last seven days, or waits, by cause, the most frequent first. */
  failures: { reason: string; remedy: string; count: number; waits: boolean }[];
  /** What may be sent where the window is shut, where the channel approves such. */
  templates: Pick<Template, 'name' | 'language' | 'status' | 'body'>[];
  caps: LineCaps;
  /** Messages that nobody asked for, since midnight. */
  unaskedToday: number;
  /** Messages that wait to be sent. */
  held: number;
  /** Signed requests that were not understood. */
  aside: number;
}

/** The menus of a line: as wanted here, as the channel has them, and what hears them. */
export interface MenusPage {
  wanted: Menus;
  /** Null where the channel could not be asked: then `problem` says why. */
  there: Menus | null;
  problem: string | null;
  /** A sentence for each difference between the two. */
  differences: string[];
  /** The items that a live loop hears on the line. */
  heard: { item: string; loop: string }[];
}
export { Menus };

/** Something that could not be processed on a line. */
export interface AsideItem {
  id: number;
  kind: 'not understood' | 'not stored' | 'not decided' | 'lead form';
  /** Why, without its full stop. */
  reason: string;
  /** Its shape, with everything of people masked. */
  masked: string;
  at: string;
  tries: number;
  /** When it is tried again by itself, or now; null: it waits for somebody. */
  againAt: string | null;
  conversationId: string | null;
}
export interface AsidePage {
  total: number;
  /** The newest first. */
  items: AsideItem[];
}
