import type { Booked, CalendarFacts } from '../../booking/calendar';
import type { Said, Media, LinkCard } from '../../channels/said';
import type { Permission } from '../../consent/permission';
import type { ConsentWord } from '../../consent/words';
import type { ConsentScope } from '../../people/list';
import type { Exit, Target } from '../../loops/model/basics';
import type { ClientFacts, LineFacts } from '../../people/client';
import type { Condition } from '../../people/condition';
import type { FieldTypes, FileValue, PersonFacts, PlaceValue, Value } from '../../people/person';
import type { HolidayTable } from '../../time/holidayTable';
import type { MergeWorld } from '../../language/merge';
import type { ReadingWorld, Span } from '../../language/replies/reading';
import type { ChoiceHow } from '../../language/choice';

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
  | { kind: 'send out'; address: string; body: unknown; turn: number; at: StepAt };

/** What happened, kept as facts; `stage.ts` puts it into words. */
export type Note =
  | { code: 'cue heard'; loop: string; how: string }
  | { code: 'started by'; loop: string; by: string }
  | { code: 'resumed'; loop: string }
  | { code: 'late tap'; loop: string; label: string }
  | { code: 'run replaced'; loop: string }
  | {
      code: 'choice read';
      label: string;
      how: 'tap' | ChoiceHow;
      to: string;
    }
  | { code: 'reply read'; type: Value['type']; field: string; value: Value }
  | { code: 'gathering'; seconds: number }
  /** ISO 639-1. */
  | { code: 'language told'; language: string }
  | { code: 'asked back'; what: Exclude<Aside['kind'], 'times' | 'parts'> }
  | { code: 'known already'; field: string; value: Value }
  | { code: 'skipped' }
  | { code: 'called off'; to: string }
  | { code: 'could not read'; reason: string; tries: number; of: number }
  | { code: 'something else'; to: string }
  | { code: 'does not know'; to: string }
  | { code: 'gave up'; to: string }
  | { code: 'no reply'; after: string; to: string }
  | { code: 'reminded'; after: string; nth: number; of: number }
  | { code: 'waits'; until: number; zone: string }
  | { code: 'waited' }
  | { code: 'quiet hours'; until: number; zone: string }
  | { code: 'its turn later'; what: string; loop: string }
  | { code: 'held back'; reason: string }
  | { code: 'released' }
  | { code: 'sent as template'; name: string }
  | { code: 'template not usable'; reason: string }
  | { code: 'dropped'; reason: string }
  | { code: 'said elsewhere'; line: string }
  | { code: 'said for'; line: string }
  | { code: 'no other line' }
  | { code: 'question unseen'; loop: string }
  | { code: 'more shown'; from: number; of: number }
  | { code: 'answered privately' }
  | { code: 'comment removed' }
  | { code: 'lead form'; form: string }
  | { code: 'field set'; field: string; value: Value | null }
  | { code: 'field not set'; field: string; reason: string }
  | { code: 'tag'; tag: string; on: boolean }
  | { code: 'list'; list: string; on: boolean }
  | { code: 'split'; to: string; because: string }
  | { code: 'arm'; arm: string; to: string }
  | { code: 'went'; to: string }
  | { code: 'went back'; to: string }
  | { code: 'next item'; nth: number; of: number }
  | { code: 'no items'; field: string }
  | { code: 'loop called'; loop: string; back: boolean }
  | { code: 'came back'; loop: string }
  | { code: 'handed over'; to: string; note: string }
  | { code: 'nobody on duty' }
  | { code: 'hand-over given up'; after: string; to: string }
  | { code: 'recorded'; who: string }
  | { code: 'stepped in'; by: string }
  | { code: 'handed back'; by: string; how: string }
  | { code: 'alert'; by: string; to: number }
  | { code: 'to be delivered'; destination: string }
  | { code: 'sent out'; host: string }
  | { code: 'times offered'; calendar: string; count: number; to: string }
  | { code: 'booked'; calendar: string; from: number; zone: string; moved: boolean }
  | { code: 'booked already'; calendar: string }
  | { code: 'booking cancelled'; calendar: string; from: number; zone: string }
  | { code: 'time gone'; from: number; zone: string }
  | { code: 'delivered'; ok: boolean; reason: string; to: string }
  /** Of a text that was longer only so many characters are kept. */
  | { code: 'text cut'; kept: number; of: number }
  | { code: 'stop asked' }
  | { code: 'stop denied' }
  | { code: 'consent'; what: ConsentWord; scope?: ConsentScope; list?: string }
  | { code: 'asked to confirm'; list: string }
  | { code: 'opted out'; what: string }
  | { code: 'moved'; loop: string; version: number }
  | { code: 'finished'; loop: string }
  | { code: 'stopped'; loop: string }
  | { code: 'circle'; scene: string }
  | { code: 'chain cut'; loop: string; reason: string }
  | { code: 'unusable'; reason: string }
  | { code: 'nobody'; reason: string }
  | { code: 'set aside'; reason: string };

/** A step that a run has left, where to, and what was noted on the way out of it. */
export interface Left {
  runId: string;
  stepId: string;
  to: Target;
  notes: Note[];
}

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
  whenShut?: { do: 'drop' } | { do: 'other line' } | { do: 'template'; name: string; parameters?: string[] };
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

/**
 * What stands between the step and the person beside its own text: a question of ours about the answer, or
 * the times (ms) that they were offered.
 */
export type Aside =
  | { kind: 'times'; times: number[] }
  /** Whether somebody who cannot come wants to cancel, or another time. */
  | { kind: 'cancel or move' }
  | { kind: 'did you mean'; typed: Value; suggested: Value }
  | { kind: 'is that right'; value: Value }
  | { kind: 'which of'; values: Value[] }
  | { kind: 'which in'; span: Span }
  | { kind: 'still right'; value: Value }
  /** What was named of several so far, by its labels. */
  | { kind: 'anything else'; values: string[] }
  /**
   * The fields still open where one message may answer several, what was asked about the first, and what is
   * to be asked about others; none: all of them are shown back.
   */
  | { kind: 'parts'; open: string[]; about?: Aside; then?: AskedBack[] };

/** A question of ours about an answer. */
export interface AskedBack {
  field: string;
  text: string;
  /** What merge fields of the text may name beside all else, where the builder has worded it. */
  fills?: Record<string, Value>;
  choices: { id: string; label: string }[];
  aside: Extract<Aside, { kind: 'did you mean' | 'is that right' | 'which of' | 'which in' | 'still right' }>;
}

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
  | { ok: true; take(play: Play): Outcome; summary: string; gathers?: boolean }
  | { ok: false; reason: string; doesNotKnow?: boolean };

/** How a step leads to the one after it: by itself, or by something that has no exit of its own. */
export interface Falling {
  by:
    'itself' | 'answer' | 'skipped' | 'known already' | 'handed back' | 'delivered' | 'booked' | 'condition';
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
  /** Goes on when what was sent out has come back. */
  delivered?(step: S, outcome: Delivered, play: Play): Outcome;
  exits(step: S): Exit[];
  /** By what it leads to the step after it without an exit; nothing for one that never does. */
  fallsTo(step: S): Falling[];
  /** Every text that may hold merge fields. */
  texts(step: S): string[];
  /** How the script words what has no text of its own: "2 h", "to 3 Pick a time". */
  words(step: S): string;
}
