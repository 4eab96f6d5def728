import { z } from 'zod';

const entry = z.string().trim().max(400);

/** The client's facts, kept once and merged anywhere as `{{ brief.phone }}`. */
export const Brief = z
  .object({
    hours: entry,
    address: entry,
    phone: entry,
    booking_link: entry,
    privacy_link: entry,
    tone: entry,
  })
  .partial()
  .catchall(entry);
export type Brief = z.infer<typeof Brief>;

export const CHANNEL_KINDS = ['telegram', 'sms'] as const;
export const ChannelKind = z.enum(CHANNEL_KINDS);
export type ChannelKind = z.infer<typeof ChannelKind>;

/** The client as a run sees it. `country` is ISO 3166-1 alpha-2 and decides how local phone numbers are read. */
export interface ClientFacts {
  name: string;
  brief: Brief;
  country: string;
  timeZone: string;
}

/** The line a conversation is on. */
export interface LineFacts {
  key: string;
  name: string;
  channel: ChannelKind;
}
