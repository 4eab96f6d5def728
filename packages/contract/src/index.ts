/**
 * What the web and the server say to each other. Requests are Zod schemas, parsed by the server; answers are
 * types.
 */
import { z } from 'zod';

export * from './roles';
export * from './session';
export * from './loops';
export * from './inbox';
export * from './people';
export * from './peopleTasks';
export * from './lines';
export * from './model';
export * from './today';
export * from './phone';
export * from './webhooks';
export * from './sync';
export * from './api';
export * from './bookings';
export * from './accounts';
export * from './answers';
export * from './clients';
export * from './files';

/**
 * What a form was filled in from, as `revision` of what it shows; left out, it is kept over whatever is
 * there.
 */
export const Seen = z.object({ seen: z.string().max(40).optional() });

/** An error's body: RFC 9457 problem details. */
export interface ProblemDetails {
  type: string;
  title: string;
  status: number;
  detail: string;
  /** Single fields that were wrong. */
  errors?: { field: string; detail: string }[];
  /** Somebody else has changed it meanwhile: nothing was kept. */
  changed?: true;
}
