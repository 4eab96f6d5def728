import { z } from 'zod';
import type { ChannelKind } from '@dart-loop/core';

/** What the three Graph-style channels ask for. */
const app = { token: z.string().max(600), appId: z.string().max(40), appSecret: z.string().max(100) };

export const ConnectLine = z.discriminatedUnion('channel', [
  z.object({ channel: z.literal('messenger'), ...app }),
  z.object({ channel: z.literal('instagram'), ...app }),
  z.object({ channel: z.literal('whatsapp'), ...app, numberId: z.string().max(40), wabaId: z.string().max(40) }),
  z.object({ channel: z.literal('telegram'), token: z.string().max(200) }),
  z.object({ channel: z.literal('sms'), number: z.string().max(40), key: z.string().max(200), signing: z.string().max(200) }),
]);
export type ConnectLine = z.infer<typeof ConnectLine>;

export interface LineRow {
  id: number;
  key: string;
  name: string;
  channel: ChannelKind;
  webhook: string;
  /** Secrets by name, as their last four characters. */
  hints: Record<string, string>;
  state: 'never heard' | 'connected' | 'failing';
  connectedAt: string | null;
  lastHeardAt: string | null;
  lastSentAt: string | null;
  failingSince: string | null;
  failure: { reason: string; remedy: string } | null;
  /** Messages that wait to be sent. */
  held: number;
  /** Signed requests that were not understood. */
  aside: number;
}
