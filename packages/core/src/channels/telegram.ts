import { CHANNEL_NAMES } from './names';
import type { Channel, Outgoing, Tap } from './channel';
import { fitLabels } from './labels';
import { lettered, pageOf } from './pages';
import { EMPTY, splitText, within } from './text';

/**
 * Telegram Bot API, `sendMessage`: text 1 to 4,096 characters (counted here in UTF-16 units, as Telegram
 * counts entities), captions 1,024; `callback_data` 1 to 64 bytes. Labels of buttons have no stated limit;
 * beyond 80 nothing is read of them.
 */
export const TELEGRAM = { text: 4_096, caption: 1_024, callbackData: 64, label: 80 } as const;

const CHOICES = { most: 13, page: 12 };

export const telegram: Channel = {
  kind: 'telegram',
  ...CHANNEL_NAMES.telegram,
  taps: true,
  refs: true,
  window: null,
  choices: CHOICES,
  menus: { commands: { most: 100, label: 256, item: /^[a-z0-9_]+$/ } },
  comments: false,
  ads: false,
  link: (account, carries) =>
    `https://t.me/${account.username}${'ref' in carries ? `?start=${carries.ref}` : ''}`,
  room: ({ text, media }) => ({
    used: text.length,
    most: media ? TELEGRAM.caption : TELEGRAM.text,
    of: 'characters',
  }),
  /**
   * A link is a button, choices stand under the last piece of the text as an inline keyboard, one per row.
   * Media go first, with the text as their caption where it is short enough.
   */
  render(said) {
    const { media, link } = said;
    const { shown, more } = pageOf(said, CHOICES);
    const labels = fitLabels(
      shown.map((choice) => choice.label),
      TELEGRAM.label,
      said.from,
    );
    const cut = shown.some((choice, index) => choice.label !== labels[index]);
    const taps: Tap[] = [
      ...(link ? [{ label: fitLabels([link.label], TELEGRAM.label)[0]!, url: link.address }] : []),
      ...shown.map((choice, index) => ({ label: labels[index]!, ref: choice.ref })),
      ...(more ? [{ label: more.label, ref: more.ref }] : []),
    ];
    const text = [said.text, ...(link?.title ? [link.title] : []), ...(cut ? [lettered(shown)] : [])].join(
      '\n\n',
    );
    const captioned = media !== undefined && text.length <= TELEGRAM.caption;
    const pieces = captioned ? [text.trim()] : splitText(text, within(TELEGRAM.text));
    if (pieces.length === 0) pieces.push(EMPTY);
    const picture = media ?? (link?.image ? { what: 'image' as const, address: link.image } : undefined);
    const messages = pieces.map((piece, index): Outgoing => ({
      channel: 'telegram',
      text: piece,
      taps: index === pieces.length - 1 ? taps : [],
      ...(index === pieces.length - 1 && taps.length > 0 && { as: 'keyboard' }),
      ...(index === 0 && said.typing && { typing: said.typing }),
    }));
    if (!picture) return messages;
    if (captioned || (!media && text.length <= TELEGRAM.caption))
      return [{ ...messages[0]!, media: picture }, ...messages.slice(1)];
    return [{ channel: 'telegram', text: '', taps: [], media: picture }, ...messages];
  },
};
