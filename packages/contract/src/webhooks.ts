import { z } from 'zod';
import { IncomingMapping, type Leaf } from '@dart-loop/core/sync/incoming';

export const NewInlet = z.object({
  hook: z
    .string()
    .regex(/^[a-z0-9-]{1,40}$/, 'a webhook is named by 1 to 40 small letters, digits or hyphens'),
});

/**
 * Another system says that something happened to a person of the client; one way of naming them is enough.
 */
export const InletCall = z.object({
  person: z
    .object({
      id: z.uuid(),
      phone: z.string().max(40),
      email: z.string().max(254),
      address: z.string().max(80),
    })
    .partial()
    .strict()
    .refine(
      (person) => Object.keys(person).length === 1,
      'name the person by exactly one of id, phone, email or address',
    ),
});

export interface InletRow {
  id: number;
  hook: string;
  /** The last four characters of its token. */
  hint: string;
  lastHeardAt: string | null;
  /** Whether people are read from what comes, as a mapping says. */
  reads: boolean;
  /** Why the last call was not taken, where it was not. */
  refusal: string | null;
}
/** One incoming webhook, with what its mapping is made from. */
export interface InletPage extends InletRow {
  /** Another one as soon as somebody changes how it is read. */
  revision: string;
  reading: IncomingMapping | null;
  /** The destination that it is the way back of. */
  destinationId: string | null;
  /** The next call is kept as an example till then. */
  listensUntil: string | null;
  example: { at: string; leaves: Leaf[]; guess: IncomingMapping } | null;
  /** Destinations that it may be the way back of. */
  destinations: { id: string; name: string }[];
}
export const Listen = z.object({ on: z.boolean() }).strict();
/** Null: people are not read any more, and a call only names one. */
export const SaveReading = z
  .object({ reading: IncomingMapping.nullable(), destinationId: z.uuid().nullable() })
  .strict();
export const TryReading = z.object({ reading: IncomingMapping, destinationId: z.uuid().nullable() }).strict();
/** What would become of the example, in sentences. */
export interface TriedReading {
  words: string[];
}
export interface WebhooksPage {
  inlets: InletRow[];
}
/** Shown once: only the token's hash is kept. */
export interface NewInletAddress {
  address: string;
}
/** What the client's systems check our signatures with (Standard Webhooks). */
export interface SigningSecret {
  secret: string;
}
