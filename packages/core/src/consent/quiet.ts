import type { ChannelKind } from '../model/client';
import { isBetween, localTime, nextTime } from '../time/zones';

/** Hours by the person's own clock in which a channel's rules or good manners let nothing go out unasked: SMS 21:00 to 08:00. */
const QUIET: Record<ChannelKind, { from: string; to: string } | null> = {
  messenger: null,
  instagram: null,
  whatsapp: null,
  telegram: null,
  sms: { from: '21:00', to: '08:00' },
};

/** When the quiet hours that hold at `now` are over (ms); null outside them. An answer to the person is never held. */
export function quietUntil(channel: ChannelKind, now: number, zone: string): number | null {
  const quiet = QUIET[channel];
  return quiet && isBetween(localTime(now, zone).time, quiet.from, quiet.to) ? nextTime(now, zone, quiet.to) : null;
}
