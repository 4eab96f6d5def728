import type { Said } from '../../channels/said';
import type { Permission } from '../../consent/permission';
import type { ConsentWord } from '../../consent/words';
import type { ConsentScope } from '../../people/list';
import type { Value } from '../../people/person';
import type { AskedCame } from './fromSources';

/** Which step of which run wants something done; null for what no step wants, such as the answer to STOP. */
export interface StepAt {
  runId: string;
  loopId: string;
  loop: string;
  version: number;
  stepId: string;
}

/**
 * What happens without the person writing; it comes into the lane of the conversation like everything else.
 */
export type Background =
  | { kind: 'tag'; tag: string; on: boolean; depth: number }
  | { kind: 'list'; list: string; depth: number }
  | { kind: 'field'; field: string; before: Value | null; after: Value | null; depth: number }
  | { kind: 'date'; loopId: string; cueId: string; of: string }
  | { kind: 'silence'; loopId: string; cueId: string; since: number }
  | { kind: 'webhook'; hook: string; name: string }
  /** One of the team starts a live loop, by its name, for whomever they have chosen. */
  | { kind: 'start'; loop: string; by: string }
  /** A lead form of an ad was submitted; its answers by the names that the form gives them. */
  | { kind: 'lead'; form: string; ad: string | null; answers: Record<string, string> };

/** The answer to what a run has sent out. */
export type DeliveredEvent = {
  kind: 'delivered';
  runId: string;
  turn: number;
  ok: boolean;
  reason: string;
  body: unknown;
};

/** Something that may not go on another line of the same person. */
export type SaidElsewhere = { kind: 'said elsewhere'; line: string; said: Said; at: StepAt | null };

/** The person wants nothing more on any line. */
export type OptedOutElsewhere = { kind: 'opted out elsewhere'; words: string };

export type TimerEvent = { kind: 'timer'; runId: string; turn: number; what: 'run' | 'gathered' };

/** What a run wants done in the world. The edge does it, all of one event in one transaction. */
export type Effect =
  /**
   * `aboutConsent`: the program's own answer to an opt-out, opt-in or help word, which goes whatever the
   * ledger says.
   */
  | {
      kind: 'send';
      said: Said;
      at: StepAt | null;
      by: string | null;
      permission: Permission;
      aboutConsent?: true;
    }
  /** Said in another conversation of the same person, because it may not go here. */
  | { kind: 'say elsewhere'; conversationId: string; said: Said; at: StepAt | null }
  | {
      kind: 'public reply';
      postId: string;
      commentId: string;
      text: string;
      loopId: string;
      version: number;
    }
  /**
   * What was held back may go now that the person has written; no later than `until` (ms), where that is
   * given.
   */
  | { kind: 'release'; until: number | null }
  /** What a run had held back until the person writes is not said any more. */
  | { kind: 'drop held'; runId: string; loopId: string }
  | { kind: 'set field'; field: string; before: Value | null; after: Value | null; at: StepAt }
  | { kind: 'tag'; tag: string; on: boolean; at: StepAt }
  /** `at` is null where the person said so themselves. */
  | { kind: 'list'; list: string; on: boolean; at: StepAt | null }
  | {
      kind: 'timer';
      key: string;
      dueAt: number;
      incoming: TimerEvent | Background | SaidElsewhere | { kind: 'turn comes' };
    }
  | { kind: 'no timer'; key: string }
  | { kind: 'raise'; incoming: Background | TimerEvent | DeliveredEvent }
  /**
   * An entry of the ledger. `words`: what the person wrote, or the wording they agreed to; `wording` is its
   * version.
   */
  | {
      kind: 'consent';
      what: Exclude<ConsentWord, 'help'>;
      scope: ConsentScope;
      list: string | null;
      words: string;
      wording: number | null;
      language: string;
      cueId: string | null;
      at: StepAt | null;
    }
  /** Something that holds in another conversation of the same person too. */
  | { kind: 'tell elsewhere'; conversationId: string; incoming: OptedOutElsewhere }
  | {
      kind: 'alert';
      by: 'email' | 'sms' | 'telegram';
      to: string[];
      subject: string;
      text: string;
      at: StepAt;
    }
  /** What is known of the person goes to a destination of the client's, by its name. */
  | { kind: 'deliver'; destination: string; at: StepAt }
  /**
   * A time of a calendar is taken for the person, from when until when (ms, the gap after it included); a
   * move gives the booking of that id another time.
   */
  | {
      kind: 'book';
      id: string;
      isMove: boolean;
      calendarId: string;
      calendar: string;
      from: number;
      ends: number;
      until: number;
      /** The fields that its day and time stand in. */
      fields: { day: string; time: string };
      at: StepAt;
    }
  /** A booking of the person's, from when on (ms), is none any more. */
  | { kind: 'cancel booking'; id: string; calendar: string; from: number; at: StepAt }
  | { kind: 'send out'; address: string; body: unknown; turn: number; at: StepAt }
  /** Asks the client's sources, after what was asked `before`; what they say is delivered to the run. */
  | { kind: 'ask sources'; question: string; before: string | null; turn: number; at: StepAt }
  /** How a question came out, with the passages that were said or offered, by their ids. */
  | { kind: 'asked'; question: string; came: AskedCame; passages: string[]; at: StepAt };

/** What a run waits for the answer of. */
export type Errand = Extract<Effect, { kind: 'send out' | 'ask sources' }>;
export const isErrand = (effect: Effect): effect is Errand =>
  effect.kind === 'send out' || effect.kind === 'ask sources';
