import { z } from 'zod';
import { Brief, ClientFacts, ENTRY_TYPES, LanguageCode } from '@dart-loop/core/people/client';
import { OpeningHours } from '@dart-loop/core/time/openingHours';

/** The agency's clients, and each one's brief. */

const ClientName = z.string().trim().min(1, 'type a name').max(80, 'is at most 80 characters');
export const NewClient = z.object({
  name: ClientName,
  country: ClientFacts.shape.country.unwrap(),
  timeZone: z.string().max(60),
  language: LanguageCode,
});
export type NewClient = z.infer<typeof NewClient>;

/** How an entry is named where it is merged. */
export const BRIEF_KEY = /^[a-z][a-z0-9_]{0,39}$/;
/** What stands in a brief, and the client’s own facts beside it. */
export const ClientBrief = z.object({
  name: ClientName,
  brief: Brief.refine((brief) => Object.keys(brief).every((key) => BRIEF_KEY.test(key)), {
    error: 'an entry is named by small letters, digits and underscores, such as "booking_link"',
  }),
  /** As what entries of its own are read, by their keys; text where nothing is said. */
  entryTypes: z.record(z.string().regex(BRIEF_KEY), z.enum(ENTRY_TYPES)).default({}),
  country: ClientFacts.shape.country.unwrap(),
  /** Null: that of the country. */
  currency: ClientFacts.shape.currency.unwrap().nullable().default(null),
  timeZone: z.string().max(60),
  languages: z.array(LanguageCode).min(1, 'name at least one language').max(20),
  openingHours: OpeningHours,
});
export type ClientBrief = z.infer<typeof ClientBrief>;
/** Public holidays of the coming year, to be chosen among as closed days. */
export const HolidayQuery = z.object({ country: ClientFacts.shape.country.unwrap() });
export interface HolidayRow {
  /** ISO 8601. */
  date: string;
  name: string;
}

export interface BriefPage extends ClientBrief {
  /** What it was when it was read; see `Seen`. */
  revision: string;
  /** The loops that name each entry, by its key. */
  usedBy: Record<string, string[]>;
}

/** A client that is archived, and may come back. */
export interface ArchivedClient {
  id: number;
  name: string;
  archivedAt: string;
}
/** What is left of a client that was deleted: that it was, and how much it had. */
export interface ClientReceipt {
  name: string;
  askedAt: string;
  /** Who asked for it; null where that account is gone. */
  askedBy: string | null;
  /** Null while there is more to let go of. */
  doneAt: string | null;
  /** How many rows went, by the name of the table. */
  counts: Record<string, number>;
}
/** The name is typed once more, so that it is the one that is meant. */
export const DeleteClient = z.object({ name: z.string().max(200) });
export type DeleteClient = z.infer<typeof DeleteClient>;

export interface ClientsPage {
  clients: ClientRow[];
  archived: ArchivedClient[];
  deleted: ClientReceipt[];
}

export interface ClientRow {
  id: number;
  slug: string;
  name: string;
  lines: number;
  failingLines: number;
  liveLoops: number;
  waiting: number;
  people: number;
}

/** What a client is set up with, in the order in which it is copied. */
export const SET_UP_PARTS = {
  fields: { name: 'Fields', label: 'Fields' },
  lists: { name: 'Lists', label: 'Lists, without the people on them' },
  segments: { name: 'Segments', label: 'Segments' },
  calendars: { name: 'Calendars', label: 'Calendars, without bookings' },
  sending: { name: 'Sending rules', label: 'Sending rules: quiet hours, limits, how long data is kept' },
  destinations: { name: 'Destinations', label: 'Destinations, without tokens, switched off' },
  webhooks: { name: 'Incoming webhooks', label: 'Incoming webhooks, without addresses' },
  loops: { name: 'Loops', label: 'Loops, as drafts' },
  menus: { name: 'Menus of lines', label: 'Menus of lines' },
} as const;
export type SetUpPart = keyof typeof SET_UP_PARTS;
const Part = z.enum(Object.keys(SET_UP_PARTS) as [SetUpPart, ...SetUpPart[]]);

/** A set-up from one client to others, there already or new. */
export const CopySetUp = z
  .object({
    from: z.string().max(80),
    /** Slugs. */
    to: z.array(z.string().max(80)).max(50, 'choose at most 50 clients at once'),
    /** Names of new ones; country, zone and languages are those of the client that is copied. */
    newClients: z.array(ClientName).max(50, 'add at most 50 clients at once'),
    parts: z.array(Part).min(1, 'choose what is copied'),
  })
  .refine(({ to, newClients }) => to.length + newClients.length > 0, {
    path: ['to'],
    error: 'choose a client, or name a new one',
  });
export type CopySetUp = z.infer<typeof CopySetUp>;

/** What became of one part at one client, by names. */
export interface CopiedPart {
  part: SetUpPart;
  added: string[];
  /** There under that name already, and left as they are. */
  kept: string[];
}
export interface CopiedTo {
  /** Null where it is only looked at, and the client is not there yet. */
  slug: string | null;
  name: string;
  isNew: boolean;
  parts: CopiedPart[];
  /** What is left to do by hand, in sentences. */
  left: string[];
}

/** Something that is left to do since a set-up was copied in; it stays until it is done. */
export interface LeftToDo {
  id: number;
  words: string;
  /** Where it is done, below the client. */
  place: string;
  from: string;
}
