import { z } from 'zod';
import { cueParts } from './cue';

/** Another system calls the client's incoming webhook of this name. */
export const IncomingWebhookCue = z
  .object({
    ...cueParts,
    kind: z.literal('incoming webhook'),
    hook: z
      .string()
      .regex(/^[a-z0-9-]{1,40}$/, 'a webhook is named by 1 to 40 small letters, digits or hyphens'),
  })
  .strict();
export type IncomingWebhookCue = z.infer<typeof IncomingWebhookCue>;
export const incomingWebhookWords = (cue: IncomingWebhookCue) => `the incoming webhook “${cue.hook}”`;
