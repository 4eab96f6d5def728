import { z } from 'zod';
import { cueParts } from './cue';

/** The first thing ever that a person sends on the line, unless another cue hears it. */
export const FirstMessageCue = z.object({ ...cueParts, kind: z.literal('first message') }).strict();
export type FirstMessageCue = z.infer<typeof FirstMessageCue>;
export const firstMessageWords = () => 'the first message ever';
