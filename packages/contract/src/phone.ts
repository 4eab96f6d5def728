import { z } from 'zod';

/** What the test phone's customer does. */
export const PhoneAct = z.discriminatedUnion('do', [
  z.object({
    do: z.literal('write'),
    line: z.number().int(),
    who: z.string().regex(/^\+?\d{3,15}$/),
    name: z.string().trim().max(60).default(''),
    text: z.string().min(1, 'write something first').max(4_096),
  }),
  z.object({
    do: z.literal('tap'),
    line: z.number().int(),
    who: z.string().regex(/^\+?\d{3,15}$/),
    messageId: z.string().max(40),
    data: z.string().min(1).max(64),
  }),
]);
export type PhoneAct = z.infer<typeof PhoneAct>;
export const PhoneLook = z.object({ line: z.coerce.number().int(), who: z.string().regex(/^\+?\d{3,15}$/) });

/** Somebody new, who has never written to the line. */
export const PhoneSomebody = z.object({ line: z.number().int() });

export interface PhoneMessage {
  id: string;
  from: 'person' | 'line';
  text: string;
  at: string;
  buttons: { text: string; data: string }[];
}
export interface PhonePage {
  messages: PhoneMessage[];
}
