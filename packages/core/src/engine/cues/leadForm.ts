import { z } from 'zod';
import { FieldKey } from '../../loops/model/basics';
import { cueParts } from './cue';

/** A lead form of an ad is submitted; `fields` says which of its answers goes into which of ours. */
export const LeadFormCue = z
  .object({
    ...cueParts,
    kind: z.literal('lead form'),
    forms: z.array(z.string().min(1).max(100)).min(1).max(100),
    fields: z.record(z.string().max(100), FieldKey).optional(),
    /** What the form says people agree to; it is then an opt-in in these words. Left out, it is none. */
    optIn: z
      .string()
      .trim()
      .min(10, 'an opt-in needs the whole sentence that the form shows')
      .max(1_000)
      .optional(),
  })
  .strict();
export type LeadFormCue = z.infer<typeof LeadFormCue>;
export const leadFormWords = (cue: LeadFormCue) =>
  cue.forms.length === 1 ? `the lead form ${cue.forms[0]}` : `${cue.forms.length} lead forms`;
