import type { Booked, CalendarFacts } from '../../booking/calendar';
import type { Media, LinkCard } from '../../channels/said';
import type { Exit, Target } from '../../loops/model/basics';
import type { ClientFacts, LineFacts } from '../../people/client';
import type { Condition } from '../../people/condition';
import type { FieldTypes, FileValue, PersonFacts, PlaceValue, Value } from '../../people/person';
import type { HolidayTable } from '../../time/holidayTable';
import type { MergeWorld } from '../../language/merge';
import type { ReadingWorld } from '../../language/replies/reading';
import type { Aside } from './aside';
import type { AskedCame } from './fromSources';
import type { Note } from './notes';

export type * from './aside';
export type * from './effects';
export type * from './notes';

/**
 * What a step may look at. Time comes in as a value: `now` in milliseconds since 1970, UTC; `zone` is the
 * person's, `language` too.
 */
export interface StepWorld extends MergeWorld {
  client: ClientFacts;
  line: LineFacts;
  fields: FieldTypes;
  person: PersonFacts;
  /** The cue by which the run began. */
  cueId: string;
  segments?: Readonly<Record<string, Condition>>;
  loopIds?: Readonly<Record<string, string>>;
  /** The days with a name of their own in the client's country. */
  holidays?: () => HolidayTable;
  /** The client's calendars by their folded names, and what the person has booked that is still to come. */
  calendars?: Readonly<Record<string, CalendarFacts>>;
  booked?: readonly Booked[];
}

/** By whose country, language and clock a text of this run is read as a value. */
export const readingWorld = ({ client, language, now, zone, holidays }: StepWorld): ReadingWorld => ({
  country: client.country,
  language,
  now,
  zone,
  hours: client.openingHours,
  holidays,
});

export interface SayMore {
  media?: Media;
  link?: LinkCard;
  typing?: number;
  /** What becomes of it where it may not go now, not yet merged. */
  whenShut?:
    | { do: 'drop' }
    | { do: 'other line' }
    | { do: 'template'; name: string; parameters?: string[]; file?: string };
  /** Says what it says, without merge fields: words of ours with somebody's own in them. */
  asItIs?: boolean;
  /** What merge fields may name as answers beside those of the run. */
  fills?: Record<string, Value>;
  /** From which choice on they are shown. */
  from?: number;
}

/** What a step may do while it is played: everything ends up in the returned effects, notes and person. */
export interface Play {
  readonly world: StepWorld;
  readonly loopId: string;
  /** `fills`: answers that it may name beside those of the run. */
  merge(text: string, fills?: Record<string, Value>): string;
  /** How a target reads in the script, for notes. */
  where(target: Target): string;
  say(text: string, choices?: { id: string; label: string }[], more?: SayMore): void;
  /** Null takes the value away. */
  setField(field: string, value: Value | null): void;
  answer(key: string, value: Value): void;
  tag(tag: string, on: boolean): void;
  list(list: string, on: boolean): void;
  consent(what: 'opt-out' | 'opt-in', words: string): void;
  alert(by: 'email' | 'sms' | 'telegram', to: string[], subject: string, text: string): void;
  deliver(destination: string): void;
  /** Takes a time (ms) of a calendar for the person, in place of what they had booked there. */
  book(calendar: CalendarFacts, from: number, fields: { day: string; time: string }): void;
  /** Cancels what the person has booked in a calendar; false where that is nothing. */
  unbook(calendar: CalendarFacts): boolean;
  /** Asks the client's sources; `before` is what was asked before that. What they say is delivered. */
  askSources(question: string, before: string | null): void;
  /** Keeps how a question came out, with the passages that were said or offered, by their ids. */
  asked(what: { question: string; came: AskedCame; passages: string[] }): void;
  /** What the person has written in this event and nothing has read yet; null where that is nothing. */
  words(): string | null;
  sendOut(address: string, body: unknown): void;
  hold(team: string | null, note: string): void;
  /** The arm this person once drew at the step, and the drawing of one. */
  arm(): string | null;
  draw(arm: string): void;
  note(note: Note): void;
}

/** What the person sent, as a waiting step sees it. */
export type Reply =
  | { kind: 'text'; text: string }
  | { kind: 'choice'; choiceId: string }
  | { kind: 'file'; file: FileValue }
  | { kind: 'place'; place: PlaceValue };

/** Where a step leads once played. */
export type Outcome =
  /** `reminded`: how many reminders were said; `since`: when it began to wait (ms), where that was before. */
  | {
      kind: 'wait';
      for: 'reply';
      aside?: Aside;
      from?: number;
      reminded?: number;
      since?: number;
      /** It is another question: what could not be read before does not count. */
      afresh?: boolean;
    }
  | { kind: 'wait'; for: 'time'; until: number }
  | { kind: 'wait'; for: 'person' | 'errand' }
  | { kind: 'go'; to: Target }
  | { kind: 'call'; loop: string; scene?: string; back: boolean }
  /** To a scene, and on after this step once it has no more steps; for each of the items where there are. */
  | { kind: 'visit'; to: Target; each?: Items };

/** What a scene is played for in turn, and the answers that hold the present one and its place. */
export interface Items {
  items: Value[];
  item: string;
  number: string;
}

export const WAIT: Outcome = { kind: 'wait', for: 'reply' };
export const go = (to: Target): Outcome => ({ kind: 'go', to });

/** What a delivery came back with. */
export interface Delivered {
  ok: boolean;
  /** One sentence part, when it was not. */
  reason: string;
  body: unknown;
}

export type StepReading =
  /** `yields`: it takes any words, so that a cue which hears them goes before it. */
  | { ok: true; take(play: Play): Outcome; summary: string; gathers?: boolean; yields?: boolean }
  | { ok: false; reason: string; doesNotKnow?: boolean };

/** How a step leads to the one after it: by itself, or by something that has no exit of its own. */
export interface Falling {
  by:
    | 'itself'
    | 'answer'
    | 'skipped'
    | 'known already'
    | 'handed back'
    | 'delivered'
    | 'booked'
    | 'nothing more'
    | 'condition';
  words: string;
}
/** Leads on without anything that needs words. */
export const BY_ITSELF: Falling[] = [{ by: 'itself', words: '' }];

/** One kind of step: how it is played, what it can read, where it leads, and what it says. */
export interface StepKind<S> {
  /** Plays the step on reaching it. */
  enter(step: S, play: Play): Outcome;
  /**
   * Whether the waiting step can read the reply; `take` then plays it. Absent on steps that never wait for
   * one.
   */
  read?(step: S, reply: Reply, world: StepWorld, aside: Aside | null): StepReading;
  /** Choices that stand under the step while it waits; said again with a retry. */
  choices?(step: S, world: StepWorld, aside: Aside | null): { id: string; label: string }[];
  /** Goes on when what was sent out, or asked of the sources, has come back. */
  delivered?(step: S, outcome: Delivered, play: Play, aside: Aside | null): Outcome;
  exits(step: S): Exit[];
  /** By what it leads to the step after it without an exit; nothing for one that never does. */
  fallsTo(step: S): Falling[];
  /** Every text that may hold merge fields. */
  texts(step: S): string[];
  /** How the script words what has no text of its own: "2 h", "to 3 Pick a time". */
  words(step: S): string;
}
