import type { ChannelKind } from './channelKind';
import type { Media, Said } from './said';
import type { MenuLimits } from './menus';
import type { TemplateHeader } from './template';

/**
 * Something the person can tap: a choice by its reference, or a link. `description` stands under a row of a
 * list.
 */
export type Tap = { label: string; ref: string; description?: string } | { label: string; url: string };

/** How taps are laid out, in the words of the channels' interfaces. */
export type TapsAs = 'quick replies' | 'buttons' | 'list' | 'keyboard' | 'link button' | 'card';

/** Exactly one message as a channel will get it, without addresses or secrets. */
export interface Outgoing {
  channel: ChannelKind;
  /** The text, caption or body; empty only where a file or picture goes alone. */
  text: string;
  taps: Tap[];
  /** Absent where there is nothing to tap. */
  as?: TapsAs;
  /** The label of what opens a list. */
  opens?: string;
  /** Goes with the text or alone, as the channel has it; the picture of a card. */
  media?: Media;
  /** Seconds of "is typing" before it. */
  typing?: number;
  /** The approved template that it is; the text is then how it reads. */
  template?: {
    name: string;
    language: string;
    parameters: string[];
    header?: { what: TemplateHeader; address: string };
  };
  /** SMS parts that are paid for. */
  parts?: number;
}

/**
 * What a channel allows and how it shows a `say`. A new channel is one file with a `Channel`, plus its line
 * in the index.
 */
export interface Channel {
  kind: ChannelKind;
  name: string;
  /** Two letters, in ink. */
  mark: string;
  /** Whether choices can be tapped; else they are typed. */
  taps: boolean;
  /** Whether a link to the line carries a reference; else it carries words, which are then the reference. */
  refs: boolean;
  /**
   * How long after the person has written the line may write (ms): a loop, a person of the team, and a loop
   * after the click on an ad. Null where there is no such window: then the person must have written once, or
   * opted in.
   */
  window: { loop: number; byHand: number; afterAd: number } | null;
  /** Up to `most` choices are shown at once; more come in pages of `page`. */
  choices: { most: number; page: number };
  /** What can be tapped without a message before it. */
  menus: MenuLimits;
  /** Whether people comment under posts of the account, and whether ads open conversations. */
  comments: boolean;
  ads: boolean;
  /**
   * The address that opens a conversation with the line, with a reference or with words ready to send where
   * the channel carries them.
   */
  link(account: Record<string, string>, carries: { ref: string } | { words: string }): string;
  /** How much of the room that a text has here a message takes: "31 of 2,000 characters". */
  room(message: Outgoing): { used: number; most: number; of: 'characters' | 'bytes' | 'parts' };
  /**
   * Turns what a step says into the messages that will be sent, in order; never beyond the channel's limits.
   */
  render(said: Said): Outgoing[];
}
