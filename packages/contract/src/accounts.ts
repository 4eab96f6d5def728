import { isZone } from '@dart-loop/core/time/clockTime';
import { z } from 'zod';
import { GRANT_KEYS, ROLES, type Grant, type Role } from './roles';

/** People of the agency: how they come in, what they may do, and their own page. */

export const Email = z
  .string()
  .trim()
  .toLowerCase()
  .max(254, 'is at most 254 characters')
  .pipe(z.email('type an email address such as name@example.org'));
export const PersonName = z.string().trim().min(1, 'type a name').max(80, 'is at most 80 characters');
/** How long a password is at least. Long ones need no digits and signs. */
export const PASSWORD_LENGTH = 10;
export const NewPassword = z
  .string()
  .min(PASSWORD_LENGTH, `needs at least ${PASSWORD_LENGTH} characters`)
  .max(200, 'has at most 200 characters');

/** How dates and numbers can be written: 1 December or December 1, 14:30 or 2:30 pm. */
export const DISPLAY_LOCALES = ['en-GB', 'en-US', 'es', 'fr', 'de', 'pt', 'it'] as const;

/** All clients of the agency, or those with these ids. */
export const Reach = z.union([z.literal('all'), z.array(z.number().int().positive()).max(2_000)]);
export type Reach = z.infer<typeof Reach>;

/** Whoever reads the code in the log founds the agency. */
export const FirstRun = z.object({
  code: z.string().trim().toUpperCase().min(1, 'type the code from the log'),
  agency: z.string().trim().min(1, 'type the name of the agency').max(80, 'is at most 80 characters'),
  name: PersonName,
  email: Email,
  password: NewPassword,
});
/** What an operator is given beyond the inbox; it says nothing of other roles. */
const Grants = z.array(z.enum(GRANT_KEYS)).max(GRANT_KEYS.length).default([]);
export const Invite = z.object({ email: Email, role: z.enum(ROLES), grants: Grants, clients: Reach });
export const ChangeMember = z.object({ role: z.enum(ROLES), grants: Grants, clients: Reach });
/** Somebody follows their link: a name and a password for an invitation, a password for a new one. */
export const FollowLink = z.object({ name: PersonName.optional(), password: NewPassword });
export const ChangeName = z.object({ name: PersonName });
/** How dates, times and numbers are written to one; null: as the device is set. */
export const ChangeDisplay = z.object({
  locale: z.enum(DISPLAY_LOCALES).nullable(),
  timeZone: z.string().max(60).refine(isZone, 'is no time zone, such as Europe/London').nullable(),
});
export type Display = z.infer<typeof ChangeDisplay>;
export const ChangePassword = z.object({
  now: z.string().min(1, 'type the password that you have now').max(200),
  next: NewPassword,
});
/** A client put first in one's own list, or back. */
export const PinClient = z.object({ client: z.number().int().positive(), on: z.boolean() });
export const AskForPassword = z.object({ email: Email });

export const ConfirmFactor = z.object({ code: z.string().trim().min(1, 'type the six digits').max(20) });
export const EndFactor = z.object({
  password: z.string().min(1, 'type the password that you have now').max(200),
});
/** One's second factor; `since` null: it is off. */
export interface FactorState {
  since: string | null;
  /** Recovery codes that are not used up. */
  codesLeft: number;
}
/** What an authenticator is told, as a text to type, as an address, and as its QR code in SVG. */
export interface NewFactor {
  secret: string;
  address: string;
  picture: string;
}

export interface Member {
  id: number;
  name: string;
  email: string;
  role: Role;
  grants: Grant[];
  clients: Reach;
  /** Whether they have a second factor. */
  factor: boolean;
  /** When a session of theirs began last; null when they have none. */
  lastSignIn: string | null;
}
export interface Invitation {
  id: number;
  email: string;
  role: Role;
  grants: Grant[];
  clients: Reach;
  by: string | null;
  expiresAt: string;
}
export interface TeamPage {
  members: Member[];
  invitations: Invitation[];
  /** Those that somebody can be given. */
  clients: { id: number; name: string }[];
  /** Whether this server can send mail. */
  mails: boolean;
}
/** A link to hand over; it is shown this once. */
export interface MadeLink {
  address: string;
  /** Whether it has been sent by mail as well. */
  mailed: boolean;
  expiresAt: string;
}
/** What a link is for, to whoever follows it. */
export interface LinkView {
  kind: 'invitation' | 'password';
  agency: string;
  email: string;
  /** What an invitation makes of them. */
  role: Role | null;
}
export interface OwnSession {
  id: number;
  browser: string;
  address: string;
  beganAt: string;
  /** The one that asks. */
  isThis: boolean;
}

/** A change, as the audit shows it. */
export interface AuditRow {
  id: string;
  at: string;
  by: string | null;
  /** The client it belongs to; null where it belongs to the agency. */
  client: string | null;
  what: string;
  detail: Record<string, unknown>;
  address: string | null;
}
export const AuditQuery = z.object({
  client: z.string().max(80).optional(),
  /** Older than this moment. */
  before: z.iso.datetime().optional(),
});
