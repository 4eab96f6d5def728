import { z } from 'zod';
import type { Adapter, Connecting, Failure, OpenLine, Received } from './adapter';
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

const PLATFORM = 'Instagram';
const FIELDS = ['messages', 'messaging_postbacks', 'messaging_referral', 'messaging_seen', 'comments'];
const Page = z.looseObject({
  id: z.string(),
  instagram_business_account: z.looseObject({ id: z.string(), username: z.string() }).optional(),
});
const Comment = z.looseObject({
  id: z.string(),
  text: z.string().default(''),
  from: z.looseObject({ id: z.string(), username: z.string().optional() }),
  media: z.looseObject({ id: z.string() }),
  parent_id: z.string().optional(),
  verb: z.string().optional(),
});
const NOT_TIED: Failure = {
  code: 'not tied',
  reason: 'No Instagram business account is tied to the page of this token.',
  remedy:
    'In the page’s settings tie the Instagram account to it, and see that it is a business account. Then connect again.',
};

function readChange(
  { field, value }: Change,
  entryTime: number | undefined,
  line: OpenLine,
): Received | 'own' | string {
  if (field !== 'comments') return `it is a change of “${field}”, which is not read yet`;
  const parsed = Comment.safeParse(value);
  if (!parsed.success) return 'a comment lacks its id, its author or its post';
  const { id, text, from, media, parent_id, verb } = parsed.data;
  if (from.id === line.account.id) return 'own';
  const what = verb === 'remove' ? 'removed' : verb === 'edited' ? 'edited' : 'add';
  const at = (entryTime ?? 0) < 1e12 ? (entryTime ?? 0) * 1_000 : entryTime!;
  return {
    providerId: `comment:${id}:${what}${what === 'edited' ? `:${text.length}:${at}` : ''}`,
    place: null,
    at: at || null,
    address: from.id,
    profile: { firstName: null, lastName: null, handle: from.username ? `@${from.username}` : null },
    incoming: {
      kind: 'comment',
      verb: what,
      id,
      postId: media.id,
      text,
      at,
      postedAt: null,
      nested: parent_id !== undefined,
    },
    words: text,
  };
}

/** Instagram, for the business account that is tied to the token's page. */
export function instagramAdapter(base: string, key: Buffer): Adapter {
  const call = graphCall(base);
  return {
    kind: 'instagram',
    accountKey: 'id',
    rate: { perSecond: 40, conversationPauseMs: 0, privateRepliesPerHour: 750 },
    dropsRepeats: false,
    verify: verifyGraph,
    challenge: (query, hookToken) => graphChallenge(query, verifyToken(key, hookToken)),
    read: (request, line) =>
      readMessaging(request.body, 'instagram', line, (change, time) => readChange(change, time, line)),
    send: (outgoing, address, line, _key, via) =>
      sendByApi(call, PLATFORM, 'replies', outgoing, address, line, via),
    typing: (address, line) => showTyping(call, address, line),

    async post(postId, line) {
      const answer = await call(`/${postId}?fields=timestamp,caption`, line.secrets.token!);
      const read = readAnswer(
        answer,
        z.looseObject({ timestamp: z.string(), caption: z.string().optional() }),
      );
      return read && { created_time: read.timestamp, message: read.caption };
    },

    profile: (address, line) => readProfile(call, address, line),

    putMenus: (menus, line) => putProfileMenus(call, PLATFORM, menus, line),
    lookAtMenus: (line) => lookAtProfileMenus(call, PLATFORM, line),

    typedOf: (account) => ({ appId: account.appId! }),
    async accountOf(typed) {
      const me = await call(
        '/me?fields=id,instagram_business_account{id,username}',
        (typed.token ?? '').trim(),
      );
      return readAnswer(me, Page)?.instagram_business_account?.id ?? null;
    },

    async connect(typed, hookToken, hookAddress): Promise<Connecting> {
      const app = readAppSecrets(typed);
      if ('ok' in app) return app;
      const me = await call('/me?fields=id,instagram_business_account{id,username}', app.token);
      const page = readAnswer(me, Page);
      if (!page) return { ok: false, field: 'token', failure: graphRefusal(PLATFORM, me).failure };
      const account = page.instagram_business_account;
      if (!account) return { ok: false, field: 'token', failure: NOT_TIED };
      const access = graphProblem(
        PLATFORM,
        await call('/me/conversations?platform=instagram&limit=1', app.token),
      );
      if (access) return { ok: false, field: 'token', failure: access };
      const pointed = await subscribeApp(
        call,
        PLATFORM,
        app,
        'instagram',
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
        name: `@${account.username}`,
        account: { id: account.id, username: account.username, pageId: page.id, appId: app.appId },
        secrets: { token: app.token, appSecret: app.appSecret },
      };
    },

    notes: (line) => notHandedOver(call, line, FIELDS),

    async test(line, hookAddress) {
      const me = await call('/me?fields=id,instagram_business_account{id,username}', line.secrets.token!);
      const page = readAnswer(me, Page);
      if (!page) return graphRefusal(PLATFORM, me).failure;
      if (!page.instagram_business_account) return NOT_TIED;
      const access = graphProblem(
        PLATFORM,
        await call('/me/conversations?platform=instagram&limit=1', line.secrets.token!),
      );
      if (access) return access;
      return whyNothingArrives(call, PLATFORM, line, 'instagram', hookAddress);
    },

    async disconnect() {
      // The page may serve Messenger as well; the app's webhook is left as it is, and what comes for this
      // line is not found.
    },
  };
}
