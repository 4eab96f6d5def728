import { z } from 'zod';
import type { Display } from './accounts';
import { ROLES, type Grant, type Role } from './roles';

export const SignIn = z.object({
  email: z.string().trim().toLowerCase().min(3, 'type your email address').max(254),
  password: z.string().min(1, 'type your password').max(200),
  /** Of the authenticator, or a recovery code; asked for where the account has a second factor. */
  code: z.string().trim().max(20).optional(),
});
/** An account that a demonstration offers to everybody who opens its sign-in page. */
export const DemoSignIn = z.object({
  role: z.enum(ROLES),
  name: z.string(),
  email: z.string(),
  password: z.string(),
  /** What it may do, in a few words. */
  words: z.string(),
});
export type DemoSignIn = z.infer<typeof DemoSignIn>;

export interface ClientSummary {
  slug: string;
  id: number;
  name: string;
  /** Conversations that wait for a person. */
  waiting: number;
  failingLines: number;
  /** Whether one has put it first. */
  pinned: boolean;
}
/** `every line`: all are on stand-ins, as in a demonstration. */
export type TestPhone = 'every line' | 'lines for trying out';
export interface Session {
  account: {
    id: number;
    name: string;
    email: string;
    role: Role;
    grants: Grant[];
    agency: string;
    display: Display;
  };
  clients: ClientSummary[];
  /** Which lines the test phone can write to; null: this server has none. */
  testPhone: TestPhone | null;
}
export interface SignInChoices {
  /** Nobody has an account yet: the first page founds the agency. */
  firstRun: boolean;
  /** Empty but in a demonstration. */
  demo: DemoSignIn[];
}
