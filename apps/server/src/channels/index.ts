import type { ChannelKind } from '@dart-loop/core';
import type { Config } from '../platform/config';
import type { Adapter } from './adapter';
import { instagramAdapter } from './instagram';
import { messengerAdapter } from './messenger';
import { smsAdapter } from './sms';
import { telegramAdapter } from './telegram';
import { whatsappAdapter } from './whatsapp';

export type Adapters = Record<ChannelKind, Adapter>;

export function makeAdapters(config: Pick<Config, 'graph' | 'telegram' | 'smsGateway' | 'key'>): Adapters {
  return {
    messenger: messengerAdapter(config.graph, config.key),
    instagram: instagramAdapter(config.graph, config.key),
    whatsapp: whatsappAdapter(config.graph, config.key),
    telegram: telegramAdapter(config.telegram, config.key),
    sms: smsAdapter(config.smsGateway),
  };
}
