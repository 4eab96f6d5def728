import { z } from 'zod';

export const CHANNEL_KINDS = ['messenger', 'instagram', 'whatsapp', 'telegram', 'sms'] as const;
export const ChannelKind = z.enum(CHANNEL_KINDS);
export type ChannelKind = z.infer<typeof ChannelKind>;
