import { CHANNEL_NAMES } from './names';
import { phrases } from '../language/phrases';
import type { Channel } from './channel';
import { smsParts } from './gsm';
import { lettered, pageOf } from './pages';
import { splitText } from './text';

/** A gateway takes a text of up to ten parts; a longer one is sent as several. */
export const SMS = { parts: 10 } as const;

/** Ten lettered lines are read at once; more come in pages of eight. */
const CHOICES = { most: 10, page: 8 };

export const sms: Channel = {
  kind: 'sms',
  ...CHANNEL_NAMES.sms,
  taps: false,
  refs: false,
  window: null,
  choices: CHOICES,
  menus: {},
  comments: false,
  ads: false,
  link: (account, carries) =>
    `sms:${account.number}?body=${encodeURIComponent('ref' in carries ? carries.ref : carries.words)}`,
  room: ({ parts = 1 }) => ({ used: parts, most: SMS.parts, of: 'parts' }),
  /**
   * There are no buttons: each choice becomes a lettered line, "A Saturday". Media and links stand as
   * addresses in the text.
   */
  render(said) {
    const { media, link } = said;
    const { shown, more } = pageOf(said, CHOICES);
    const words = phrases(said.language ?? 'en');
    const text = [
      said.text.trim(),
      ...(link ? [`${link.title ?? link.label}: ${link.address}`] : []),
      ...(media ? [media.address] : []),
      lettered(shown),
      more && more.left > 0 ? words.writeForMore(words.more.toUpperCase(), more.left) : '',
      said.closing ?? '',
    ]
      .filter((line) => line !== '')
      .join('\n');
    return splitText(text, (piece) => smsParts(piece).parts <= SMS.parts).map((piece) => ({
      channel: 'sms',
      text: piece,
      taps: [],
      parts: smsParts(piece).parts,
    }));
  },
};
