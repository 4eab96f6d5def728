import { z } from 'zod';
import { ChannelKind } from '../channels/channelKind';
import { TimeOfDay } from '../time/clockTime';

/** From when to when nothing goes out unasked, by the person's own clock; null: at any time. */
export const QuietHours = z.object({ from: TimeOfDay, to: TimeOfDay }).strict().nullable();
export type QuietHours = z.infer<typeof QuietHours>;
/** A client's own quiet hours, by channel; what is left out is as it is for everybody. */
export const QuietByChannel = z.partialRecord(ChannelKind, QuietHours);
export type QuietByChannel = z.infer<typeof QuietByChannel>;

/** What a channel's rules or good manners ask for where the client says nothing else: SMS 21:00 to 08:00. */
export const QUIET: Record<ChannelKind, QuietHours> = {
  messenger: null,
  instagram: null,
  whatsapp: null,
  telegram: null,
  sms: { from: '21:00', to: '08:00' },
};
