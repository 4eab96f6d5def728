import type { ChannelKind } from '@dart-loop/core';
import type { Config } from '../platform/config';
import type { Adapter } from './adapter';
import { instagramAdapter } from './instagram';
import { messengerAdapter } from './messenger';
import { smsAdapter } from './sms';
import { telegramAdapter } from './telegram';
import { switchedOff } from './trial';
import { whatsappAdapter } from './whatsapp';

type EachKind = Record<ChannelKind, Adapter>;

/** An account of a channel: on the platform itself or, for a line for trying out, on a stand-in of it. */
interface OnChannel {
  channel: ChannelKind;
  account: Record<string, string>;
}

/** Whether an account is a stand-in's, though the channel's other lines are on the platform itself. */
export const isTrial = (account: Record<string, string>): boolean => account.trial === 'yes';

/** How the five channels are spoken to, on the platforms and on the stand-ins of lines for trying out. */
export class Adapters {
  constructor(
    private readonly platforms: EachKind,
    private readonly trials: EachKind,
  ) {}

  /** What speaks for a line. */
  of({ channel, account }: OnChannel): Adapter {
    return this.newOn(channel, isTrial(account));
  }

  /** What connects a new line. */
  newOn(channel: ChannelKind, trial = false): Adapter {
    return (trial ? this.trials : this.platforms)[channel];
  }

  /** What a webhook that is being connected is to answer, whichever channel asks; null where none does. */
  challenge(query: URLSearchParams, hookToken: string): string | null {
    for (const adapter of Object.values(this.platforms)) {
      const answer = adapter.challenge?.(query, hookToken);
      if (answer) return answer;
    }
    return null;
  }
}

type Addresses = Pick<Config, 'graph' | 'telegram' | 'smsGateway' | 'key'>;

const eachKind = ({ graph, telegram, smsGateway, key }: Addresses): EachKind => ({
  messenger: messengerAdapter(graph, key),
  instagram: instagramAdapter(graph, key),
  whatsapp: whatsappAdapter(graph, key),
  telegram: telegramAdapter(telegram, key),
  sms: smsAdapter(smsGateway),
});

/** Where the stand-ins speak for each platform. */
export const standinAddresses = (standins: string): Omit<Addresses, 'key'> => ({
  graph: `${standins}/graph`,
  telegram: standins,
  smsGateway: `${standins}/sms`,
});

export function makeAdapters(config: Addresses & Pick<Config, 'standins'>): Adapters {
  return new Adapters(
    eachKind(config),
    config.standins === null
      ? switchedOff(eachKind(config))
      : eachKind({ ...standinAddresses(config.standins), key: config.key }),
  );
}
