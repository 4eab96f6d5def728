import type { CommentedPost } from './publicReplies';
import type {
  Candidate,
  ConsentScope,
  Effect,
  Note,
  Outgoing,
  Passage,
  Run,
  Shelf,
  Standing,
  Value,
  Via,
} from '@dart-loop/core';
import type { AskedCame } from '@dart-loop/core/engine/steps/fromSources';
import type { Failure } from '../channels/adapter';
import type { TermsRow } from '../people/facts';

/**
 * Everything that a batch of answers changes, gathered, to be written by one statement. Times are ISO
 * strings.
 */
export interface Changes {
  conversations: {
    client_id: number;
    id: string;
    person_id: string;
    run_id: string | null;
    run_ids: string[];
    standing: Standing;
    shelf: Shelf;
    waiting_since: string | null;
    seq: number;
    last_words: string;
    last_at: string;
  }[];
  people: {
    client_id: number;
    id: string;
    first_name: string | null;
    last_name: string | null;
    language: string | null;
    /** Fields that have another value now, and those that have none any more. */
    fields: Record<string, Value>;
    fields_off: string[];
    changed: Record<string, number>;
    history: Record<string, Passage>;
    tags_on: string[];
    tags_off: string[];
    lists_on: string[];
    lists_off: string[];
    at: string;
  }[];
  identities: {
    client_id: number;
    id: string;
    person_id: string;
    line_id: number;
    address: string;
    handle: string | null;
    at: string;
  }[];
  runs: {
    client_id: number;
    id: string;
    conversation_id: string;
    loop_id: string;
    version: number;
    status: Run['status'];
    state: Run;
    at: string;
  }[];
  decisions: {
    client_id: number;
    id: string;
    conversation_id: string;
    event_id: string | null;
    seq: number;
    at: string;
    candidates: Candidate[] | null;
    notes: Note[];
  }[];
  messages: {
    client_id: number;
    id: string;
    line_id: number;
    conversation_id: string;
    seq: number;
    address: string;
    at: string;
    loop_id: string | null;
    version: number | null;
    step_id: string | null;
    by_hand: string | null;
    body: Outgoing;
    status: 'queued' | 'held' | 'failed';
    via: Via | null;
    go_until: string | null;
    failure: Failure | null;
    unasked: boolean;
    list: string | null;
    zone: string | null;
    about_consent: boolean;
  }[];
  /** What the people are found by, where that has changed. */
  terms: TermsRow[];
  /** Conversations in which what was held back may go now. */
  released: { client_id: number; conversation_id: string; go_until: string | null }[];
  /** Posts under which a comment was answered in public, each once for every answer. */
  publicReplies: CommentedPost[];
  /** Loops that have given way: what they held in a conversation, up to that place in it, is dropped. */
  dropped: {
    client_id: number;
    conversation_id: string;
    loop_id: string;
    up_to: number;
    failure: Failure;
  }[];
  /** What is to be said in other conversations of the same people. */
  elsewhere: { client_id: number; conversation_id: string; at: string; body: object }[];
  /** By conversation and key: what a timer is set to, or null to take it away. */
  timers: Map<string, TimerRow & { set: boolean }>;
  fieldChanges: {
    client_id: number;
    person_id: string;
    field: string;
    before: Value | null;
    after: Value | null;
    at: string;
    by: ChangedBy;
  }[];
  tagChanges: {
    client_id: number;
    person_id: string;
    tag: string;
    is_on: boolean;
    at: string;
    by: ChangedBy;
  }[];
  listChanges: {
    client_id: number;
    person_id: string;
    list: string;
    is_on: boolean;
    at: string;
    by: ChangedBy;
  }[];
  consents: {
    client_id: number;
    person_id: string;
    line_id: number;
    conversation_id: string;
    event_id: string | null;
    what: string;
    words: string;
    at: string;
    by: ChangedBy | null;
    scope: ConsentScope;
    list: string | null;
    wording: number | null;
    language: string | null;
    cue_id: string | null;
    confirmed: boolean;
  }[];
  errands: {
    client_id: number;
    id: string;
    conversation_id: string;
    line_id: number;
    kind: string;
    run_id: string | null;
    turn: number | null;
    body: object;
    by: ChangedBy;
    at: string;
  }[];
  /** Questions that the sources were asked, and what came of each. */
  asked: {
    client_id: number;
    id: string;
    conversation_id: string;
    loop_id: string;
    at: string;
    question: string;
    came: AskedCame;
    passages: string[];
  }[];
  /** What steps send out to destinations, by the names they say. */
  deliveries: { client_id: number; person_id: string; destination: string; cause: string; at: string }[];
  /** What becomes of bookings, in order. */
  bookings: BookingRow[];
  /** Ids of pending rows that are done. */
  done: number[];
}

/** A time of a calendar that is taken, or another one that a booking gets, or none any more. */
export type BookingRow = {
  client_id: number;
  id: string;
  calendar: string;
  person_id: string;
  starts_at: string;
  at: string;
  by: ChangedBy;
} & (
  | {
      what: 'booked' | 'moved';
      calendar_id: string;
      ends_at: string;
      kept_until: string;
      day_field: string;
      time_field: string;
    }
  | { what: 'cancelled' }
);

export interface TimerRow {
  client_id: number;
  conversation_id: string;
  key: string;
  line_id: number;
  due_at: string;
  incoming: Extract<Effect, { kind: 'timer' }>['incoming'];
}

/**
 * Who or what set a value: a step of a loop, the person's own words, one of the team, an import, another
 * system by a key of the API or a webhook, or two people becoming one.
 */
export type ChangedBy =
  | { kind: 'loop'; loopId: string; loop: string; version: number; stepId: string; conversationId: string }
  | { kind: 'person' }
  | { kind: 'team'; accountId: number; name: string }
  | { kind: 'task'; taskId: string; name: string }
  | { kind: 'system'; name: string }
  | { kind: 'merge'; name: string };

export function noChanges(): Changes {
  return {
    conversations: [],
    people: [],
    identities: [],
    runs: [],
    decisions: [],
    messages: [],
    terms: [],
    released: [],
    dropped: [],
    publicReplies: [],
    elsewhere: [],
    timers: new Map(),
    fieldChanges: [],
    tagChanges: [],
    listChanges: [],
    consents: [],
    errands: [],
    asked: [],
    deliveries: [],
    bookings: [],
    done: [],
  };
}
