import type { Background, DeliveredEvent, StepAt, TimerEvent } from '../steps';

/** Where a conversation stands for the people at the agency. */
export type Shelf = 'waiting on us' | 'running' | 'settled';

/** A person has the conversation, or is to have it: the loop holds still. */
export interface Held {
  /** Who has stepped in; null while nobody has yet. */
  by: string | null;
  since: number;
  /** The run that handed over or was interrupted. */
  runId: string | null;
  /** Who it is meant for. */
  team: string | null;
  note: string;
}

/** A comment under one of the client's posts. */
export interface Commented {
  id: string;
  postId: string;
  /** In ms. */
  at: number;
  text: string;
  answered: boolean;
}

/** What a conversation remembers beside its runs. Plain data. */
export interface Standing {
  /** Whether the person has ever written or tapped here. */
  heardFrom: boolean;
  /** When they last did, in ms. */
  lastHeardAt: number | null;
  /** They want nothing more on this line. */
  optedOut: boolean;
  /** They have said that they may be written to on this line, in so many words. */
  optedIn: boolean;
  /** A list that the person was asked to confirm, since when (ms), and by which step. */
  confirming: { list: string; since: number; cueId: string | null; at: StepAt } | null;
  /**
   * When the person was asked whether they want no more messages (ms), and whether they have answered; absent
   * where they never were.
   */
  stopAsked?: { at: number; answered: boolean };
  /** The opt-out came by a block on the platform. */
  blocked: boolean;
  /**
   * Until when the line may write (ms), where its channel has such a window and it is open longer than after
   * a message.
   */
  openUntil: number | null;
  /**
   * The comment by which the conversation began, until the person writes; whether it was answered in private.
   */
  comment: Commented | null;
  /** Posts under which the person was answered already, the newest last. */
  posts: string[];
  /** Whether the first SMS has said who writes and how to stop. */
  introduced: boolean;
  /** Whether something is held back until the person writes. */
  holds: boolean;
  /** Runs whose question is held back: what the person writes is no answer to it yet. */
  unseen: string[];
  held: Held | null;
  /** Why a loop was stopped by itself, as a sentence, until the person writes or staff act. */
  stopped?: string;
  /** What waits until the run under way no longer waits for the person; `since` in ms. */
  later: { incoming: Background | TimerEvent | DeliveredEvent; since: number }[];
  /** Loops started without the person within the hour that began at `since`. */
  starts: { since: number; count: number };
}

export const newStanding = (): Standing => ({
  heardFrom: false,
  lastHeardAt: null,
  optedOut: false,
  optedIn: false,
  confirming: null,
  blocked: false,
  openUntil: null,
  comment: null,
  posts: [],
  introduced: false,
  holds: false,
  unseen: [],
  held: null,
  later: [],
  starts: { since: 0, count: 0 },
});
