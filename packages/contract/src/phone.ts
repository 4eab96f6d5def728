import { z } from 'zod';

const who = z.string().regex(/^\+?\d{3,20}$/);
const name = z.string().trim().max(60).default('');
const words = z.string().min(1, 'write something first').max(4_096);

/** What the test phone's customer does. */
export const PhoneAct = z.intersection(
  z.object({ line: z.number().int(), who }),
  z.discriminatedUnion('do', [
    z.object({ do: z.literal('write'), name, text: words }),
    z.object({ do: z.literal('tap'), messageId: z.string().max(80), data: z.string().min(1).max(1_000) }),
    z.object({ do: z.literal('send'), name, what: z.enum(['picture', 'voice note', 'place']) }),
    z.object({
      do: z.literal('comment'),
      name,
      postId: z.string().max(80),
      text: words,
      under: z.string().max(120).nullable().default(null),
    }),
    z.object({ do: z.literal('edit comment'), commentId: z.string().max(120), text: words }),
    z.object({ do: z.literal('remove comment'), commentId: z.string().max(120) }),
    z.object({ do: z.literal('click ad'), name, adId: z.string().max(80) }),
    z.object({
      do: z.literal('lead form'),
      adId: z.string().max(80),
      /** As cues name it: 5 to 20 digits. */
      form: z.string().regex(/^\d{5,20}$/, 'the id of a form is 5 to 20 digits'),
      /** By the names of the form's questions, such as phone_number. */
      answers: z.record(z.string().max(60), z.string().max(400)),
      /** Whether the platform lets us read what was answered. */
      readable: z.boolean(),
    }),
    z.object({ do: z.literal('open link'), name, ref: z.string().min(1).max(200) }),
    z.object({ do: z.literal('menu'), name, item: z.string().min(1).max(40) }),
    z.object({ do: z.literal('block'), is: z.boolean() }),
  ]),
);
export type PhoneAct = z.infer<typeof PhoneAct>;
export const PhoneLook = z.object({ line: z.coerce.number().int(), who });
/** Somebody new, who has never written to the line. */
export const PhoneSomebody = z.object({ line: z.number().int() });

export interface PhoneButton {
  text: string;
  data?: string;
  url?: string;
  note?: string;
}
export interface PhoneMessage {
  id: string;
  from: 'person' | 'line';
  text: string;
  at: string;
  buttons: PhoneButton[];
  as: 'keyboard' | 'quick replies' | 'buttons' | 'list' | 'none';
  opens?: string;
  media?: string;
}
export interface PhonePost {
  id: string;
  text: string;
  at: string;
  comments: { id: string; who: string; name: string; text: string; at: string; replies: string[] }[];
}
export interface PhonePage {
  messages: PhoneMessage[];
  /** The wall of the account: posts to comment on, ads to click. */
  posts: PhonePost[];
  ads: { id: string; text: string; opening: string }[];
  /** What stands before the first message, as it was put on the channel. */
  greeting: string | null;
  /** What stands in the menu or is suggested at the start, as it was put on the channel. */
  menu: { item: string; label: string }[];
  blocked: boolean;
}
