import type { Beside, Incoming, LineFacts, Shelf, Standing } from '@dart-loop/core';
import type { StoredPerson } from '../people/stored';

type OrNull<T> = { [K in keyof T]: T[K] | null };

/** A conversation that was claimed, with all that its answers may look at. */
export interface Claimed {
  client_id: number;
  id: string;
  line_id: number;
  address: string;
  person_id: string | null;
  run_ids: string[];
  standing: Partial<Standing>;
  shelf: Shelf;
  waiting_since: Date | null;
  seq: number;
  last_words: string;
  last_at: Date;
}
/** Whoever the conversation is with, all null where they are not known yet, and where it is. */
export interface PersonRow extends OrNull<Omit<StoredPerson, 'id'>> {
  line_key: string;
  line_name: string;
  channel: LineFacts['channel'];
  /** Of the person's other identities; and the handle of this one. */
  addresses: string[];
  handle: string | null;
  /** The person of the conversation, or, when it has none yet, whoever has the same telephone number. */
  known_person_id: string | null;
  beside: Beside[] | null;
}
export interface Profile {
  firstName: string | null;
  lastName: string | null;
  handle: string | null;
  language?: string | null;
}
export interface PendingEvent {
  /** Null for what the conversation itself has raised. */
  id: number | null;
  event_id: string | null;
  /** When it happened, by the platform's own time. */
  happened_at?: Date;
  body: { incoming: Incoming; words?: string; profile?: Profile };
}
