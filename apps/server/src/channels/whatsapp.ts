import { parsePhoneNumberFromString } from 'libphonenumber-js';
import type { PlatformNote } from '@dart-loop/contract';
import { z } from 'zod';
import type { Outgoing, Template, TemplateHeader } from '@dart-loop/core';
import type { Adapter, Connecting, Failure, Sent } from './adapter';
import {
  graphCall,
  graphChallenge,
  graphProblem,
  graphRefusal,
  readAnswer,
  readAppSecrets,
  verifyGraph,
  verifyToken,
} from './graph';
import { PLATFORM, read } from './whatsappReading';

const Phone = z.looseObject({
  id: z.string(),
  display_phone_number: z.string(),
  verified_name: z.string().optional(),
  status: z.string().optional(),
  quality_rating: z.string().optional(),
  messaging_limit_tier: z.string().optional(),
});
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
            format: z.string().optional(),
            text: z.string().optional(),
            buttons: z.array(z.looseObject({ type: z.string(), text: z.string().default('') })).optional(),
          }),
        )
        .default([]),
    }),
  ),
});
/** What a header may be besides words, as the platform calls it and as we do. */
const HEADERS: Record<string, TemplateHeader> = { IMAGE: 'image', VIDEO: 'video', DOCUMENT: 'file' };
const STATES: Record<string, Template['status']> = {
  APPROVED: 'approved',
  PAUSED: 'paused',
  REJECTED: 'rejected',
  DISABLED: 'rejected',
};

/** How good the platform finds a number, and how many people it may write to first. */
const QUALITY: Record<string, [tone: PlatformNote['tone'], words: string]> = {
  GREEN: ['quiet', 'Quality is high.'],
  YELLOW: [
    'warning',
    'Quality is medium: people have blocked or reported the number. Write less often unasked.',
  ],
  RED: [
    'warning',
    'Quality is low: the platform may lower the limit or stop the number. Send nothing unasked for some days.',
  ],
};
const TIERS: Record<string, string> = {
  TIER_50: '50',
  TIER_250: '250',
  TIER_1K: '1,000',
  TIER_2K: '2,000',
  TIER_10K: '10,000',
  TIER_100K: '100,000',
};

function qualityNotes({
  quality_rating = '',
  messaging_limit_tier = '',
}: z.infer<typeof Phone>): PlatformNote[] {
  const quality = QUALITY[quality_rating];
  const limit =
    messaging_limit_tier === 'TIER_UNLIMITED'
      ? 'Any number of people may be written to first.'
      : TIERS[messaging_limit_tier] &&
        `At most ${TIERS[messaging_limit_tier]} people in 24 hours may be written to first.`;
  return [
    ...(quality ? [{ code: 'quality', tone: quality[0], words: quality[1], at: null }] : []),
    ...(limit ? [{ code: 'limit', tone: 'quiet' as const, words: limit, at: null }] : []),
  ];
}

function templateOf({
  name,
  language,
  status,
  category,
  components,
}: z.infer<typeof TemplateList>['data'][number]): Template {
  const body = components.find((each) => each.type === 'BODY')?.text ?? '';
  const header = HEADERS[components.find((each) => each.type === 'HEADER')?.format ?? ''];
  return {
    name,
    language,
    // What is neither approved nor refused for good is looked at still.
    status: STATES[status] ?? 'pending',
    category: category.toLowerCase(),
    body,
    ...(header && { header }),
    parameters: new Set(body.match(/\{\{\d+\}\}/g)).size,
    buttons: components
      .flatMap((each) => each.buttons ?? [])
      .filter((button) => button.type === 'QUICK_REPLY')
      .map((button) => button.text),
  };
}

/** The file above a template's text. */
function headerOf({ what, address }: { what: TemplateHeader; address: string }): object {
  const type = what === 'file' ? 'document' : what;
  return { type: 'header', parameters: [{ type, [type]: { link: address } }] };
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
          ...(template.header ? [headerOf(template.header)] : []),
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

    async notes(line) {
      const asked = await call(
        `/${line.account.id}?fields=id,display_phone_number,quality_rating,messaging_limit_tier`,
        line.secrets.token!,
      );
      const phone = readAnswer(asked, Phone);
      return phone && qualityNotes(phone);
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
