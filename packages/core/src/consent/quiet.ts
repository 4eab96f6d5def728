import { z } from 'zod';
import { ChannelKind } from '../channels/channelKind';
import { TimeOfDay, isBetween, localTime, nextTime } from '../time/zones';

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

/**
 * When the quiet hours that hold at `now` are over (ms); null outside them. An answer to the person is never
 * held.
 */
export function quietUntil(
  channel: ChannelKind,
  now: number,
  zone: string,
  own: QuietByChannel = {},
): number | null {
  const quiet = own[channel] === undefined ? QUIET[channel] : own[channel];
  return quiet && quiet.from !== quiet.to && isBetween(localTime(now, zone).time, quiet.from, quiet.to)
    ? nextTime(now, zone, quiet.to)
    : null;
}
