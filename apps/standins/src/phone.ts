/** What somebody holds in their hand: the same for every channel, whatever its format is. */

export interface PhoneButton {
  text: string;
  /** What a tap brings back, or the page that it opens. */
  data?: string;
  url?: string;
  note?: string;
}
export interface PhoneMessage {
  id: string;
  from: 'person' | 'line';
  text: string;
  at: string;
  buttons: PhoneButton[];
  /** How the buttons are laid out; those of a list stand behind what opens it. */
  as: 'keyboard' | 'quick replies' | 'buttons' | 'list' | 'none';
  opens?: string;
  media?: string;
}
export interface PhonePost {
  id: string;
  text: string;
  at: string;
  comments: { id: string; who: string; name: string; text: string; at: string; replies: string[] }[];
}
export interface PhoneAd {
  id: string;
  text: string;
  /** What the first message says, where the ad has it ready. */
  opening: string;
  ref: string;
}
export interface PhoneView {
  messages: PhoneMessage[];
  posts: PhonePost[];
  ads: PhoneAd[];
  /** What stands before the first message, as it was put on the channel. */
  greeting: string | null;
  /** What stands in the menu or is suggested at the start, as it was put on the channel. */
  menu: { item: string; label: string }[];
  blocked: boolean;
}

/** What somebody does. Each resolves with whether the webhook took it. */
export type PhoneDo =
  | { do: 'write'; name: string; text: string }
  | { do: 'tap'; messageId: string; data: string }
  | { do: 'send'; name: string; what: 'picture' | 'voice note' | 'place' }
  | { do: 'comment'; name: string; postId: string; text: string; under: string | null }
  | { do: 'edit comment'; commentId: string; text: string }
  | { do: 'remove comment'; commentId: string }
  | { do: 'click ad'; name: string; adId: string }
  | {
      do: 'lead form';
      adId: string;
      form: string;
      answers: Record<string, string>;
      readable: boolean;
    }
  | { do: 'open link'; name: string; ref: string }
  | { do: 'menu'; name: string; item: string }
  | { do: 'block'; is: boolean }
  | { do: 'answer as the account'; text: string };

export interface Phone {
  /** Somebody who has never written to the line. `taken`: whether a number is somebody's already. */
  somebody(line: string, taken: (number: string) => boolean): string;
  look(line: string, who: string): PhoneView;
  act(line: string, who: string, what: PhoneDo): Promise<boolean>;
}

export class CannotBeDone extends Error {}

/**
 * A number from the range kept for fiction that is not taken; once those are used up, one that is like them.
 */
export function inventedNumber(taken: (number: string) => boolean): string {
  for (let tries = 0; ; tries++) {
    const chance = String(Math.floor(Math.random() * 1e5)).padStart(5, '0');
    const number = tries < 200 ? `+447700900${chance.slice(2)}` : `+4477009${chance}`;
    if (!taken(number)) return number;
  }
}

export const digits = (count: number): string =>
  Array.from({ length: count }, (_, at) =>
    String(at === 0 ? 1 + Math.floor(Math.random() * 9) : Math.floor(Math.random() * 10)),
  ).join('');
