import { z } from 'zod';
import type { Adapter, Failure, OpenLine, Received } from './adapter';
import { graphCall, graphProblem, readAnswer } from './graph';
import type { Change } from './messaging';
import { pageAdapter } from './pageLine';

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
    ...pageAdapter(call, key, {
      kind: 'instagram',
      platform: PLATFORM,
      object: 'instagram',
      fields: FIELDS,
      answersAt: 'replies',
      me: 'id,instagram_business_account{id,username}',
      accountIn(me) {
        const page = readAnswer(me, Page);
        const account = page?.instagram_business_account;
        if (!account) return page && NOT_TIED;
        const { id, username } = account;
        return { name: `@${username}`, account: { id, username, pageId: page.id } };
      },
      barred: async (token) =>
        graphProblem(PLATFORM, await call('/me/conversations?platform=instagram&limit=1', token)),
      readChange,
    }),
    rate: { perSecond: 40, conversationPauseMs: 0, privateRepliesPerHour: 750 },

    async post(postId, line) {
      const answer = await call(`/${postId}?fields=timestamp,caption`, line.secrets.token!);
      const read = readAnswer(
        answer,
        z.looseObject({ timestamp: z.string(), caption: z.string().optional() }),
      );
      return read && { created_time: read.timestamp, message: read.caption };
    },

    async disconnect() {
      // The page may serve Messenger as well; the app's webhook is left as it is, and what comes for this
      // line is not found.
    },
  };
}
