import { z } from 'zod';
import type { Adapter, Lead, OpenLine, Received } from './adapter';
import { graphCall, readAnswer } from './graph';
import type { Change } from './messaging';
import { pageAdapter } from './pageLine';

const FIELDS = [
  'messages',
  'messaging_postbacks',
  'messaging_referrals',
  'message_deliveries',
  'message_reads',
  'message_echoes',
  'feed',
  'leadgen',
];
const Page = z.looseObject({ id: z.string(), name: z.string(), username: z.string().optional() });
const Comment = z.looseObject({
  item: z.literal('comment'),
  verb: z.string(),
  comment_id: z.string(),
  post_id: z.string(),
  parent_id: z.string().optional(),
  from: z.looseObject({ id: z.string(), name: z.string().optional() }),
  message: z.string().optional(),
  created_time: z.number(),
});
const LeadForm = z.looseObject({
  leadgen_id: z.string(),
  form_id: z.string(),
  ad_id: z.string().optional(),
  created_time: z.number().optional(),
});
const VERBS: Record<string, 'add' | 'edited' | 'removed'> = {
  add: 'add',
  edited: 'edited',
  edit: 'edited',
  remove: 'removed',
  delete: 'removed',
  hide: 'removed',
};

/** A comment under a post of the page. Its own are none of a person's. */
function readChange({ field, value }: Change, line: OpenLine): Received | Lead | 'own' | string {
  if (field === 'leadgen') {
    const lead = LeadForm.safeParse(value).data;
    if (!lead) return 'a lead form lacks its id or the id of its form';
    return {
      id: lead.leadgen_id,
      form: lead.form_id,
      ad: lead.ad_id ?? null,
      at: lead.created_time ? lead.created_time * 1_000 : null,
    };
  }
  if (field !== 'feed') return `it is a change of “${field}”, which is not read yet`;
  const parsed = Comment.safeParse(value);
  if (!parsed.success) return 'it is news of the page’s feed other than a comment';
  const { verb, comment_id, post_id, parent_id, from, message = '', created_time } = parsed.data;
  if (from.id === line.account.id) return 'own';
  const what = VERBS[verb];
  if (!what) return `a comment was dealt with in a way that is not read yet (${verb})`;
  const [firstName, ...rest] = (from.name ?? '').split(' ');
  return {
    providerId: `comment:${comment_id}:${what}${what === 'edited' ? `:${message.length}:${created_time}` : ''}`,
    place: null,
    at: created_time * 1_000,
    address: from.id,
    profile: { firstName: firstName || null, lastName: rest.join(' ') || null, handle: null },
    incoming: {
      kind: 'comment',
      verb: what,
      id: comment_id,
      postId: post_id,
      text: message,
      at: created_time * 1_000,
      postedAt: null,
      nested: parent_id !== undefined && parent_id !== post_id,
    },
    words: message,
  };
}

/** Messenger, for the page that the token belongs to. */
export function messengerAdapter(base: string, key: Buffer): Adapter {
  const call = graphCall(base);
  return {
    ...pageAdapter(call, key, {
      kind: 'messenger',
      platform: 'Messenger',
      object: 'page',
      fields: FIELDS,
      answersAt: 'comments',
      me: 'id,name,username',
      accountIn(me) {
        const page = readAnswer(me, Page);
        return page && { name: page.name, account: { id: page.id, username: page.username ?? page.id } };
      },
      readChange: (change, _time, line) => readChange(change, line),
    }),
    rate: { perSecond: 40, conversationPauseMs: 0 },

    async post(postId, line) {
      const answer = await call(`/${postId}?fields=created_time,message`, line.secrets.token!);
      return readAnswer(answer, z.looseObject({ created_time: z.string(), message: z.string().optional() }));
    },

    async lead(leadId, line) {
      const answer = await call(`/${leadId}?fields=field_data`, line.secrets.token!);
      const read = readAnswer(
        answer,
        z.looseObject({
          field_data: z.array(z.looseObject({ name: z.string(), values: z.array(z.string()) })),
        }),
      );
      return read && Object.fromEntries(read.field_data.map(({ name, values }) => [name, values.join(', ')]));
    },

    async disconnect(line) {
      await call('/me/subscribed_apps', line.secrets.token!, { subscribed_fields: '' });
    },
  };
}
