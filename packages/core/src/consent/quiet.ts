import type { ChannelKind } from '../channels/channelKind';
import { isBetween } from '../time/clockTime';
import { localTime, nextTime } from '../time/zones';
import { QUIET, type QuietByChannel } from './quietHours';

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
