import type { ChannelKind } from './channelKind';
import type { Media, Said } from './said';
import type { Outgoing, Tap } from './channel';
import { fitLabels } from './labels';
import { lettered, pageOf } from './pages';
import { splitForLast } from './text';

/**
 * Quick replies, as Messenger and Instagram have them: 13, title 20 characters, payload 1,000; they vanish
 * after the next message.
 */
export const QUICK_REPLIES = { most: 13, title: 20, payload: 1_000 } as const;
/** 24 hours; a person of the team up to seven days, as a human agent. */
export const WINDOW = { loop: 24 * 3_600_000, byHand: 7 * 24 * 3_600_000, afterAd: 24 * 3_600_000 };
export const CHOICES = { most: QUICK_REPLIES.most, page: QUICK_REPLIES.most - 1 };

/**
 * Text, then choices as quick replies under its last piece. Where a label is cut, the whole ones stand in the
 * text with their letters. Pictures and files go before it, as neither channel has captions.
 */
export function withQuickReplies(
  channel: ChannelKind,
  said: Said,
  text: string,
  media: Media | undefined,
  fits: (text: string) => boolean,
): Outgoing[] {
  const { shown, more } = pageOf(said, CHOICES);
  const labels = fitLabels(
    shown.map((choice) => choice.label),
    QUICK_REPLIES.title,
    said.from,
  );
  const cut = shown.some((choice, index) => choice.label !== labels[index]);
  const taps: Tap[] = [
    ...shown.map((choice, index) => ({ label: labels[index]!, ref: choice.ref })),
    ...(more ? [{ label: more.label, ref: more.ref }] : []),
  ];
  const whole = cut ? `${text.trim()}\n\n${lettered(shown)}` : text;
  const pieces = whole.trim() === '' && taps.length === 0 ? [] : splitForLast(whole, fits, fits);
  const messages = pieces.map((piece, index): Outgoing => ({
    channel,
    text: piece,
    taps: index === pieces.length - 1 ? taps : [],
    ...(index === pieces.length - 1 && taps.length > 0 && { as: 'quick replies' }),
  }));
  const all = media ? [{ channel, text: '', taps: [], media }, ...messages] : messages;
  return all.map((message, index) =>
    index === 0 && said.typing ? { ...message, typing: said.typing } : message,
  );
}
