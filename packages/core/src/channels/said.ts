import type { TemplateCall } from './template';

/** A picture or file that goes with a text. */
export interface Media {
  what: 'image' | 'file' | 'video' | 'audio';
  address: string;
}
/** A link shown as a card or button. */
export interface LinkCard {
  label: string;
  address: string;
  title?: string;
  image?: string;
}

/**
 * A `say` or question as it is handed to a channel: text already merged, choices with what a tap brings back.
 */
export interface Said {
  text: string;
  choices: { ref: string; label: string }[];
  media?: Media;
  link?: LinkCard;
  /** Seconds of "is typing" before it, where the channel can show that. */
  typing?: number;
  /** The language of the words that a channel's rendering adds: "More", "Choose". Left out: English. */
  language?: string;
  /** From which choice on they are shown, where they come in pages. */
  from?: number;
  /** Stands at the end, where it is the first SMS: how to stop. */
  closing?: string;
  /** What becomes of it where it may not go now; left out: it is held. */
  whenShut?: { do: 'drop' } | { do: 'other line' } | ({ do: 'template' } & TemplateCall);
}
