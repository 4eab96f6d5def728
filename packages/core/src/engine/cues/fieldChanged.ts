import { z } from 'zod';
import { FieldKey } from '../../loops/model/basics';
import { cueParts } from './cue';

/** A field gets another value; with `to`, only that one (compared without case and accents). */
export const FieldChangedCue = z
  .object({
    ...cueParts,
    kind: z.literal('field changed'),
    field: FieldKey,
    to: z.string().max(200).optional(),
  })
  .strict();
export type FieldChangedCue = z.infer<typeof FieldChangedCue>;
export const fieldChangedWords = (cue: FieldChangedCue) =>
  `${cue.field.replaceAll('_', ' ')} changed${cue.to === undefined ? '' : ` to “${cue.to}”`}`;
