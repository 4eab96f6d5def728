import type { Outgoing } from '../channels';
import type { ChannelKind } from '../people/client';

/**
 * What one message costs, in thousandths of a pound. Telegram, Messenger and Instagram take nothing; WhatsApp
 * takes nothing within its window; SMS is paid by the part. These are the figures that are used until a
 * client has its own.
 */
export interface Prices {
  smsPart: number;
  whatsappTemplate: number;
}
export const PRICES: Prices = { smsPart: 40, whatsappTemplate: 45 };

/** The price of a message, in thousandths of a pound. */
export function priceOf(
  message: Pick<Outgoing, 'channel' | 'parts' | 'template'>,
  prices: Prices = PRICES,
): number {
  if (message.channel === 'sms') return (message.parts ?? 1) * prices.smsPart;
  return message.channel === 'whatsapp' && message.template ? prices.whatsappTemplate : 0;
}

/** Whether anything on the channel is paid for. */
export const isPaid = (channel: ChannelKind): boolean => channel === 'sms' || channel === 'whatsapp';

/** "£0.08", or "free". */
export const priceWords = (thousandths: number): string =>
  thousandths === 0 ? 'free' : `£${(thousandths / 1_000).toFixed(thousandths % 10 === 0 ? 2 : 3)}`;
