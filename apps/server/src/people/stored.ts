import type { Passage, PersonFacts, Value } from '@dart-loop/core';

/** A person as they are kept: one row, by its columns. */
export interface StoredPerson {
  id: string;
  first_name: string | null;
  last_name: string | null;
  language: string | null;
  fields: Record<string, Value>;
  changed: Record<string, number>;
  tags: string[];
  lists: string[];
  history: Record<string, Passage>;
  source: string | null;
  created_at: Date;
  last_seen_at: Date;
}

/** The columns but the client and the id, with the type of each. */
const COLUMNS: Record<keyof Omit<StoredPerson, 'id'>, string> = {
  first_name: 'text',
  last_name: 'text',
  language: 'text',
  fields: 'jsonb',
  changed: 'jsonb',
  tags: 'text[]',
  lists: 'text[]',
  history: 'jsonb',
  source: 'text',
  created_at: 'timestamptz',
  last_seen_at: 'timestamptz',
};

const NAMES = Object.keys(COLUMNS);

/** The columns of {@link StoredPerson} but the id, as they are written into. */
export const INTO_PERSON = NAMES.join(', ');

/** The same, read from what a statement calls `p`. */
export const PERSON_COLUMNS = NAMES.map((column) => `p.${column}`).join(', ');

/** The same as they stand in a record of JSON, with their types. */
export const PERSON_RECORD = Object.entries(COLUMNS)
  .map(([column, type]) => `${column} ${type}`)
  .join(', ');

/** What is known of somebody by their row. Which lines they are on does not stand in it. */
export const knownBy = (row: StoredPerson): Omit<PersonFacts, 'ties'> => ({
  id: row.id,
  firstName: row.first_name,
  lastName: row.last_name,
  language: row.language,
  fields: row.fields,
  changed: row.changed,
  tags: row.tags,
  lists: row.lists,
  history: row.history,
  source: row.source,
  met: row.created_at.getTime(),
  seen: row.last_seen_at.getTime(),
});
