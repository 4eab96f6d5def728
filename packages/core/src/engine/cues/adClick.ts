import { z } from 'zod';
import { LocalId } from '../../loops/model/basics';
import { cueParts } from './cue';
import { Ref } from './link';

/** A click on an ad that opens the conversation, by the ad's id or its reference. */
export const AdClickCue = z
  .object({
    ...cueParts,
    kind: z.literal('ad click'),
    ads: z.array(z.string().min(1).max(100)).min(1).max(100).optional(),
    ref: Ref.optional(),
    /**
     * Questions of the loop that the ad itself asks first and that must be answered there, by the ids of
     * their steps.
     */
    required: z.array(LocalId).max(12).optional(),
  })
  .strict()
  .refine(
    (cue) => cue.ads !== undefined || cue.ref !== undefined,
    'an ad click needs the ids of its ads or a reference',
  );
export type AdClickCue = z.infer<typeof AdClickCue>;
export const adClickWords = (cue: AdClickCue) =>
  `a click on ${cue.ads ? (cue.ads.length === 1 ? `the ad ${cue.ads[0]}` : `${cue.ads.length} ads`) : `the ad with the reference “${cue.ref}”`}`;
