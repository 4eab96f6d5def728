import { CHANNEL_NAMES } from './names';
import { phrases } from '../language/phrases';
import type { Channel, Outgoing, Tap } from './channel';
import { fitLabels } from './labels';
import { lettered, pageOf } from './pages';
import { splitForLast, within } from './text';

/**
 * WhatsApp Cloud API: text 4,096; interactive messages: body 1,024, 3 reply buttons of 20, lists of 10 rows
 * in all (title 24, description 72, their button 20), one link button of 20; captions 1,024; ids of rows 200.
 */
export const WHATSAPP = {
  text: 4_096,
  body: 1_024,
  caption: 1_024,
  buttons: 3,
  button: 20,
  rows: 10,
  row: 24,
  description: 72,
  opens: 20,
  id: 200,
} as const;

const CHOICES = { most: WHATSAPP.rows, page: WHATSAPP.rows - 1 };

export const whatsapp: Channel = {
  kind: 'whatsapp',
  ...CHANNEL_NAMES.whatsapp,
  taps: true,
  refs: false,
  /** 24 hours, after the click on an ad 72. */
  window: { loop: 24 * 3_600_000, byHand: 24 * 3_600_000, afterAd: 72 * 3_600_000 },
  choices: CHOICES,
  menus: {},
  comments: false,
  ads: true,
  link: (account, carries) =>
    `https://wa.me/${account.number!.replace('+', '')}?text=${encodeURIComponent('ref' in carries ? carries.ref : carries.words)}`,
  room: ({ text, as, media }) => ({
    used: text.length,
    most: as ? WHATSAPP.body : media ? WHATSAPP.caption : WHATSAPP.text,
    of: 'characters',
  }),
  /**
   * Up to three choices are reply buttons, more are a list, in pages with "More" above ten. A link is a
   * button where no choices stand beside it, else in the text.
   */
  render(said) {
    const { link, media } = said;
    const { shown, more } = pageOf(said, CHOICES);
    const words = phrases(said.language ?? 'en');
    const aslist = said.choices.length > WHATSAPP.buttons;
    const whole = shown.map((choice) => choice.label);
    const labels = fitLabels(whole, aslist ? WHATSAPP.row : WHATSAPP.button, said.from);
    const linkInText = link !== undefined && said.choices.length > 0;
    // A row has room for the whole label below its title; a button has not.
    const hidden = whole.some(
      (label, index) => label !== labels[index] && (!aslist || label.length > WHATSAPP.description),
    );
    const taps: Tap[] = [
      ...shown.map((choice, index) => ({
        label: labels[index]!,
        ref: choice.ref,
        ...(aslist &&
          labels[index] !== whole[index] && {
            description: fitLabels([whole[index]!], WHATSAPP.description)[0]!,
          }),
      })),
      ...(more ? [{ label: more.label, ref: more.ref }] : []),
    ];
    if (link && !linkInText)
      taps.push({ label: fitLabels([link.label], WHATSAPP.button)[0]!, url: link.address });
    const text = [
      said.text.trim(),
      ...(link?.title ? [link.title] : []),
      ...(link && !linkInText && link.label.trim().length > WHATSAPP.button ? [link.label] : []),
      ...(linkInText ? [`${link.title ? '' : `${link.label}: `}${link.address}`] : []),
      ...(hidden ? [lettered(shown)] : []),
    ]
      .filter((line) => line !== '')
      .join('\n\n');
    const picture = media ?? (link?.image ? { what: 'image' as const, address: link.image } : undefined);
    const typing = said.typing ? { typing: said.typing } : {};
    if (taps.length === 0 && picture && picture.what !== 'audio' && text.length <= WHATSAPP.caption)
      return [{ channel: 'whatsapp', text, taps: [], media: picture, ...typing }];
    const pieces =
      text === '' && taps.length === 0
        ? []
        : splitForLast(text, within(WHATSAPP.text), within(taps.length > 0 ? WHATSAPP.body : WHATSAPP.text));
    const messages = pieces.map((piece, index): Outgoing =>
      index === pieces.length - 1 && taps.length > 0
        ? {
            channel: 'whatsapp',
            text: piece,
            taps,
            as: link && !linkInText ? 'link button' : aslist ? 'list' : 'buttons',
            ...(aslist && { opens: words.choose }),
          }
        : { channel: 'whatsapp', text: piece, taps: [] },
    );
    const all: Outgoing[] = picture
      ? [{ channel: 'whatsapp', text: '', taps: [], media: picture }, ...messages]
      : messages;
    return all.map((message, index) => (index === 0 ? { ...message, ...typing } : message));
  },
};
