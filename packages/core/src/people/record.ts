import type { ConsentScope } from './list';
import type { Value } from './person';

/** A person as files hold them. Moments in ms. What a file does not say is null or empty. */
export interface PersonRecord {
  id: string | null;
  firstName: string | null;
  lastName: string | null;
  /** ISO 639-1, as the channel says it. */
  language: string | null;
  source: string | null;
  met: number | null;
  seen: number | null;
  tags: string[];
  lists: string[];
  identities: RecordedIdentity[];
  fields: Record<string, Value>;
  /** Entries of the ledger, the oldest first; only some formats hold them. */
  ledger: LedgerEntry[];
}

/** An identity on one of the client's lines, with what was last said about being written to there. */
export interface RecordedIdentity {
  line: string;
  address: string;
  handle: string | null;
  consent: 'opted in' | 'opted out' | null;
}

export interface LedgerEntry {
  what: 'opt-in' | 'opt-out';
  scope: ConsentScope;
  line: string | null;
  list: string | null;
  words: string;
  wording: number | null;
  language: string | null;
  stated: string | null;
  confirmed: boolean;
  at: number;
}

export const emptyRecord = (): PersonRecord => ({
  id: null,
  firstName: null,
  lastName: null,
  language: null,
  source: null,
  met: null,
  seen: null,
  tags: [],
  lists: [],
  identities: [],
  fields: {},
  ledger: [],
});
