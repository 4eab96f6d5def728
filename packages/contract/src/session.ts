import { z } from 'zod';

export const ROLES = ['owner', 'builder', 'operator', 'client'] as const;
export type Role = (typeof ROLES)[number];

/** What one may do; each role has some. The server checks every route against this table, the web hides what is not allowed. */
export const PERMISSIONS = {
  'see conversations': ['owner', 'builder', 'operator', 'client'],
  'see people': ['owner', 'builder', 'operator'],
  'see loops': ['owner', 'builder'],
  'change loops': ['owner', 'builder'],
  'see lines': ['owner', 'builder'],
  'change lines': ['owner', 'builder'],
  'use the test phone': ['owner', 'builder'],
} as const satisfies Record<string, readonly Role[]>;
export type Permission = keyof typeof PERMISSIONS;

export function may(role: Role, permission: Permission): boolean {
  return (PERMISSIONS[permission] as readonly Role[]).includes(role);
}

export const SignIn = z.object({ email: z.string().trim().toLowerCase().min(3, 'type your email address').max(254), password: z.string().min(1, 'type your password').max(200) });
export const DemoSignIn = z.object({ role: z.enum(ROLES) });

export interface ClientSummary {
  slug: string;
  id: number;
  name: string;
  /** Conversations that wait for a person. */
  waiting: number;
  failingLines: number;
}
export interface Session {
  account: { name: string; email: string; role: Role; agency: string };
  clients: ClientSummary[];
  /** Whether this server has the test phone. */
  testPhone: boolean;
}
export interface SignInChoices {
  demo: { role: Role; name: string; email: string; password: string }[] | null;
}
