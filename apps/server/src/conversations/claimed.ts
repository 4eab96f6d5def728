import type { Beside, Incoming, LineFacts, Passage, Shelf, Standing, Value } from '@dart-loop/core';

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
export interface PersonRow {
  line_key: string;
  line_name: string;
  channel: LineFacts['channel'];
  first_name: string | null;
  last_name: string | null;
  language: string | null;
  fields: Record<string, Value> | null;
  changed: Record<string, number> | null;
  tags: string[] | null;
  lists: string[] | null;
  history: Record<string, Passage> | null;
  source: string | null;
  created_at: Date | null;
  last_seen_at: Date | null;
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
