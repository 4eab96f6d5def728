import { z } from 'zod';
import { cueParts } from './cue';

/** Whatever nothing else took. */
export const FallbackCue = z.object({ ...cueParts, kind: z.literal('fallback') }).strict();
export type FallbackCue = z.infer<typeof FallbackCue>;
export const fallbackWords = () => 'whatever nothing else takes';
