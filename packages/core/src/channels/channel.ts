import type { ChannelKind } from '../model/client';
import type { Media, Said } from '../run/steps';

export type TelegramButton = { text: string; data: string } | { text: string; url: string };

/** Exactly one message as a channel will get it, without addresses or secrets. */
export type Outgoing =
  | { channel: 'telegram'; text: string; keyboard: TelegramButton[][]; media?: Media; typing?: number }
  | { channel: 'sms'; text: string; parts: number };

/** What a channel allows and how it shows a `say`. A new channel is one file with a `Channel`, plus its line in the index. */
export interface Channel {
  kind: ChannelKind;
  name: string;
  /** Two letters, in ink. */
  mark: string;
  /** Whether choices can be tapped; else they are typed. */
  taps: boolean;
  /** Turns what a step says into the messages that will be sent, in order; never beyond the channel's limits. */
  render(said: Said): Outgoing[];
}

/** Cuts a text into pieces that `fits` accepts, at a paragraph, line, sentence or word where one is near. */
export function splitText(text: string, fits: (piece: string) => boolean): string[] {
  const pieces: string[] = [];
  let rest = text.trim();
  while (rest && !fits(rest)) {
    const characters = [...rest];
    let low = 1;
    let high = characters.length - 1;
    while (low < high) {
      const middle = (low + high + 1) >> 1;
      if (fits(characters.slice(0, middle).join(''))) low = middle;
      else high = middle - 1;
    }
    const most = characters.slice(0, low).join('');
    const cut = ['\n\n', '\n', '. ', '? ', ' '].map((mark) => most.lastIndexOf(mark)).find((at) => at > most.length / 2);
    const piece = cut === undefined ? most : most.slice(0, cut + 1);
    pieces.push(piece.trim());
    rest = rest.slice(piece.length).trim();
  }
  if (rest) pieces.push(rest);
  return pieces.filter((piece) => piece !== '');
}
