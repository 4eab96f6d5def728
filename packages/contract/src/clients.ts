import { z } from 'zod';
import { Brief, ClientFacts, LanguageCode } from '@dart-loop/core/people/client';
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
  country: ClientFacts.shape.country.unwrap(),
  timeZone: z.string().max(60),
  languages: z.array(LanguageCode).min(1, 'name at least one language').max(20),
  openingHours: OpeningHours,
});
export type ClientBrief = z.infer<typeof ClientBrief>;
export interface BriefPage extends ClientBrief {
  /** What it was when it was read; see `Seen`. */
  revision: string;
  /** The loops that name each entry, by its key. */
  usedBy: Record<string, string[]>;
  /** Whether it is open now by these hours, and when it opens next; in the client's zone. */
  isOpen: boolean;
  opensAt: string | null;
}

/** A client that is archived, and may come back. */
export interface ArchivedClient {
  id: number;
  name: string;
  archivedAt: string;
}
export interface ClientsPage {
  clients: ClientRow[];
  archived: ArchivedClient[];
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
