import { parsePhoneNumberFromString } from 'libphonenumber-js';
import { z } from 'zod';
import { readChoiceRef, type Outgoing, type Template } from '@dart-loop/core';
import { isTooDeep } from '../platform/db/json';
import type {
  Adapter,
  Connecting,
  Failure,
  HookReading,
  OpenLine,
  Received,
  Sent,
  StatusReport,
} from './adapter';
import {
  graphCall,
  graphChallenge,
  graphProblem,
  graphRefusal,
  graphTrouble,
  readAnswer,
  readAppSecrets,
  verifyGraph,
  verifyToken,
} from './graph';
import { TOO_DEEP, parseJson, partOf } from './messaging';
import { quoted } from './trouble';

const PLATFORM = 'WhatsApp';
const Phone = z.looseObject({
  id: z.string(),
  display_phone_number: z.string(),
  verified_name: z.string().optional(),
  status: z.string().optional(),
});
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
  entry: z.array(z.unknown()).max(1_000),
});
const Entry = z.looseObject({ id: z.string(), changes: z.array(z.unknown()) });
const Change = z.looseObject({ field: z.string(), value: z.unknown() });
const SentMessage = z.looseObject({ messages: z.array(z.looseObject({ id: z.string() })).min(1) });

const TemplateList = z.object({
  data: z.array(
    z.looseObject({
      name: z.string(),
      language: z.string(),
      status: z.string(),
      category: z.string().default(''),
      components: z
        .array(
          z.looseObject({
            type: z.string(),
            text: z.string().optional(),
            buttons: z.array(z.looseObject({ type: z.string(), text: z.string().default('') })).optional(),
          }),
        )
        .default([]),
    }),
  ),
});
const STATES: Record<string, Template['status']> = {
  APPROVED: 'approved',
  PAUSED: 'paused',
  REJECTED: 'rejected',
  DISABLED: 'rejected',
};

function templateOf({
  name,
  language,
  status,
  category,
  components,
}: z.infer<typeof TemplateList>['data'][number]): Template {
  const body = components.find((each) => each.type === 'BODY')?.text ?? '';
  return {
    name,
    language,
    // What is neither approved nor refused for good is looked at still.
    status: STATES[status] ?? 'pending',
    category: category.toLowerCase(),
    body,
    parameters: new Set(body.match(/\{\{\d+\}\}/g)).size,
    buttons: components
      .flatMap((each) => each.buttons ?? [])
      .filter((button) => button.type === 'QUICK_REPLY')
      .map((button) => button.text),
  };
}

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
  const at = report.timestamp ? Number(report.timestamp) * 1_000 : null;
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

function read(raw: Buffer, line: OpenLine): HookReading {
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
        at: Number(timestamp) * 1_000 || null,
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

/** A message as the Cloud API takes it, without its recipient. */
function messageOf({ text, taps, as, opens, media, template }: Outgoing): object {
  const rows = taps.flatMap((tap) =>
    'ref' in tap
      ? [{ id: tap.ref, title: tap.label, ...(tap.description && { description: tap.description }) }]
      : [],
  );
  if (template)
    return {
      type: 'template',
      template: {
        name: template.name,
        language: { code: template.language },
        components: [
          ...(template.parameters.length > 0
            ? [
                {
                  type: 'body',
                  parameters: template.parameters.map((each) => ({ type: 'text', text: each })),
                },
              ]
            : []),
          ...rows.map(({ id }, index) => ({
            type: 'button',
            sub_type: 'quick_reply',
            index: String(index),
            parameters: [{ type: 'payload', payload: id }],
          })),
        ],
      },
    };
  const interactive = (type: string, action: object) => ({
    type: 'interactive',
    interactive: { type, body: { text }, action },
  });
  if (as === 'buttons')
    return interactive('button', { buttons: rows.map((reply) => ({ type: 'reply', reply })) });
  if (as === 'list') return interactive('list', { button: opens, sections: [{ title: opens, rows }] });
  const link = taps.find((tap) => 'url' in tap);
  if (link)
    return interactive('cta_url', {
      name: 'cta_url',
      parameters: { display_text: link.label, url: link.url },
    });
  if (media) {
    const type = media.what === 'file' ? 'document' : media.what;
    return {
      type,
      [type]: { link: media.address, ...(text !== '' && media.what !== 'audio' && { caption: text }) },
    };
  }
  return { type: 'text', text: { body: text, preview_url: true } };
}

/** WhatsApp Cloud API, for one number. */
export function whatsappAdapter(base: string, key: Buffer): Adapter {
  const call = graphCall(base);
  const pointHere = (account: { wabaId: string }, token: string, hookToken: string, hookAddress: string) =>
    call(`/${account.wabaId}/subscribed_apps`, token, {
      override_callback_uri: hookAddress,
      verify_token: verifyToken(key, hookToken),
    });
  const notRegistered = (phone: z.infer<typeof Phone>): Failure | null =>
    phone.status && phone.status !== 'CONNECTED'
      ? {
          code: '133010',
          reason: `The number ${phone.display_phone_number} is not registered for sending (its state is ${phone.status}).`,
          remedy: 'Register the number on the platform, then test the line.',
        }
      : null;
  return {
    kind: 'whatsapp',
    accountKey: 'id',
    rate: { perSecond: 80, conversationPauseMs: 0 },
    dropsRepeats: false,
    verify: verifyGraph,
    challenge: (query, hookToken) => graphChallenge(query, verifyToken(key, hookToken)),
    read: (request, line) => read(request.body, line),

    async send(outgoing, address, line): Promise<Sent> {
      const answer = await call(`/${line.account.id}/messages`, line.secrets.token!, {
        messaging_product: 'whatsapp',
        recipient_type: 'individual',
        to: address.replace('+', ''),
        ...messageOf(outgoing),
      });
      const sent = readAnswer(answer, SentMessage);
      return sent ? { kind: 'sent', providerId: sent.messages[0]!.id } : graphRefusal(PLATFORM, answer);
    },

    async templates(line) {
      const answer = await call(
        `/${line.account.wabaId}/message_templates?fields=name,language,status,category,components&limit=250`,
        line.secrets.token!,
      );
      const read = readAnswer(answer, TemplateList);
      return read
        ? { templates: read.data.map(templateOf) }
        : { failure: graphRefusal(PLATFORM, answer).failure };
    },

    typedOf: (account) => ({ appId: account.appId!, numberId: account.id!, wabaId: account.wabaId! }),
    accountOf: (typed) => Promise.resolve((typed.numberId ?? '').trim() || null),

    async connect(typed, hookToken, hookAddress): Promise<Connecting> {
      const app = readAppSecrets(typed);
      if ('ok' in app) return app;
      const numberId = (typed.numberId ?? '').trim();
      const wabaId = (typed.wabaId ?? '').trim();
      const shape = (field: string, reason: string): Connecting => ({
        ok: false,
        field,
        failure: {
          code: 'shape',
          reason,
          remedy: 'Both ids stand on the platform’s page for the API, below the number that is chosen there.',
        },
      });
      if (!/^\d{5,20}$/.test(numberId))
        return shape('numberId', 'The number’s id is 5 to 20 digits; it is not the telephone number itself.');
      if (!/^\d{5,20}$/.test(wabaId)) return shape('wabaId', 'The business account’s id is 5 to 20 digits.');
      const asked = await call(`/${numberId}?fields=id,display_phone_number,verified_name,status`, app.token);
      const phone = readAnswer(asked, Phone);
      if (!phone) return { ok: false, field: 'numberId', failure: graphRefusal(PLATFORM, asked).failure };
      const unregistered = notRegistered(phone);
      if (unregistered) return { ok: false, field: 'numberId', failure: unregistered };
      const pointed = graphProblem(PLATFORM, await pointHere({ wabaId }, app.token, hookToken, hookAddress));
      if (pointed) return { ok: false, field: 'wabaId', failure: pointed };
      return {
        ok: true,
        name:
          parsePhoneNumberFromString(
            `+${phone.display_phone_number.replace(/\D/g, '')}`,
          )?.formatInternational() ?? phone.display_phone_number,
        account: {
          id: phone.id,
          number: `+${phone.display_phone_number.replace(/\D/g, '')}`,
          wabaId,
          appId: app.appId,
        },
        secrets: { token: app.token, appSecret: app.appSecret },
      };
    },

    async test(line, hookAddress) {
      const asked = await call(
        `/${line.account.id}?fields=id,display_phone_number,verified_name,status`,
        line.secrets.token!,
      );
      const phone = readAnswer(asked, Phone);
      if (!phone) return graphRefusal(PLATFORM, asked).failure;
      return (
        notRegistered(phone) ??
        graphProblem(
          PLATFORM,
          await pointHere({ wabaId: line.account.wabaId! }, line.secrets.token!, line.hookToken, hookAddress),
        )
      );
    },

    async disconnect(line) {
      await call(`/${line.account.wabaId}/subscribed_apps`, line.secrets.token!, {
        override_callback_uri: '',
      });
    },
  };
}
