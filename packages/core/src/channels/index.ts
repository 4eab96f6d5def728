import type { ChannelKind } from '../people/client';
import type { Channel } from './channel';
import { instagram } from './instagram';
import { messenger } from './messenger';
import { sms } from './sms';
import { telegram } from './telegram';
import { whatsapp } from './whatsapp';

export const CHANNELS: Record<ChannelKind, Channel> = { messenger, instagram, whatsapp, telegram, sms };

export { INSTAGRAM, utf8Bytes } from './instagram';
export { MESSENGER } from './messenger';
export { SMS } from './sms';
export { TELEGRAM } from './telegram';
export { WHATSAPP } from './whatsapp';
export { smsParts, type SmsParts } from './gsm';
export { splitText } from './text';
export type { Channel, Outgoing, Tap, TapsAs } from './channel';
