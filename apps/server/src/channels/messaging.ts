import { z } from 'zod';
import { readChoiceRef } from '@dart-loop/core';
import { isTooDeep, toJson } from '../platform/db/json';
import type { HookReading, Lead, OpenLine, Received, StatusReport } from './adapter';

/** `entry[].messaging[]` and `entry[].changes[]`, as Messenger and Instagram send them. */

const Attachment = z.looseObject({
  type: z.string(),
  payload: z
    .looseObject({
      url: z.string().optional(),
      sticker_id: z.number().optional(),
      coordinates: z.object({ lat: z.number(), long: z.number() }).optional(),
    })
    .nullish(),
});
const Referral = z.looseObject({
  ref: z.string().optional(),
  source: z.string().optional(),
  type: z.string().optional(),
  ad_id: z.string().optional(),
});
const Messaging = z.looseObject({
  sender: z.object({ id: z.string() }),
  recipient: z.object({ id: z.string() }),
  timestamp: z.number().optional(),
  message: z
    .looseObject({
      mid: z.string(),
      text: z.string().optional(),
      is_echo: z.boolean().optional(),
      is_deleted: z.boolean().optional(),
      app_id: z.union([z.string(), z.number()]).optional(),
      metadata: z.string().optional(),
      quick_reply: z.object({ payload: z.string() }).optional(),
      attachments: z.array(Attachment).optional(),
      reply_to: z
        .looseObject({
          story: z.looseObject({ id: z.string().optional(), url: z.string().optional() }).optional(),
        })
        .optional(),
      referral: Referral.optional(),
    })
    .optional(),
  postback: z
    .looseObject({
      mid: z.string().optional(),
      title: z.string().optional(),
      payload: z.string(),
      referral: Referral.optional(),
    })
    .optional(),
  referral: Referral.optional(),
  read: z.looseObject({ mid: z.string().optional(), watermark: z.number().optional() }).optional(),
  delivery: z
    .looseObject({ mids: z.array(z.string()).optional(), watermark: z.number().optional() })
    .optional(),
});
type Messaging = z.infer<typeof Messaging>;
const Entry = z.looseObject({
  id: z.string(),
  time: z.number().optional(),
  messaging: z.array(z.unknown()).optional(),
  changes: z.array(z.unknown()).optional(),
});
const ChangeShape = z.looseObject({ field: z.string(), value: z.unknown() });
const Body = z.looseObject({ object: z.string(), entry: z.array(z.unknown()).max(1_000) });

/** What marks an echo of a message that we have sent ourselves. */
export const OWN_METADATA = 'dart-loop';

export interface Change {
  field: string;
  value: unknown;
}

/**
 * Takes a body apart: each entry and each event by itself, so that one that is not understood keeps no other.
 * `change` reads what stands in `changes`, which differs between the two.
 */
export function readMessaging(
  raw: Buffer,
  object: string,
  line: OpenLine,
  change: (change: Change, entryTime: number | undefined) => Received | Lead | 'own' | string,
): HookReading {
  const body = raw.toString('utf8');
  const reading: HookReading = { received: [], aside: [], statuses: [], others: [], leads: [] };
  const parsed = Body.safeParse(parseJson(body));
  if (!parsed.success)
    return { ...reading, aside: [{ reason: 'the body does not have the shape of webhook entries', body }] };
  if (parsed.data.object !== object)
    return {
      ...reading,
      aside: [{ reason: `it is about a “${parsed.data.object}”, and this line is none`, body }],
    };
  const aside = (reason: string, entry: unknown) =>
    reading.aside.push({ reason, body: partOf(body, { object, entry: [entry] }) });
  for (const one of parsed.data.entry) {
    const entry = isTooDeep(one) ? null : Entry.safeParse(one);
    if (!entry?.success) {
      aside(entry ? 'an entry has no id, so that nobody can tell whose it is' : TOO_DEEP, one);
      continue;
    }
    const { id, messaging = [], changes = [], time } = entry.data;
    if (id !== line.account.id) {
      if (!reading.others!.includes(id)) reading.others!.push(id);
      continue;
    }
    for (const event of messaging) {
      const read = Messaging.safeParse(event);
      const found = read.success
        ? readEvent(read.data, line)
        : 'an event has no sender or recipient, or is not of the shape that is known';
      if (typeof found === 'string') aside(found, { id, time, messaging: [event] });
      else if (found && 'status' in found) reading.statuses!.push(found);
      else if (found) reading.received.push(found);
    }
    for (const each of changes) {
      const read = ChangeShape.safeParse(each);
      const found = read.success ? change(read.data, time) : 'a change does not say of what it is';
      if (typeof found !== 'string') {
        if ('form' in found) reading.leads!.push(found);
        else reading.received.push(found);
      } else if (found !== 'own') aside(found, { id, time, changes: [each] });
    }
  }
  return reading;
}

/**
 * One event: what was received, what became of a message of ours, null for what says nothing, or why it is
 * not understood.
 */
function readEvent(event: Messaging, line: OpenLine): Received | StatusReport | string | null {
  const { message, postback, referral } = event;
  const at = event.timestamp ?? null;
  const profile = { firstName: null, lastName: null, handle: null };
  const received = (providerId: string, incoming: Received['incoming'], words: string): Received => ({
    providerId,
    place: null,
    at,
    address: event.sender.id,
    profile,
    incoming,
    words,
  });
  if (message?.is_echo) {
    const own =
      message.metadata?.startsWith(OWN_METADATA) ||
      (message.app_id !== undefined && String(message.app_id) === line.account.appId);
    if (own) return null;
    const words = message.text ?? '(picture or file)';
    return {
      ...received(
        message.mid,
        { kind: 'wrote elsewhere', by: 'somebody in the platform’s own inbox', text: words },
        words,
      ),
      address: event.recipient.id,
    };
  }
  if (message) {
    if (message.is_deleted) return null;
    const ref = message.quick_reply && readChoiceRef(message.quick_reply.payload);
    if (ref)
      return received(
        message.mid,
        { kind: 'tap', ...ref, label: message.text ?? 'a choice' },
        message.text ?? '(tap)',
      );
    const from = message.referral;
    if (from)
      return received(
        message.mid,
        { kind: 'reference', ref: from.ref || null, ad: from.ad_id ?? null, text: message.text ?? null },
        message.text ?? refWords(from),
      );
    const story = message.reply_to?.story ? '(about a story) ' : '';
    if (message.text !== undefined && message.text !== '')
      return received(message.mid, { kind: 'text', text: message.text }, `${story}${message.text}`);
    const [attachment] = message.attachments ?? [];
    if (!attachment) return 'a message has neither text nor anything with it';
    return received(message.mid, ...readAttachment(attachment));
  }
  if (postback) {
    const words = postback.title ?? '(tap)';
    const id = postback.mid ?? `postback:${event.sender.id}:${at}:${postback.payload}`;
    const ref = readChoiceRef(postback.payload);
    if (ref) return received(id, { kind: 'tap', ...ref, label: words }, words);
    if (postback.referral)
      return received(
        id,
        {
          kind: 'reference',
          ref: postback.referral.ref || null,
          ad: postback.referral.ad_id ?? null,
          text: null,
        },
        words,
      );
    const item = /^menu:([a-z0-9_-]{1,32})$/.exec(postback.payload)?.[1];
    return received(
      id,
      item ? { kind: 'menu', item } : { kind: 'other', what: 'button of another program' },
      words,
    );
  }
  if (referral)
    return received(
      `referral:${event.sender.id}:${at}:${referral.ad_id ?? ''}:${referral.ref ?? ''}`,
      { kind: 'reference', ref: referral.ref || null, ad: referral.ad_id ?? null, text: null },
      refWords(referral),
    );
  if (event.read)
    return {
      status: 'read',
      address: event.sender.id,
      ids: event.read.mid ? [event.read.mid] : null,
      upTo: event.read.watermark ?? at,
      at: at ?? event.read.watermark ?? null,
      failure: null,
    };
  if (event.delivery)
    return {
      status: 'delivered',
      address: event.sender.id,
      ids: event.delivery.mids ?? null,
      upTo: event.delivery.watermark ?? at,
      at: at ?? event.delivery.watermark ?? null,
      failure: null,
    };
  return 'an event is of a kind that is not read yet';
}

const refWords = ({ ad_id, ref }: z.infer<typeof Referral>) =>
  ad_id ? '(click on an ad)' : `(link ${ref ?? ''})`;

const FILES: Record<string, string> = { image: 'picture', video: 'video', audio: 'voice note', file: 'file' };
const OTHERS: Record<string, string> = {
  story_mention: 'mention in a story',
  share: 'shared post',
  ig_reel: 'reel',
  reel: 'reel',
  fallback: 'shared page',
};

function readAttachment({ type, payload }: z.infer<typeof Attachment>): [Received['incoming'], string] {
  const other = (what: string): [Received['incoming'], string] => [{ kind: 'other', what }, `(${what})`];
  if (payload?.sticker_id !== undefined) return other('sticker');
  const place = payload?.coordinates;
  if (type === 'location' && place)
    return [{ kind: 'place', place: { latitude: place.lat, longitude: place.long } }, '(place)'];
  const what = FILES[type];
  if (what && payload?.url) return [{ kind: 'file', file: { address: payload.url, what } }, `(${what})`];
  return other(OTHERS[type] ?? 'message of an unknown kind');
}

export const TOO_DEEP = 'a part of it is nested deeper than anything that is known';

/** A request that holds one part of another alone; the whole where the part cannot be written down. */
export function partOf(whole: string, part: unknown): string {
  try {
    return toJson(part);
  } catch {
    return whole;
  }
}

export function parseJson(body: string): unknown {
  try {
    return JSON.parse(body);
  } catch {
    // Its shape is then wrong, and that is what is said.
    return undefined;
  }
}
