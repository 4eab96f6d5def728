import { splitText, type Channel } from './channel';

/** Telegram Bot API, `sendMessage`: text 1 to 4,096 characters (counted here in UTF-16 units, as Telegram counts entities); `callback_data` 1 to 64 bytes. */
export const TELEGRAM = { text: 4_096, callbackData: 64 } as const;

export const telegram: Channel = {
  kind: 'telegram',
  name: 'Telegram',
  mark: 'Tg',
  /** Choices stand under the last piece of the text as an inline keyboard, one per row. */
  render(said) {
    const pieces = splitText(said.text, (piece) => piece.length <= TELEGRAM.text);
    if (pieces.length === 0) pieces.push('…');
    return pieces.map((text, index) => ({
      channel: 'telegram',
      text,
      keyboard: index === pieces.length - 1 ? said.choices.map((choice) => [{ text: choice.label, data: choice.ref }]) : [],
    }));
  },
};
