import type { PlatformNote } from '@dart-loop/contract';
import { counted } from '@dart-loop/core/language/counted';
import { z } from 'zod';
import type { Received } from './adapter';

export const User = z.object({
  id: z.number(),
  first_name: z.string().default(''),
  last_name: z.string().optional(),
  username: z.string().optional(),
  is_bot: z.boolean().optional(),
  language_code: z.string().max(12).optional(),
});
const File = z.object({ file_id: z.string(), file_name: z.string().optional() });
const Message = z.object({
  message_id: z.number(),
  date: z.number(),
  chat: z.object({ id: z.number(), type: z.string() }),
  from: User.optional(),
  text: z.string().optional(),
  caption: z.string().optional(),
  location: z.object({ latitude: z.number(), longitude: z.number() }).optional(),
  photo: z.array(File).optional(),
  document: File.optional(),
  video: File.optional(),
  audio: File.optional(),
  voice: File.optional(),
  contact: z.looseObject({ phone_number: z.string() }).optional(),
});
export const Update = z.object({
  update_id: z.number().int().nonnegative(),
  message: Message.optional(),
  my_chat_member: z
    .looseObject({
      chat: z.looseObject({ id: z.number(), type: z.string() }),
      from: User.optional(),
      date: z.number(),
      new_chat_member: z.looseObject({ status: z.string() }),
    })
    .optional(),
  callback_query: z
    .object({
      id: z.string(),
      from: User,
      data: z.string().optional(),
      message: Message.partial({ from: true }).loose().optional(),
    })
    .optional(),
});
export const Reply = z.object({
  ok: z.boolean(),
  result: z.unknown().optional(),
  error_code: z.number().optional(),
  description: z.string().optional(),
  parameters: z.object({ retry_after: z.number() }).partial().optional(),
});
const FILES = {
  voice: 'voice note',
  photo: 'picture',
  document: 'file',
  video: 'video',
  audio: 'recording',
} as const;
const OTHERS = { sticker: 'sticker' } as const;
/** What a private message says: a text, a command, the code of a link, a file or a place. */
export function readMessage(
  message: z.infer<typeof Message>,
  raw: object,
): { incoming: Received['incoming']; words: string } {
  const { text, location } = message;
  if (text !== undefined) {
    const start = /^\/start(?:@\w+)?\s+([A-Za-z0-9_-]{1,64})$/.exec(text);
    if (start) return { incoming: { kind: 'reference', ref: start[1]!, ad: null, text: null }, words: text };
    const command = /^\/([a-z0-9_]{1,32})(?:@\w+)?$/i.exec(text);
    if (command) return { incoming: { kind: 'menu', item: command[1]!.toLowerCase() }, words: text };
    return { incoming: { kind: 'text', text }, words: text };
  }
  if (location) return { incoming: { kind: 'place', place: location }, words: '(place)' };
  const kind = (Object.keys(FILES) as (keyof typeof FILES)[]).find((each) => message[each] !== undefined);
  if (kind) {
    const found = message[kind];
    // Of a picture's sizes the last is the largest.
    const file = Array.isArray(found) ? found.at(-1) : found;
    if (file) {
      const what = FILES[kind];
      const named = file.file_name ? { name: file.file_name } : {};
      return {
        incoming: { kind: 'file', file: { address: `telegram:${file.file_id}`, what, ...named } },
        words: message.caption ?? `(${what})`,
      };
    }
  }
  if (message.contact) {
    const number = `+${message.contact.phone_number.replace(/\D/g, '')}`;
    return { incoming: { kind: 'text', text: number }, words: `(contact) ${number}` };
  }
  const other = (Object.keys(OTHERS) as (keyof typeof OTHERS)[]).find((key) => key in raw);
  const what = other ? OTHERS[other] : 'message of an unknown kind';
  return { incoming: { kind: 'other', what }, words: `(${what})` };
}

/** What the platform says of its deliveries to a webhook. */
export const WebhookInfo = z.object({
  ok: z.literal(true),
  result: z.looseObject({
    pending_update_count: z.number().default(0),
    /** In seconds. */
    last_error_date: z.number().optional(),
    last_error_message: z.string().optional(),
  }),
});

export function webhookNotes(info: z.infer<typeof WebhookInfo>['result']): PlatformNote[] {
  const { pending_update_count: waiting, last_error_date, last_error_message } = info;
  const at = last_error_date === undefined ? null : new Date(last_error_date * 1_000).toISOString();
  if (waiting === 0 && at === null) return [];
  const said = last_error_message ? ` Telegram says: “${last_error_message.slice(0, 200)}”.` : '';
  const waits = `${counted(waiting, 'update waits', 'updates wait')} to be delivered`;
  if (at === null) return [{ code: 'undelivered', tone: 'quiet', words: `${waits}.`, at }];
  return waiting > 0
    ? [
        {
          code: 'undelivered',
          tone: 'warning',
          words: `${waits}, and the last try failed.${said} Telegram tries again by itself.`,
          at,
        },
      ]
    : [
        {
          code: 'undelivered',
          tone: 'quiet',
          words: `A delivery failed, and was made up for since.${said}`,
          at,
        },
      ];
}
