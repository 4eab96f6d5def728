import { choiceLetter } from '../words/choice';
import { splitText, type Channel } from './channel';
import { smsParts } from './gsm';

/** A gateway takes a text of up to ten parts; a longer one is sent as several. */
export const SMS = { parts: 10 } as const;

export const sms: Channel = {
  kind: 'sms',
  name: 'SMS',
  mark: 'Sm',
  taps: false,
  /** There are no buttons: each choice becomes a lettered line, "A Saturday". Media and links stand as addresses in the text. */
  render(said) {
    const { media, link } = said;
    const lines = said.choices.map((choice, index) => `${choiceLetter(index)} ${choice.label}`);
    const text = [
      said.text.trim(),
      ...(link ? [`${link.title ?? link.label}: ${link.address}`] : []),
      ...(media ? [media.address] : []),
      ...lines,
    ]
      .filter((line) => line !== '')
      .join('\n');
    return splitText(text, (piece) => smsParts(piece).parts <= SMS.parts).map((piece) => ({
      channel: 'sms',
      text: piece,
      parts: smsParts(piece).parts,
    }));
  },
};
