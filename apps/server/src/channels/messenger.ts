import { z } from 'zod';
import type { Adapter, Connecting, Lead, OpenLine, Received } from './adapter';
import {
  graphCall,
  graphChallenge,
  graphProblem,
  graphRefusal,
  readAnswer,
  notHandedOver,
  readAppSecrets,
  subscribeApp,
  verifyGraph,
  verifyToken,
  whyNothingArrives,
} from './graph';
import { readMessaging, type Change } from './messaging';
import { lookAtProfileMenus, putProfileMenus } from './profileMenus';
import { readProfile, sendByApi, showTyping } from './sendApi';

const PLATFORM = 'Messenger';
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
    kind: 'messenger',
    accountKey: 'id',
    rate: { perSecond: 40, conversationPauseMs: 0 },
    dropsRepeats: false,
    verify: verifyGraph,
    challenge: (query, hookToken) => graphChallenge(query, verifyToken(key, hookToken)),
    read: (request, line) => readMessaging(request.body, 'page', line, (change) => readChange(change, line)),
    send: (outgoing, address, line, _key, via) =>
      sendByApi(call, PLATFORM, 'comments', outgoing, address, line, via),
    typing: (address, line) => showTyping(call, address, line),

    async post(postId, line) {
      const answer = await call(`/${postId}?fields=created_time,message`, line.secrets.token!);
      return readAnswer(answer, z.looseObject({ created_time: z.string(), message: z.string().optional() }));
    },

    profile: (address, line) => readProfile(call, address, line),

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

    putMenus: (menus, line) => putProfileMenus(call, PLATFORM, menus, line),
    lookAtMenus: (line) => lookAtProfileMenus(call, PLATFORM, line),

    typedOf: (account) => ({ appId: account.appId! }),
    async accountOf(typed) {
      return readAnswer(await call('/me?fields=id,name', (typed.token ?? '').trim()), Page)?.id ?? null;
    },

    async connect(typed, hookToken, hookAddress): Promise<Connecting> {
      const app = readAppSecrets(typed);
      if ('ok' in app) return app;
      const me = await call('/me?fields=id,name,username', app.token);
      const page = readAnswer(me, Page);
      if (!page) return { ok: false, field: 'token', failure: graphRefusal(PLATFORM, me).failure };
      const pointed = await subscribeApp(
        call,
        PLATFORM,
        app,
        'page',
        FIELDS,
        hookAddress,
        verifyToken(key, hookToken),
      );
      if (pointed) return { ok: false, field: 'appSecret', failure: pointed };
      const subscribed = graphProblem(
        PLATFORM,
        await call('/me/subscribed_apps', app.token, { subscribed_fields: FIELDS.join(',') }),
      );
      if (subscribed) return { ok: false, field: 'token', failure: subscribed };
      return {
        ok: true,
        name: page.name,
        account: { id: page.id, username: page.username ?? page.id, appId: app.appId },
        secrets: { token: app.token, appSecret: app.appSecret },
      };
    },

    notes: (line) => notHandedOver(call, line, FIELDS),

    async test(line, hookAddress) {
      const failure = graphProblem(PLATFORM, await call('/me?fields=id,name', line.secrets.token!));
      if (failure) return failure;
      return whyNothingArrives(call, PLATFORM, line, 'page', hookAddress);
    },

    async disconnect(line) {
      await call('/me/subscribed_apps', line.secrets.token!, { subscribed_fields: '' });
    },
  };
}
