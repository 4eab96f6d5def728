import type { LineTie, Value } from '@dart-loop/core';
import type { ChangedBy } from '../conversations/changes';
import type { KnownPerson } from './facts';

/** What is to become of one person; what is left out stays as it is. A value of null takes the field away. */
export interface PersonChange {
  id: string;
  /** Somebody new; met at this moment (ms), where it is not now. */
  isNew?: { met?: number; seen?: number; source: string | null };
  firstName?: string | null;
  lastName?: string | null;
  language?: string | null;
  fields?: Record<string, Value | null>;
  /** When the fields were changed (ms), where that was not now. */
  fieldsAt?: number;
  tags?: { on?: readonly string[]; off?: readonly string[] };
  /** Lists that are joined need what that rests on. */
  lists?: { on?: readonly string[]; off?: readonly string[] };
  identities?: readonly NewIdentity[];
  optIns?: readonly { lineId: number }[];
  optOuts?: readonly { lineId: number }[];
  everything?: 'opt-out';
}

/** An identity that is brought in: a number or account on one of the client's lines. */
export interface NewIdentity {
  /** Also its conversation's. */
  id: string;
  lineId: number;
  line: Pick<LineTie, 'key' | 'channel'>;
  address: string;
  handle: string | null;
}

/** Who changes, when, and what new opt-ins rest on. */
export interface Changing {
  clientId: number;
  now: number;
  by: ChangedBy;
  /** Where an opt-in comes from that nobody here has seen: "till form, June 2026". */
  stated: string | null;
  /** The wordings of lists as they are now, by name. */
  wordings?: Readonly<Record<string, { words: string; version: number | null }>>;
  /** Whose entries of the ledger are written here; left out: everybody's. */
  ledgerOf?: (personId: string) => boolean;
}

/** A person before and after, as far as it is another now. */
export interface Changed {
  before: KnownPerson | null;
  after: KnownPerson;
  tagsOn: string[];
  tagsOff: string[];
  listsOn: string[];
  listsOff: string[];
  fields: { field: string; before: Value | null; after: Value | null }[];
}
