import type { ChannelKind } from '../model/client';
import type { Channel } from './channel';
import { sms } from './sms';
import { telegram } from './telegram';

export const CHANNELS: Record<ChannelKind, Channel> = { telegram, sms };

export { SMS } from './sms';
export { TELEGRAM } from './telegram';
export { smsParts, type SmsParts } from './gsm';
export { splitText, type Channel, type Outgoing, type TelegramButton } from './channel';
