import { z } from 'zod';

export const ConnectLine = z.discriminatedUnion('channel', [
  z.object({ channel: z.literal('telegram'), token: z.string().max(200) }),
  z.object({ channel: z.literal('sms'), number: z.string().max(40), key: z.string().max(200), signing: z.string().max(200) }),
]);
export type ConnectLine = z.infer<typeof ConnectLine>;

export interface LineRow {
  id: number;
  key: string;
  name: string;
  channel: 'telegram' | 'sms';
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
