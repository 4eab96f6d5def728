import { z } from 'zod';
import { ROLES, type Role } from './roles';

export const SignIn = z.object({
  email: z.string().trim().toLowerCase().min(3, 'type your email address').max(254),
  password: z.string().min(1, 'type your password').max(200),
});
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
