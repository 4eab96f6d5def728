import type { FileValue, PlaceValue } from '../../people/person';
import type { Background, DeliveredEvent, OptedOutElsewhere, SaidElsewhere, TimerEvent } from '../steps';

/** What the person did, already read from the channel's format. */
export type FromPerson =
  | { kind: 'text'; text: string }
  | { kind: 'tap'; runId: string; stepId: string; choiceId: string; label: string }
  | { kind: 'reference'; ref: string | null; ad: string | null; text: string | null }
  | { kind: 'menu'; item: string }
  | { kind: 'file'; file: FileValue }
  | { kind: 'place'; place: PlaceValue }
  | {
      kind: 'comment';
      verb: 'add' | 'edited' | 'removed';
      id: string;
      postId: string;
      text: string;
      /** When it was written, and when its post was, in ms; the latter null where it is not known. */
      at: number;
      postedAt: number | null;
      /** Whether it answers another comment. */
      nested: boolean;
    }
  /** The person has blocked the line on the platform, or has unblocked it. */
  | { kind: 'blocked'; on: boolean }
  | { kind: 'other'; what: string };

/** What staff do with a conversation. */
export type FromStaff =
  | { kind: 'step in'; by: string }
  | { kind: 'write'; by: string; text: string }
  /** Somebody answered in the platform's own inbox: it is recorded, and the loop holds still. */
  | { kind: 'wrote elsewhere'; by: string; text: string }
  /** Whoever has the conversation has left the team: it waits for anybody. */
  | { kind: 'left the team'; by: string }
  | { kind: 'hand back'; by: string; how: 'resume' | 'end' | { scene: string } };

/** What reaches a conversation. */
export type Incoming =
  | FromPerson
  | FromStaff
  | Background
  | TimerEvent
  | { kind: 'turn comes' }
  | SaidElsewhere
  | OptedOutElsewhere
  | DeliveredEvent
  | { kind: 'move'; runId: string; version: number }
  /** The loop is stopped: whoever is on the way in it is not led on. */
  | { kind: 'stop'; runId: string };
