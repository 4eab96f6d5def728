import { z } from 'zod';
import { ListName } from '../../loops/model/basics';
import { cueParts } from './cue';

/** The person joins a list. */
export const ListJoinedCue = z
  .object({ ...cueParts, kind: z.literal('list joined'), list: ListName })
  .strict();
export type ListJoinedCue = z.infer<typeof ListJoinedCue>;
export const listJoinedWords = (cue: ListJoinedCue) => `the list ${cue.list} joined`;
