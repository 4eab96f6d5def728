import type { Adapter, Connecting, Failure, Lead, OpenLine, Received } from './adapter';
import {
  graphChallenge,
  graphProblem,
  graphRefusal,
  notHandedOver,
  readAppSecrets,
  subscribeApp,
  verifyGraph,
  verifyToken,
  whyNothingArrives,
  type GraphCall,
} from './graph';
import { readMessaging, type Change } from './messaging';
import { lookAtProfileMenus, putProfileMenus } from './profileMenus';
import { readProfile, sendByApi, showTyping } from './sendApi';

type Answer = Awaited<ReturnType<GraphCall>>;

/** What the token of a page stands for on one platform. */
export interface PageAccount {
  name: string;
  account: { id: string; username: string; pageId?: string };
}

/** What is its own of one of the two platforms where people write to a page, or to what is tied to one. */
export interface PagePlatform {
  kind: 'messenger' | 'instagram';
  /** As people call it. */
  platform: string;
  object: 'page' | 'instagram';
  /** What of the app's webhook the line listens to. */
  fields: readonly string[];
  /** What is said to a comment's author in public stands below it here. */
  answersAt: 'comments' | 'replies';
  /** What `/me` is asked for. */
  me: string;
  /** The account in what `/me` answered; why there is none; null where it answered something else. */
  accountIn(me: Answer): PageAccount | Failure | null;
  /** What stands in the way of reading messages, where that is asked for by itself. */
  barred?(token: string): Promise<Failure | null>;
  readChange(change: Change, time: number | undefined, line: OpenLine): Received | Lead | 'own' | string;
}

/** All that the two platforms do in the same way, but the rate, posts and lead forms. */
export function pageAdapter(
  call: GraphCall,
  key: Buffer,
  own: PagePlatform,
): Omit<Adapter, 'rate' | 'post' | 'lead' | 'disconnect'> {
  const { platform, object, fields } = own;
  /** Who the token stands for, and that they may read what people write. */
  const whose = async (token: string): Promise<PageAccount | Failure> => {
    const me = await call(`/me?fields=${own.me}`, token);
    const found = own.accountIn(me) ?? graphRefusal(platform, me).failure;
    if ('code' in found) return found;
    return (await own.barred?.(token)) ?? found;
  };
  return {
    kind: own.kind,
    accountKey: 'id',
    dropsRepeats: false,
    verify: verifyGraph,
    challenge: (query, hookToken) => graphChallenge(query, verifyToken(key, hookToken)),
    read: (request, line) =>
      readMessaging(request.body, object, line, (change, time) => own.readChange(change, time, line)),
    send: (outgoing, address, line, _key, via) =>
      sendByApi(call, platform, own.answersAt, outgoing, address, line, via),
    typing: (address, line) => showTyping(call, address, line),
    profile: (address, line) => readProfile(call, address, line),
    putMenus: (menus, line) => putProfileMenus(call, platform, menus, line),
    lookAtMenus: (line) => lookAtProfileMenus(call, platform, line),

    typedOf: (account) => ({ appId: account.appId! }),
    async accountOf(typed) {
      const found = own.accountIn(await call(`/me?fields=${own.me}`, (typed.token ?? '').trim()));
      return found && 'account' in found ? found.account.id : null;
    },

    async connect(typed, hookToken, hookAddress): Promise<Connecting> {
      const app = readAppSecrets(typed);
      if ('ok' in app) return app;
      const found = await whose(app.token);
      if ('code' in found) return { ok: false, field: 'token', failure: found };
      const word = verifyToken(key, hookToken);
      const pointed = await subscribeApp(call, platform, app, object, fields, hookAddress, word);
      if (pointed) return { ok: false, field: 'appSecret', failure: pointed };
      const subscribed = graphProblem(
        platform,
        await call('/me/subscribed_apps', app.token, { subscribed_fields: fields.join(',') }),
      );
      if (subscribed) return { ok: false, field: 'token', failure: subscribed };
      return {
        ok: true,
        name: found.name,
        account: { ...found.account, appId: app.appId },
        secrets: { token: app.token, appSecret: app.appSecret },
      };
    },

    notes: (line) => notHandedOver(call, line, fields),

    async test(line, hookAddress) {
      const found = await whose(line.secrets.token!);
      return 'code' in found ? found : whyNothingArrives(call, platform, line, object, hookAddress);
    },
  };
}
