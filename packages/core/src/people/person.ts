import { z } from 'zod';
import { FieldKey } from '../loops/model/basics';
import type { ChannelKind, ClientFacts } from './client';

/** The types a field can have. Each has one reader in `words/replies/`. */
export const FieldType = z.enum([
  'text',
  'email',
  'phone',
  'number',
  'date',
  'time',
  'yes/no',
  'one of',
  'several of',
  'page address',
  'file',
  'place',
]);
export type FieldType = z.infer<typeof FieldType>;

/** A file as a channel hands it on: `address` is where it can be fetched, or the platform's own id of it. */
export const FileValue = z.object({ address: z.string(), name: z.string().optional(), what: z.string() });
export type FileValue = z.infer<typeof FileValue>;
/** Degrees north and east, WGS 84. */
export const PlaceValue = z.object({
  latitude: z.number(),
  longitude: z.number(),
  name: z.string().optional(),
});
export type PlaceValue = z.infer<typeof PlaceValue>;

/**
 * A value with its type: a number stays a number, a phone number is in E.164, a date is YYYY-MM-DD, a time
 * HH:MM, the address of a page an absolute URL.
 */
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
  z.object({ type: z.literal('page address'), value: z.string() }),
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

/**
 * What one person has been through in one loop: when it began and was finished last (ms), each cue's last
 * start, and the arms drawn by its `vary` steps.
 */
export interface Passage {
  started: number;
  finished: number | null;
  cues: Record<string, number>;
  arms?: Record<string, string>;
  /** The scene that the last run stands in or stood in last, and whether it is still under way. */
  stands?: { scene: string; underWay: boolean };
}

/** A line that the person has an identity on, with what they last said about being written to there. */
export interface LineTie {
  key: string;
  channel: ChannelKind;
  optedIn: boolean;
  optedOut: boolean;
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
  /** Lines that they have an identity on. */
  ties: LineTie[];
  /**
   * How they came to be known: the name of an import, "an API call"; null for whoever wrote by themselves.
   */
  source: string | null;
  /** When they were first and last met, in ms. */
  met: number;
  seen: number;
}

/** Somebody of whom nothing is known yet, met at `now` (ms). */
export function stranger(id: string, now = 0): PersonFacts {
  return {
    id,
    firstName: null,
    lastName: null,
    language: null,
    fields: {},
    changed: {},
    tags: [],
    lists: [],
    history: {},
    ties: [],
    source: null,
    met: now,
    seen: now,
  };
}

/**
 * The person's language: a field of theirs, what the channel says where the client speaks it, else the
 * client's first.
 */
export function languageOf(person: PersonFacts, client: ClientFacts): string {
  return knownLanguageOf(person, client) ?? client.languages[0] ?? 'en';
}

/**
 * The language that is known of a person, by a field of theirs or by what the channel says where the client
 * speaks it; null where nothing says it.
 */
export function knownLanguageOf(person: PersonFacts, client: ClientFacts): string | null {
  const own = person.fields.language;
  if (own && typeof own.value === 'string' && /^[a-z]{2}$/i.test(own.value)) return own.value.toLowerCase();
  const said = person.language?.slice(0, 2).toLowerCase();
  return said && (client.languages.includes(said) || client.languages.length === 0) ? said : null;
}

/** A client's fields: key to type. */
export type FieldTypes = Record<string, FieldType>;

export const FieldDefinition = z
  .object({
    key: FieldKey,
    type: FieldType,
    name: z
      .string()
      .trim()
      .min(1, 'a field needs a name')
      .max(60, 'the name of a field has at most 60 characters'),
    description: z.string().trim().max(300).default(''),
    /** Values that may be chosen; only of `one of` and `several of`. Empty: any. */
    options: z.array(z.string().trim().min(1).max(80)).max(100).default([]),
    /** Says something about a person that is theirs: left out of what is handed on without need. */
    personal: z.boolean().default(false),
  })
  .strict();
export type FieldDefinition = z.infer<typeof FieldDefinition>;
