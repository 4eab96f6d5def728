import { splitText, type Channel, type TelegramButton } from './channel';

/** Telegram Bot API, `sendMessage`: text 1 to 4,096 characters (counted here in UTF-16 units, as Telegram counts entities), captions 1,024; `callback_data` 1 to 64 bytes. */
export const TELEGRAM = { text: 4_096, caption: 1_024, callbackData: 64 } as const;

export const telegram: Channel = {
  kind: 'telegram',
  name: 'Telegram',
  mark: 'Tg',
  taps: true,
  /** A link is a button, choices stand under the last piece of the text as an inline keyboard, one per row. Media go first, with the text as their caption where it is short enough. */
  render(said) {
    const { media, link } = said;
    const keyboard: TelegramButton[][] = [
      ...(link ? [[{ text: link.label, url: link.address }]] : []),
      ...said.choices.map((choice) => [{ text: choice.label, data: choice.ref }]),
    ];
    const text = link?.title ? `${said.text}\n\n${link.title}` : said.text;
    const captioned = media !== undefined && text.length <= TELEGRAM.caption;
    const pieces = captioned ? [text.trim()] : splitText(text, (piece) => piece.length <= TELEGRAM.text);
    if (pieces.length === 0) pieces.push('…');
    const picture = media ?? (link?.image ? { what: 'image' as const, address: link.image } : undefined);
    const messages = pieces.map((piece, index) => ({
      channel: 'telegram' as const,
      text: piece,
      keyboard: index === pieces.length - 1 ? keyboard : [],
      ...(index === 0 && said.typing && { typing: said.typing }),
    }));
    if (!picture) return messages;
    if (captioned || (!media && text.length <= TELEGRAM.caption)) return [{ ...messages[0]!, media: picture }, ...messages.slice(1)];
    return [{ channel: 'telegram', text: '', keyboard: [], media: picture }, ...messages];
  },
};
