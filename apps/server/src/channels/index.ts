import type { ChannelKind } from '@dart-loop/core';
import type { Config } from '../config';
import type { Adapter } from './adapter';
import { smsAdapter } from './sms';
import { telegramAdapter } from './telegram';

export type Adapters = Record<ChannelKind, Adapter>;

export function makeAdapters(config: Pick<Config, 'telegram' | 'smsGateway' | 'key'>): Adapters {
  return { telegram: telegramAdapter(config.telegram, config.key), sms: smsAdapter(config.smsGateway) };
}
