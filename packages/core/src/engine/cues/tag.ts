import { z } from 'zod';
import { TagName } from '../../loops/model/basics';
import { cueParts } from './cue';

/** A tag is put on or taken off. */
export const TagCue = z
  .object({ ...cueParts, kind: z.literal('tag'), tag: TagName, when: z.enum(['added', 'removed']) })
  .strict();
export type TagCue = z.infer<typeof TagCue>;
export const tagWords = (cue: TagCue) => `the tag ${cue.tag} ${cue.when}`;
