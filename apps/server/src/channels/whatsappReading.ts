import { readChoiceRef } from '@dart-loop/core';
import { z } from 'zod';
import { isTooDeep } from '../platform/db/json';
import type { Received, StatusReport, OpenLine, HookReading } from './adapter';
import { graphTrouble } from './graph';
import { parseJson, partOf, TOO_DEEP } from './messaging';
import { quoted } from './trouble';

export const PLATFORM = 'WhatsApp';
const File = z.looseObject({
  id: z.string().optional(),
  caption: z.string().optional(),
  filename: z.string().optional(),
});
const Message = z.looseObject({
  from: z.string(),
  id: z.string(),
  timestamp: z.string(),
  type: z.string(),
  text: z.object({ body: z.string() }).optional(),
  interactive: z
    .looseObject({
      type: z.string(),
      button_reply: z.object({ id: z.string(), title: z.string() }).optional(),
      list_reply: z.looseObject({ id: z.string(), title: z.string() }).optional(),
    })
    .optional(),
  button: z.object({ payload: z.string().optional(), text: z.string() }).optional(),
  image: File.optional(),
  video: File.optional(),
  audio: File.optional(),
  voice: File.optional(),
  document: File.optional(),
  sticker: File.optional(),
  location: z
    .looseObject({ latitude: z.number(), longitude: z.number(), name: z.string().optional() })
    .optional(),
  contacts: z
    .array(
      z.looseObject({
        phones: z
          .array(z.looseObject({ phone: z.string().optional(), wa_id: z.string().optional() }))
          .optional(),
      }),
    )
    .optional(),
  referral: z
    .looseObject({ source_id: z.string().optional(), source_type: z.string().optional() })
    .optional(),
});
const Report = z.looseObject({
  id: z.string(),
  status: z.string(),
  timestamp: z.string().optional(),
  recipient_id: z.string(),
  errors: z.array(z.looseObject({ code: z.number(), title: z.string().optional() })).optional(),
});
const Preference = z.looseObject({
  wa_id: z.string(),
  value: z.string(),
  timestamp: z.union([z.string(), z.number()]).optional(),
});
const Contact = z.looseObject({ wa_id: z.string(), profile: z.looseObject({ name: z.string() }).optional() });
const Value = z.looseObject({
  metadata: z.looseObject({ phone_number_id: z.string() }),
  contacts: z.array(z.unknown()).optional(),
  messages: z.array(z.unknown()).optional(),
  statuses: z.array(z.unknown()).optional(),
  user_preferences: z.array(z.unknown()).optional(),
});
const Body = z.looseObject({
  object: z.literal('whatsapp_business_account'),
  entry: z.array(z.unknown()).max(1000),
});
const Entry = z.looseObject({ id: z.string(), changes: z.array(z.unknown()) });
const Change = z.looseObject({ field: z.string(), value: z.unknown() });
const FILES = {
  image: 'picture',
  video: 'video',
  audio: 'voice note',
  voice: 'voice note',
  document: 'file',
} as const;
function readMessage(message: z.infer<typeof Message>): [Received['incoming'], string] {
  const { interactive, button, text, location, referral, contacts } = message;
  const reply = interactive?.button_reply ?? interactive?.list_reply;
  const payload = reply?.id ?? button?.payload;
  const ref = payload === undefined ? null : readChoiceRef(payload);
  if (ref)
    return [{ kind: 'tap', ...ref, label: reply?.title ?? button!.text }, reply?.title ?? button!.text];
  const words = text?.body ?? button?.text ?? reply?.title;
  if (referral?.source_type === 'ad' && referral.source_id)
    return [
      { kind: 'reference', ref: null, ad: referral.source_id, text: words ?? null },
      words ?? '(click on an ad)',
    ];
  if (words !== undefined) return [{ kind: 'text', text: words }, words];
  if (location) {
    const { latitude, longitude, name } = location;
    return [
      { kind: 'place', place: { latitude, longitude, ...(name && { name }) } },
      name ? `(place ${name})` : '(place)',
    ];
  }
  const kind = (Object.keys(FILES) as (keyof typeof FILES)[]).find((each) => message[each]?.id !== undefined);
  if (kind) {
    const { id, caption, filename } = message[kind]!;
    return [
      {
        kind: 'file',
        file: { address: `whatsapp:${id}`, what: FILES[kind], ...(filename && { name: filename }) },
      },
      caption ?? `(${FILES[kind]})`,
    ];
  }
  const phone = contacts?.[0]?.phones?.[0];
  const number = phone?.phone ?? (phone?.wa_id && `+${phone.wa_id}`);
  if (number) return [{ kind: 'text', text: number }, `(contact) ${number}`];
  const what =
    message.type === 'sticker'
      ? 'sticker'
      : message.type === 'reaction'
        ? 'reaction'
        : 'message of an unknown kind';
  return [{ kind: 'other', what }, `(${what})`];
}
function readReport(report: z.infer<typeof Report>): StatusReport | null {
  const { status, errors = [] } = report;
  if (status !== 'delivered' && status !== 'read' && status !== 'failed') return null;
  const at = report.timestamp ? Number(report.timestamp) * 1000 : null;
  const [error] = errors;
  const trouble =
    status === 'failed'
      ? graphTrouble(PLATFORM, error?.code ?? 0, undefined, error?.title ? quoted(PLATFORM, error.title) : '')
      : null;
  return {
    status: trouble?.kind === 'outside window' ? 'outside window' : status,
    address: `+${report.recipient_id}`,
    ids: [report.id],
    upTo: null,
    at,
    failure: trouble?.failure ?? null,
  };
}
export function read(raw: Buffer, line: OpenLine): HookReading {
  const body = raw.toString('utf8');
  const reading: HookReading = { received: [], aside: [], statuses: [], others: [] };
  const parsed = Body.safeParse(parseJson(body));
  if (!parsed.success)
    return { ...reading, aside: [{ reason: 'the body does not have the shape of webhook entries', body }] };
  const aside = (reason: string, entry: unknown) =>
    reading.aside.push({
      reason,
      body: partOf(body, { object: 'whatsapp_business_account', entry: [entry] }),
    });
  const all = parsed.data.entry.flatMap((one) => {
    const entry = isTooDeep(one) ? null : Entry.safeParse(one);
    if (entry?.success) return entry.data.changes.map((change) => ({ id: entry.data.id, change }));
    aside(entry ? 'an entry has no id or no changes' : TOO_DEEP, one);
    return [];
  });
  for (const { id: entryId, change } of all) {
    const read = Change.safeParse(change);
    if (!read.success) {
      aside('a change does not say of what it is', { id: entryId, changes: [change] });
      continue;
    }
    const { field, value } = read.data;
    if (field === 'message_template_status_update') {
      reading.templatesChanged = true;
      continue;
    }
    const found = Value.safeParse(value);
    if (!found.success) {
      aside(`it is a change of “${field.slice(0, 60)}”, which is not read yet`, {
        id: entryId,
        changes: [change],
      });
      continue;
    }
    const part = (of: object) => ({
      id: entryId,
      changes: [{ field, value: { metadata: found.data.metadata, contacts: found.data.contacts, ...of } }],
    });
    const { metadata, contacts = [], messages = [], statuses = [], user_preferences = [] } = found.data;
    if (metadata.phone_number_id !== line.account.id) {
      if (!reading.others!.includes(metadata.phone_number_id)) reading.others!.push(metadata.phone_number_id);
      continue;
    }
    for (const one of messages) {
      const message = Message.safeParse(one);
      if (!message.success) {
        aside('a message lacks its sender, id, time or kind', part({ messages: [one] }));
        continue;
      }
      const { from, id, timestamp } = message.data;
      const [incoming, words] = readMessage(message.data);
      const contact = contacts
        .map((each) => Contact.safeParse(each).data)
        .find((each) => each?.wa_id === from);
      const [firstName, ...rest] = (contact?.profile?.name ?? '').split(' ');
      reading.received.push({
        providerId: id,
        place: null,
        at: Number(timestamp) * 1000 || null,
        address: `+${from}`,
        profile: { firstName: firstName || null, lastName: rest.join(' ') || null, handle: null },
        incoming,
        words,
      });
    }
    for (const one of statuses) {
      const report = Report.safeParse(one);
      if (!report.success) aside('a report lacks its id, state or recipient', part({ statuses: [one] }));
      else {
        const status = readReport(report.data);
        if (status) reading.statuses!.push(status);
      }
    }
    for (const one of user_preferences) {
      const wish = Preference.safeParse(one);
      if (!wish.success) aside('a wish about messages lacks who has it', part({ user_preferences: [one] }));
      else
        reading.received.push({
          providerId: `preference:${wish.data.wa_id}:${wish.data.value}:${wish.data.timestamp ?? ''}`,
          place: null,
          at: null,
          address: `+${wish.data.wa_id}`,
          profile: { firstName: null, lastName: null, handle: null },
          incoming: { kind: 'blocked', on: wish.data.value === 'stop' },
          words: wish.data.value === 'stop' ? '(wants no more messages)' : '(wants messages again)',
        });
    }
  }
  return reading;
}
