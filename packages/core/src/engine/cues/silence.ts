import { z } from 'zod';
import { Duration, durationWords } from '../../loops/model/basics';
import { cueParts } from './cue';

/** The person has not written for so long. */
export const SilenceCue = z.object({ ...cueParts, kind: z.literal('silence'), after: Duration }).strict();
export type SilenceCue = z.infer<typeof SilenceCue>;
export const silenceWords = (cue: SilenceCue) => `nothing heard for ${durationWords(cue.after)}`;
