import type { Template } from '../channels/template';
import { z } from 'zod';
import { QuietByChannel } from '../consent/quietHours';
import { CHANNEL_KINDS, ChannelKind } from '../channels/channelKind';
import { OpeningHours } from '../time/openingHours';

export { CHANNEL_KINDS, ChannelKind };

const entry = z.string().trim().max(400);

/** The client's facts, kept once and merged anywhere as `{{ brief.phone }}`. */
export const Brief = z
  .object({
    hours: entry,
    address: entry,
    phone: entry,
    booking_link: entry,
    privacy_link: entry,
    tone: entry,
  })
  .partial()
  .catchall(entry);
export type Brief = z.infer<typeof Brief>;

/** What an entry of a client's own in the brief can be read as. */
export const ENTRY_TYPES = [
  'text',
  'phone',
  'email',
  'page address',
  'date',
  'time',
  'number',
  'file',
] as const;
export type EntryType = (typeof ENTRY_TYPES)[number];

/**
 * Languages that words of our own exist in: opt-out words, yes and no, the few sentences the program says by
 * itself.
 */
export const LANGUAGES = ['en', 'es', 'fr', 'de', 'pt', 'it'] as const;
export type Language = (typeof LANGUAGES)[number];

/** Any language a text can be written in, ISO 639-1. */
export const LanguageCode = z.string().regex(/^[a-z]{2}$/, 'a language is two small letters, such as "es"');

/**
 * The client as a run sees it. `country` is ISO 3166-1 alpha-2 and decides how local phone numbers are read;
 * `timeZone` is an IANA name; the first of `languages` is the one a loop's own texts are in.
 */
export const ClientFacts = z.object({
  name: z.string().min(1).max(120),
  brief: Brief.default({}),
  country: z
    .string()
    .regex(/^[A-Z]{2}$/, 'a country is two capital letters, such as "GB"')
    .default('GB'),
  /** ISO 4217, for amounts; left out, it is that of the country. */
  currency: z
    .string()
    .regex(/^[A-Z]{3}$/, 'a currency is three capital letters, such as "GBP"')
    .optional(),
  timeZone: z.string().default('Europe/London'),
  languages: z.array(LanguageCode).min(1).default(['en']),
  openingHours: OpeningHours.default({}),
  quiet: QuietByChannel.optional(),
  /** The addresses of the client's files, by the names that texts give them: `{{ file.timetable }}`. */
  files: z.record(z.string(), z.string()).optional(),
});
export type ClientFacts = z.infer<typeof ClientFacts>;

/** The line a conversation is on. */
export interface LineFacts {
  key: string;
  name: string;
  channel: ChannelKind;
  /** What the channel has approved to be sent where its window is shut. */
  templates?: Template[];
}

/** The name of the client's file that a text stands for, where it names one and nothing else. */
export const fileNamed = (text: string): string | null =>
  /^\s*\{\{-?\s*file\.([a-z0-9_]+)\s*-?\}\}\s*$/.exec(text)?.[1] ?? null;

type BriefWithFiles = Pick<ClientFacts, 'brief' | 'files'>;

/** An entry of the brief as texts merge it: a file is its address, and empty where it is gone. */
export function saidEntry({ brief, files = {} }: BriefWithFiles, key: string): string {
  const entries = brief as Record<string, string>;
  const said = Object.hasOwn(entries, key) ? entries[key]! : '';
  const file = fileNamed(said);
  return file === null ? said : (files[file] ?? '');
}

/** The whole brief, as {@link saidEntry} gives each entry. */
export const saidBrief = (client: BriefWithFiles): Record<string, string> =>
  Object.fromEntries(Object.keys(client.brief).map((key) => [key, saidEntry(client, key)]));
