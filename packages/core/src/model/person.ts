import { z } from 'zod';
import { FieldKey } from './basics';

/** The types a field can have. Each has one reader in `words/replies/`. */
export const FieldType = z.enum(['text', 'email', 'phone', 'number', 'date', 'time', 'yes/no', 'one of', 'several of', 'file', 'place']);
export type FieldType = z.infer<typeof FieldType>;

/** A file as a channel hands it on: `address` is where it can be fetched, or the platform's own id of it. */
export const FileValue = z.object({ address: z.string(), name: z.string().optional(), what: z.string() });
export type FileValue = z.infer<typeof FileValue>;
/** Degrees north and east, WGS 84. */
export const PlaceValue = z.object({ latitude: z.number(), longitude: z.number(), name: z.string().optional() });
export type PlaceValue = z.infer<typeof PlaceValue>;

/** A value with its type: a number stays a number, a phone number is in E.164, a date is YYYY-MM-DD, a time HH:MM. */
export const Value = z.discriminatedUnion('type', [
  z.object({ type: z.literal('text'), value: z.string() }),
  z.object({ type: z.literal('email'), value: z.string() }),
  z.object({ type: z.literal('phone'), value: z.string() }),
  z.object({ type: z.literal('number'), value: z.number() }),
  z.object({ type: z.literal('date'), value: z.string() }),
  z.object({ type: z.literal('time'), value: z.string() }),
  z.object({ type: z.literal('yes/no'), value: z.boolean() }),
  z.object({ type: z.literal('one of'), value: z.string() }),
  z.object({ type: z.literal('several of'), value: z.array(z.string()) }),
  z.object({ type: z.literal('file'), value: FileValue }),
  z.object({ type: z.literal('place'), value: PlaceValue }),
]);
export type Value = z.infer<typeof Value>;

/** A value as people read it. */
export function valueWords(value: Value): string {
  switch (value.type) {
    case 'yes/no':
      return value.value ? 'yes' : 'no';
    case 'several of':
      return value.value.join(', ');
    case 'file':
      return value.value.name ?? value.value.what;
    case 'place':
      return value.value.name ?? `${value.value.latitude.toFixed(5)}, ${value.value.longitude.toFixed(5)}`;
    default:
      return String(value.value);
  }
}

/** What one person has been through in one loop: when it began and was finished last (ms), each cue's last start, and the arms drawn by its `vary` steps. */
export interface Passage {
  started: number;
  finished: number | null;
  cues: Record<string, number>;
  arms?: Record<string, string>;
}

/** What is known of one person while a loop runs. */
export interface PersonFacts {
  id: string;
  firstName: string | null;
  lastName: string | null;
  /** ISO 639-1, as the channel says it; a field `language` goes before it. */
  language: string | null;
  fields: Record<string, Value>;
  /** When each field was last changed, in ms. */
  changed: Record<string, number>;
  tags: string[];
  lists: string[];
  /** By loop id. */
  history: Record<string, Passage>;
}

/** Somebody of whom nothing is known yet. */
export function stranger(id: string): PersonFacts {
  return { id, firstName: null, lastName: null, language: null, fields: {}, changed: {}, tags: [], lists: [], history: {} };
}

/** A client's fields: key to type. */
export type FieldTypes = Record<string, FieldType>;

export const FieldDefinition = z.object({ key: FieldKey, type: FieldType, name: z.string().trim().min(1).max(60) });
export type FieldDefinition = z.infer<typeof FieldDefinition>;
