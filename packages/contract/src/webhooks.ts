import { z } from 'zod';

export const NewInlet = z.object({
  hook: z.string().regex(/^[a-z0-9-]{1,40}$/, 'a webhook is named by 1 to 40 small letters, digits or hyphens'),
});

/** Another system says that something happened to a person of the client; one way of naming them is enough. */
export const InletCall = z.object({
  person: z
    .object({ id: z.uuid(), phone: z.string().max(40), email: z.string().max(254), address: z.string().max(80) })
    .partial()
    .strict()
    .refine((person) => Object.keys(person).length === 1, 'name the person by exactly one of id, phone, email or address'),
});

export interface InletRow {
  id: number;
  hook: string;
  /** The last four characters of its token. */
  hint: string;
  lastHeardAt: string | null;
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
