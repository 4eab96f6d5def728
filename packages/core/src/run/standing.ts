import type { Background, DeliveredEvent, TimerEvent } from './steps';

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

/** What a conversation remembers beside its runs. Plain data. */
export interface Standing {
  /** Whether the person has ever written or tapped here. */
  heardFrom: boolean;
  /** When they last did, in ms. */
  lastHeardAt: number | null;
  /** They want nothing more on this line. */
  optedOut: boolean;
  held: Held | null;
  /** What waits until the run under way no longer waits for the person; `since` in ms. */
  later: { incoming: Background | TimerEvent | DeliveredEvent; since: number }[];
  /** Loops started without the person within the hour that began at `since`. */
  starts: { since: number; count: number };
}

export const newStanding = (): Standing => ({
  heardFrom: false,
  lastHeardAt: null,
  optedOut: false,
  held: null,
  later: [],
  starts: { since: 0, count: 0 },
});
