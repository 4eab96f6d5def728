import type { ChannelKind } from './channelKind';

/** What the channels are called, and their marks of two letters. */
export const CHANNEL_NAMES: Readonly<Record<ChannelKind, { name: string; mark: string }>> = {
  messenger: { name: 'Messenger', mark: 'Ms' },
  instagram: { name: 'Instagram', mark: 'Ig' },
  whatsapp: { name: 'WhatsApp', mark: 'Wa' },
  telegram: { name: 'Telegram', mark: 'Tg' },
  sms: { name: 'SMS', mark: 'Sm' },
};
