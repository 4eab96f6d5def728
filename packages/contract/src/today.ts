import type { ChannelKind } from '@dart-loop/core';

/** One sentence of Today, worst first, with the one action that settles it. */
export interface Attention {
  id: string;
  weight: 'failing' | 'warning' | 'quiet';
  client: { slug: string; name: string };
  channel: ChannelKind | null;
  words: string;
  action: { words: string; href: string };
}
export interface TodayPage {
  attention: Attention[];
  day: {
    conversations: number;
    conversationsYesterday: number;
    messages: number;
    messagesYesterday: number;
    smsParts: number;
    smsPartsYesterday: number;
  };
}
