import { z } from 'zod';
import { cueParts } from './cue';

/** 1 to 64 letters, digits, underscores and hyphens: what every channel's link can carry. */
export const Ref = z
  .string()
  .regex(/^[A-Za-z0-9_-]{1,64}$/, 'a reference has 1 to 64 letters, digits, underscores or hyphens');

/** A link or QR code that carries a reference. */
export const LinkCue = z.object({ ...cueParts, kind: z.literal('link'), ref: Ref }).strict();
export type LinkCue = z.infer<typeof LinkCue>;
export const linkWords = (cue: LinkCue) => `the link or QR code “${cue.ref}”`;
