import { createHmac } from 'node:crypto';
import { Router, type Request, type Response } from 'express';
import { deliver } from './deliver';
import type { Account, Comment, Json, ProfileList, Thread } from './graphAccount';
import { whyRefused, type GraphKind } from './graphLimits';
import { attachment, postSeen, seenMessage, seenWhatsApp, templateCalled, whatsAppFile } from './graphSeen';
import { RateLimit, inMood, type Refusals, type StandinClock } from './mood';
import {
  CannotBeDone,
  digits,
  inventedNumber,
  type Phone,
  type PhoneDo,
  type PhoneMessage,
  type PhonePost,
  type PhoneView,
} from './phone';

const DAY = 86_400_000;
const LETTER = { messenger: 'M', instagram: 'I', whatsapp: 'W' } as const;
const OBJECT = { messenger: 'page', instagram: 'instagram', whatsapp: 'whatsapp_business_account' } as const;
const APP = '700100200300';

/** What the platform would show on its pages: the token of an account, and the app with its secret. */
export function graphAccess(
  kind: GraphKind,
  id: string,
): { token: string; appId: string; appSecret: string } {
  const sign = (what: string, length: number) =>
    createHmac('sha256', 'halfmoon-graph').update(what).digest('hex').slice(0, length);
  return {
    token: `EAA${LETTER[kind]}${id}x${sign(`${kind}:${id}`, 24)}`,
    appId: APP,
    appSecret: sign('app', 32),
  };
}

/** What such an account was asked to send; for tests. */
export interface GraphSending {
  channel: GraphKind;
  account: string;
  to: string;
  body: Json;
  at: number;
}

/**
 * A stand-in for the Graph APIs of Messenger, Instagram and WhatsApp: paths, limits, windows, error codes,
 * webhooks.
 */
export class GraphStandin implements Phone {
  readonly accounts = new Map<string, Account>();
  readonly sendings: GraphSending[] = [];
  /** Where each object's events go, as the app has it. */
  readonly subscriptions = new Map<string, string>();
  limits = true;
  keep = true;
  /** Whether deliveries and readings are reported. */
  reports = true;
  /** Private answers to comments that came too soon. */
  refusedPrivately = 0;
  #ids = 0;

  constructor(private readonly clock: StandinClock) {}

  account(kind: GraphKind, id: string): Account | undefined {
    return this.accounts.get(`${kind}:${id}`);
  }

  /** An account comes into being when it is first asked for with its token. */
  come(kind: GraphKind, id: string, name = ''): Account {
    let account = this.account(kind, id);
    if (!account)
      this.accounts.set(
        `${kind}:${id}`,
        (account = {
          kind,
          id,
          name: name || `Account ${id}`,
          mood: 'well',
          webhook: null,
          threads: new Map(),
          posts: [1, 2].map((number) => ({
            id: `${id}_${number}`,
            text: `Post number ${number}`,
            at: this.clock.now() - number * DAY,
          })),
          comments: [],
          ads: [
            {
              id: `9${id}`.slice(0, 15),
              text: 'An ad that opens a conversation',
              opening: 'Tell me more',
              ref: '',
            },
          ],
          profile: { persistent_menu: [], ice_breakers: [] },
          templates: [],
          leads: [],
          pace: new RateLimit(80),
          privatePace: new RateLimit(750, 3_600_000),
        }),
      );
    if (name) account.name = name;
    return account;
  }

  router(): Router {
    const router = Router();
    router.all('/graph/{*path}', async (request, response) => {
      const path = request.path.slice('/graph/'.length).split('/').map(decodeURIComponent);
      const token = (request.headers.authorization ?? '').replace(/^Bearer /, '');
      const app = graphAccess('messenger', '0');
      if (path[0] === APP && path[1] === 'subscriptions') {
        if (token !== `${APP}|${app.appSecret}`)
          return fail(response, 190, 'Invalid OAuth access token signature.');
        return this.#subscriptions(request, response);
      }
      const account = this.#byToken(token);
      if (!account) return fail(response, 190, 'Invalid OAuth access token.');
      if (await inMood(account.mood, response, refusals(response, account.kind))) return;
      return request.method === 'GET'
        ? this.#get(account, path, response)
        : this.#post(account, path, (request.body ?? {}) as Json, response);
    });
    return router;
  }

  #byToken(token: string): Account | null {
    const found = /^EAA([MIW])(\d{1,20})x[0-9a-f]{24}$/.exec(token);
    const kind = (Object.keys(LETTER) as GraphKind[]).find((each) => LETTER[each] === found?.[1]);
    return found && kind && graphAccess(kind, found[2]!).token === token ? this.come(kind, found[2]!) : null;
  }

  async #subscriptions(request: Request, response: Response): Promise<void> {
    if (request.method === 'GET')
      return void response.json({
        data: [...this.subscriptions].map(([object, callback_url]) => ({
          object,
          callback_url,
          active: true,
        })),
      });
    const { object, callback_url, verify_token } = (request.body ?? {}) as Record<string, string>;
    if (!(await this.#answersChallenge(callback_url ?? '', verify_token ?? '')))
      return fail(response, 2200, 'Callback verification failed.');
    this.subscriptions.set(object!, callback_url!);
    response.json({ success: true });
  }

  /** The platform asks the address whether it is a webhook before it hands anything to it. */
  async #answersChallenge(address: string, word: string): Promise<boolean> {
    const challenge = digits(10);
    const answer = await fetch(
      `${address}?hub.mode=subscribe&hub.challenge=${challenge}&hub.verify_token=${encodeURIComponent(word)}`,
    ).catch(() => null);
    return answer?.status === 200 && (await answer.text()) === challenge;
  }

  #get(account: Account, [first, second]: string[], response: Response): void {
    if (first === 'me' && second === 'conversations')
      return void (account.mood === 'no access'
        ? fail(response, 10, 'Application does not have permission for this action.')
        : response.json({ data: [] }));
    if (first === 'me' && second === 'subscribed_apps')
      return void response.json({
        data: account.mood === 'not subscribed' ? [] : [{ id: APP, name: 'Halfmoon' }],
      });
    if (first === 'me' && second === 'messenger_profile')
      return void response.json({ data: [account.profile] });
    if (first === 'me' && account.kind === 'instagram')
      return void response.json({
        id: `5${account.id}`,
        ...(account.mood !== 'untied' && {
          instagram_business_account: { id: account.id, username: nameOf(account) },
        }),
      });
    if (first === 'me')
      return void response.json({ id: account.id, name: account.name, username: nameOf(account) });
    if (first === `8${account.id}` && second === 'message_templates')
      return void response.json({ data: account.templates });
    if (first === account.id && account.kind === 'whatsapp')
      return void response.json({
        id: account.id,
        display_phone_number: account.name,
        verified_name: account.name,
        status: account.mood === 'unregistered' ? 'PENDING' : 'CONNECTED',
      });
    const lead = account.leads.find((each) => each.id === first);
    if (lead) return void response.json(lead);
    const post = account.posts.find((each) => each.id === first);
    if (post) {
      const at = new Date(post.at).toISOString();
      return void response.json({
        id: post.id,
        created_time: at,
        timestamp: at,
        message: post.text,
        caption: post.text,
      });
    }
    const thread = account.threads.get(first ?? '');
    if (thread) {
      const [first_name, ...rest] = thread.name.split(' ');
      return void response.json({
        id: first,
        first_name,
        last_name: rest.join(' '),
        name: thread.name,
        username: thread.name.toLowerCase().replace(/\W+/g, '.'),
      });
    }
    fail(response, 100, `Unsupported get request. Object with ID '${first}' does not exist.`);
  }

  async #post(account: Account, [first, second]: string[], body: Json, response: Response): Promise<void> {
    if (second === 'subscribed_apps') {
      if (account.kind !== 'whatsapp') {
        // Subscribing again mends what had come undone.
        if (account.mood === 'not subscribed') account.mood = 'well';
        return void response.json({ success: true });
      }
      const address = String(body.override_callback_uri ?? '');
      if (address !== '' && !(await this.#answersChallenge(address, String(body.verify_token ?? ''))))
        return fail(response, 2200, 'Callback verification failed.');
      account.webhook = address || null;
      return void response.json({ success: true });
    }
    if (second === 'messenger_profile') return this.#putProfile(account, body, response);
    if (second === 'comments' || second === 'replies')
      return this.#publicReply(account, first!, String(body.message ?? ''), response);
    if (second !== 'messages') return fail(response, 100, `Unsupported post request to ${first}/${second}.`);
    if (account.mood === 'no access')
      return fail(response, 10, 'Application does not have permission for this action.');
    if (account.mood === 'unregistered') return fail(response, 133_010, 'The account is not registered.');
    if (account.kind === 'whatsapp') return this.#sendWhatsApp(account, body, response);
    return this.#sendApi(account, body, response);
  }

  #putProfile(account: Account, body: Json, response: Response): void {
    if (account.kind === 'whatsapp') return fail(response, 100, 'Unsupported post request.');
    const lists = (value: unknown) => (Array.isArray(value) ? value : []) as ProfileList;
    const standing = lists(body.persistent_menu);
    const openings = lists(body.ice_breakers);
    const most = account.kind === 'instagram' ? 5 : 20;
    for (const { call_to_actions: actions } of standing)
      if (actions.length > most || actions.some(({ title = '' }) => title.trim() === '' || title.length > 30))
        return fail(response, 100, `A menu has at most ${most} items with titles of 1 to 30 characters.`);
    for (const { call_to_actions: actions } of openings)
      if (
        actions.length > 4 ||
        actions.some(({ question = '' }) => question.trim() === '' || question.length > 80)
      )
        return fail(response, 100, 'There are at most 4 ice breakers, with questions of 1 to 80 characters.');
    if (account.kind === 'messenger' && standing.length > 0 && body.get_started === undefined)
      return fail(response, 100, 'A menu needs a get started button.');
    account.profile = { persistent_menu: standing, ice_breakers: openings };
    response.json({ result: 'success' });
  }

  #publicReply(account: Account, commentId: string, text: string, response: Response): void {
    const comment = account.comments.find((each) => each.id === commentId && !each.removed);
    if (!comment) return fail(response, 100, 'The comment does not exist.');
    if (text.trim() === '' || text.length > 8_000)
      return fail(response, 100, 'message has 1 to 8,000 characters.');
    comment.replies.push(text);
    response.json({ id: `${commentId}r${comment.replies.length}` });
  }

  #sendApi(account: Account, body: Json, response: Response): void {
    const recipient = (body.recipient ?? {}) as { id?: string; comment_id?: string };
    const now = this.clock.now();
    const comment =
      recipient.comment_id === undefined
        ? null
        : (account.comments.find((each) => each.id === recipient.comment_id) ?? undefined);
    if (comment === undefined || comment?.removed)
      return fail(response, 100, 'The comment does not exist or was removed.');
    const who = comment?.who ?? recipient.id ?? '';
    const thread = comment ? this.#thread(account, who, comment.name) : account.threads.get(who);
    if (!thread) return fail(response, 100, 'No matching user found.');
    if (body.sender_action !== undefined) return void response.json({ recipient_id: who });
    if (thread.blocked) return fail(response, 551, 'This person isn’t available right now.');
    if (comment) {
      if (comment.answered) return fail(response, 10_900, 'Activity already replied to.');
      if (now > comment.at + 7 * DAY) return fail(response, 10, 'The comment is too old.', 2_018_278);
    } else {
      const window = body.messaging_type === 'MESSAGE_TAG' && body.tag === 'HUMAN_AGENT' ? 7 * DAY : DAY;
      if (thread.heard === null || now > thread.heard + window)
        return fail(response, 10, 'This message is sent outside of allowed window.', 2_018_278);
      if (!['RESPONSE', 'UPDATE', 'MESSAGE_TAG'].includes(String(body.messaging_type)))
        return fail(response, 100, 'messaging_type is missing.');
    }
    const refused = whyRefused(account.kind, body);
    if (refused) return fail(response, 100, `Invalid parameter: ${refused}.`);
    if (comment && account.kind === 'instagram' && !account.privatePace.take(now)) {
      this.refusedPrivately++;
      return fail(response, 613, 'Calls to this api have exceeded the rate limit.');
    }
    if (this.limits && !account.pace.take(Date.now()))
      return fail(response, 613, 'Calls to this api have exceeded the rate limit.');
    if (comment) comment.answered = true;
    const message = (body.message ?? {}) as Json;
    const id = `m_${account.kind[0]}${account.id}_${++this.#ids}`;
    this.#took(account, who, thread, id, body, seenMessage(message));
    response.json({ recipient_id: who, message_id: id });
  }

  #sendWhatsApp(account: Account, body: Json, response: Response): void {
    const who = `+${String(body.to ?? '').replace(/\D/g, '')}`;
    const thread = this.#thread(account, who, '');
    const refused = whyRefused('whatsapp', body);
    if (refused) return fail(response, 100, `(#100) Invalid parameter: ${refused}.`);
    const template = body.type === 'template' ? templateCalled(account, body.template as Json) : null;
    if (typeof template === 'number')
      return fail(
        response,
        template,
        template === 132_000
          ? 'Number of parameters does not match.'
          : 'Template does not exist or is not approved.',
      );
    if (this.limits && !account.pace.take(Date.now())) return fail(response, 130_429, 'Rate limit hit.');
    const id = `wamid.${account.id}.${++this.#ids}`;
    const now = this.clock.now();
    const open = thread.heard !== null && now <= thread.heard + (thread.byAd ? 3 : 1) * DAY;
    response.json({
      messaging_product: 'whatsapp',
      contacts: [{ input: body.to, wa_id: who.slice(1) }],
      messages: [{ id }],
    });
    // WhatsApp takes the message and says in a report what became of it.
    const error = thread.blocked
      ? { code: 131_026, title: 'Message undeliverable' }
      : !open && body.type !== 'template'
        ? { code: 131_047, title: 'Re-engagement message' }
        : null;
    if (error)
      this.#report(account, who, {
        id,
        status: 'failed',
        timestamp: seconds(now),
        recipient_id: who.slice(1),
        errors: [error],
      });
    else this.#took(account, who, thread, id, body, template ?? seenWhatsApp(body));
  }

  #took(
    account: Account,
    who: string,
    thread: Thread,
    id: string,
    body: Json,
    seen: Pick<PhoneMessage, 'text' | 'buttons' | 'as' | 'opens' | 'media'>,
  ): void {
    if (!this.keep) return;
    const now = this.clock.now();
    thread.messages.push({ id, from: 'line', at: new Date(now).toISOString(), read: false, ...seen });
    this.sendings.push({ channel: account.kind, account: account.id, to: who, body, at: Date.now() });
    if (!this.reports) return;
    if (account.kind === 'whatsapp')
      this.#report(account, who, {
        id,
        status: 'delivered',
        timestamp: seconds(now),
        recipient_id: who.slice(1),
      });
    else if (account.kind === 'messenger')
      this.#messaging(account, who, { delivery: { mids: [id], watermark: now } });
  }

  // The person's side.

  /** The channel is told apart by the line's name here: "messenger:1001". */
  #known(line: string): Account {
    const account = this.accounts.get(line);
    if (!account) throw new CannotBeDone('there is no such account yet: connect the line first');
    return account;
  }

  somebody(line: string): string {
    const account = this.accounts.get(line);
    if (account?.kind === 'whatsapp' || line.startsWith('whatsapp'))
      return inventedNumber((number) => account?.threads.has(number) ?? false);
    return digits(16);
  }

  look(line: string, who: string): PhoneView {
    const account = this.accounts.get(line);
    if (!account) return { messages: [], posts: [], ads: [], menu: [], blocked: false };
    const thread = account.threads.get(who);
    const messages = thread?.messages ?? [];
    if (thread && this.reports) this.#reading(account, who, thread);
    const last = messages.length - 1;
    return {
      // Quick replies are gone after the next message.
      messages: messages.map(({ read: _read, ...message }, index) =>
        message.as === 'quick replies' && index < last ? { ...message, buttons: [], as: 'none' } : message,
      ),
      posts:
        account.kind === 'whatsapp'
          ? []
          : account.posts.map((post): PhonePost => postSeen(post, account.comments)),
      ads: account.ads,
      menu: [...account.profile.ice_breakers, ...account.profile.persistent_menu]
        .flatMap((list) => list.call_to_actions)
        .map(({ title, question, payload }) => ({
          item: payload.replace(/^menu:/, ''),
          label: title ?? question ?? '',
        })),
      blocked: thread?.blocked ?? false,
    };
  }

  #reading(account: Account, who: string, thread: Thread): void {
    const unread = thread.messages.filter((message) => message.from === 'line' && !message.read);
    const newest = unread.at(-1);
    if (!newest) return;
    for (const message of unread) message.read = true;
    const now = this.clock.now();
    if (account.kind === 'whatsapp')
      this.#report(account, who, {
        id: newest.id,
        status: 'read',
        timestamp: seconds(now),
        recipient_id: who.slice(1),
      });
    else
      this.#messaging(
        account,
        who,
        account.kind === 'messenger' ? { read: { watermark: now } } : { read: { mid: newest.id } },
      );
  }

  async act(line: string, who: string, what: PhoneDo): Promise<boolean> {
    const account = this.#known(line);
    const now = this.clock.now();
    if (what.do === 'comment') return this.#comment(account, who, what);
    if (what.do === 'edit comment' || what.do === 'remove comment') return this.#changeComment(account, what);
    const thread = this.#thread(account, who, 'name' in what ? what.name : '');
    const mine = (text: string, media?: string) =>
      thread.messages.push({
        id: `p${++this.#ids}`,
        from: 'person',
        text,
        at: new Date(now).toISOString(),
        buttons: [],
        as: 'none',
        read: true,
        ...(media && { media }),
      });
    const heard = (byAd = false) => {
      thread.heard = now;
      thread.byAd = byAd;
    };
    switch (what.do) {
      case 'block': {
        thread.blocked = what.is;
        if (account.kind !== 'whatsapp') return true;
        return this.#value(account, who, {
          user_preferences: [
            {
              wa_id: who.slice(1),
              value: what.is ? 'stop' : 'resume',
              category: 'marketing_messages',
              timestamp: seconds(now),
            },
          ],
        });
      }
      case 'answer as the account': {
        const id = `m_own_${++this.#ids}`;
        thread.messages.push({
          id,
          from: 'line',
          text: what.text,
          at: new Date(now).toISOString(),
          buttons: [],
          as: 'none',
          read: false,
        });
        if (account.kind === 'whatsapp')
          throw new CannotBeDone('WhatsApp tells nothing of what is written elsewhere');
        return this.#deliver(account, thread, {
          messaging: [
            {
              sender: { id: account.id },
              recipient: { id: who },
              timestamp: now,
              message: { mid: id, text: what.text, is_echo: true },
            },
          ],
        });
      }
      case 'write':
        mine(what.text);
        heard();
        return account.kind === 'whatsapp'
          ? this.#whatsapp(account, who, thread, { type: 'text', text: { body: what.text } })
          : this.#message(account, who, thread, { text: what.text });
      case 'send': {
        mine(what.what === 'place' ? '51.5007, -0.1246' : '', what.what === 'place' ? undefined : what.what);
        heard();
        return account.kind === 'whatsapp'
          ? this.#whatsapp(account, who, thread, whatsAppFile(what.what))
          : this.#message(account, who, thread, { attachments: [attachment(what.what)] });
      }
      case 'tap': {
        const message = thread.messages.find((each) => each.id === what.messageId);
        const button = message?.buttons.find((each) => each.data === what.data);
        if (!message || !button) throw new CannotBeDone('there is no such button');
        mine(button.text);
        heard();
        if (account.kind === 'whatsapp') {
          const reply = { id: what.data, title: button.text };
          return this.#whatsapp(account, who, thread, {
            type: 'interactive',
            interactive:
              message.as === 'list'
                ? { type: 'list_reply', list_reply: reply }
                : { type: 'button_reply', button_reply: reply },
            context: { id: message.id },
          });
        }
        return message.as === 'quick replies'
          ? this.#message(account, who, thread, { text: button.text, quick_reply: { payload: what.data } })
          : this.#messaging(account, who, {
              postback: { mid: `m_${++this.#ids}`, title: button.text, payload: what.data },
            });
      }
      case 'click ad': {
        const ad = account.ads.find((each) => each.id === what.adId);
        if (!ad) throw new CannotBeDone('there is no such ad');
        const known = thread.heard !== null;
        heard(true);
        if (account.kind === 'whatsapp') {
          mine(ad.opening);
          return this.#whatsapp(account, who, thread, {
            type: 'text',
            text: { body: ad.opening },
            referral: { source_id: ad.id, source_type: 'ad', headline: ad.text, ctwa_clid: digits(20) },
          });
        }
        const referral = { source: 'ADS', type: 'OPEN_THREAD', ad_id: ad.id, ...(ad.ref && { ref: ad.ref }) };
        if (known) return this.#messaging(account, who, { referral });
        mine(ad.opening);
        return this.#message(account, who, thread, { text: ad.opening, referral });
      }
      case 'open link':
        if (account.kind === 'whatsapp')
          return this.act(line, who, { do: 'write', name: what.name, text: what.ref });
        heard();
        return this.#messaging(account, who, {
          referral: { source: 'SHORTLINK', type: 'OPEN_THREAD', ref: what.ref },
        });
      case 'menu':
        if (account.kind === 'whatsapp') throw new CannotBeDone('WhatsApp has no standing menu');
        heard();
        return this.#messaging(account, who, {
          postback: {
            mid: `m_${++this.#ids}`,
            title: this.look(line, who).menu.find(({ item }) => item === what.item)?.label ?? what.item,
            payload: `menu:${what.item}`,
          },
        });
    }
  }

  #comment(
    account: Account,
    who: string,
    { name, postId, text, under }: Extract<PhoneDo, { do: 'comment' }>,
  ): Promise<boolean> {
    if (account.kind === 'whatsapp') throw new CannotBeDone('WhatsApp has no posts');
    const comment: Comment = {
      id: `${postId}_${++this.#ids}`,
      postId,
      who,
      name,
      text,
      at: this.clock.now(),
      under,
      removed: false,
      answered: false,
      replies: [],
    };
    account.comments.push(comment);
    return this.#tellComment(account, comment, 'add');
  }

  #changeComment(
    account: Account,
    what: Extract<PhoneDo, { do: 'edit comment' | 'remove comment' }>,
  ): Promise<boolean> {
    const comment = account.comments.find((each) => each.id === what.commentId);
    if (!comment) throw new CannotBeDone('there is no such comment');
    if (what.do === 'remove comment') comment.removed = true;
    else comment.text = what.text;
    return this.#tellComment(account, comment, what.do === 'remove comment' ? 'remove' : 'edited');
  }

  /** A comment as the account itself makes it, or a person; in the format of either platform. */
  #tellComment(account: Account, comment: Comment, verb: string): Promise<boolean> {
    const now = this.clock.now();
    const value =
      account.kind === 'messenger'
        ? {
            item: 'comment',
            verb,
            comment_id: comment.id,
            post_id: comment.postId,
            parent_id: comment.under ?? comment.postId,
            from: { id: comment.who, name: comment.name },
            message: comment.text,
            created_time: Math.floor(comment.at / 1_000),
          }
        : {
            id: comment.id,
            text: comment.text,
            from: { id: comment.who, username: comment.name.toLowerCase().replace(/\W+/g, '.') },
            media: { id: comment.postId },
            ...(comment.under && { parent_id: comment.under }),
            ...(verb !== 'add' && { verb }),
          };
    return this.#deliver(
      account,
      null,
      { changes: [{ field: account.kind === 'messenger' ? 'feed' : 'comments', value }] },
      now,
    );
  }

  #message(account: Account, who: string, thread: Thread, message: object): Promise<boolean> {
    return this.#messaging(account, who, { message: { mid: `m_${++this.#ids}`, ...message } }, thread);
  }

  #messaging(
    account: Account,
    who: string,
    event: object,
    thread: Thread | null = account.threads.get(who) ?? null,
  ): Promise<boolean> {
    return this.#deliver(account, thread, {
      messaging: [
        { sender: { id: who }, recipient: { id: account.id }, timestamp: this.clock.now(), ...event },
      ],
    });
  }

  #whatsapp(account: Account, who: string, thread: Thread, message: object): Promise<boolean> {
    return this.#value(account, who, {
      contacts: [{ profile: { name: thread.name }, wa_id: who.slice(1) }],
      messages: [
        {
          from: who.slice(1),
          id: `wamid.in.${account.id}.${++this.#ids}`,
          timestamp: seconds(this.clock.now()),
          ...message,
        },
      ],
    });
  }

  /** Somebody submits a lead form of an ad. */
  submit(account: Account, form: string, ad: string, answers: Record<string, string>): Promise<boolean> {
    const id = `444${++this.#ids}`;
    account.leads.push({
      id,
      field_data: Object.entries(answers).map(([name, value]) => ({ name, values: [value] })),
    });
    const created_time = Math.floor(this.clock.now() / 1_000);
    return this.#deliver(account, null, {
      changes: [
        {
          field: 'leadgen',
          value: { leadgen_id: id, form_id: form, page_id: account.id, ad_id: ad, created_time },
        },
      ],
    });
  }

  /** The platform has decided on a template. */
  async decideOn(account: Account, name: string, status: string): Promise<void> {
    for (const template of account.templates) if (template.name === name) template.status = status;
    await this.#deliver(account, null, {
      changes: [
        {
          field: 'message_template_status_update',
          value: { event: status, message_template_name: name, message_template_language: 'en' },
        },
      ],
    });
  }

  #report(account: Account, who: string, status: object): void {
    void this.#value(account, who, { statuses: [status] });
  }

  #value(account: Account, who: string, value: object): Promise<boolean> {
    return this.#deliver(account, account.threads.get(who) ?? null, {
      changes: [
        {
          field: 'messages',
          value: {
            messaging_product: 'whatsapp',
            metadata: { display_phone_number: account.name, phone_number_id: account.id },
            ...value,
          },
        },
      ],
    });
  }

  /** A signed delivery of entries, for tests that deliver by themselves. */
  signed(kind: GraphKind, entry: object[]): { headers: Record<string, string>; body: string } {
    const body = JSON.stringify({ object: OBJECT[kind], entry });
    const signature = createHmac('sha256', graphAccess(kind, '0').appSecret).update(body).digest('hex');
    return {
      headers: { 'content-type': 'application/json', 'x-hub-signature-256': `sha256=${signature}` },
      body,
    };
  }

  /** Where an account's events go; null while nobody has subscribed. */
  webhookOf(account: Account): string | null {
    return account.kind === 'whatsapp'
      ? account.webhook
      : (this.subscriptions.get(OBJECT[account.kind]) ?? null);
  }

  /** Events of one thread are delivered one after the other. */
  #deliver(
    account: Account,
    thread: Thread | null,
    content: object,
    time = this.clock.now(),
  ): Promise<boolean> {
    const url = account.mood === 'not subscribed' ? null : this.webhookOf(account);
    if (!url) return Promise.resolve(false);
    const { headers, body } = this.signed(account.kind, [
      { id: account.kind === 'whatsapp' ? `8${account.id}` : account.id, time, ...content },
    ]);
    const delivery = (thread?.delivery ?? Promise.resolve()).then(() => deliver(url, headers, body));
    if (thread) thread.delivery = delivery;
    return delivery;
  }

  #thread(account: Account, who: string, name: string): Thread {
    let thread = account.threads.get(who);
    if (!thread)
      account.threads.set(
        who,
        (thread = {
          name,
          messages: [],
          heard: null,
          byAd: false,
          blocked: false,
          delivery: Promise.resolve(),
        }),
      );
    if (name) thread.name = name;
    return thread;
  }

  /** Everything that outlives a restart. */
  state(): object {
    return {
      subscriptions: [...this.subscriptions],
      ids: this.#ids,
      accounts: [...this.accounts.values()].map(
        ({ pace: _pace, privatePace: _private, threads, ...account }) => ({
          ...account,
          threads: [...threads].map(([who, { delivery: _delivery, ...thread }]) => [who, thread]),
        }),
      ),
    };
  }

  restore(state: {
    subscriptions: [string, string][];
    ids: number;
    accounts: (Omit<Account, 'threads'> & { threads: [string, Thread][] })[];
  }): void {
    this.#ids = state.ids;
    for (const [object, address] of state.subscriptions) this.subscriptions.set(object, address);
    for (const { threads, ...kept } of state.accounts) {
      const account = Object.assign(this.come(kept.kind, kept.id), kept);
      for (const [who, thread] of threads)
        account.threads.set(who, { ...thread, delivery: Promise.resolve() });
    }
  }
}

const nameOf = (account: Account): string =>
  account.name
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, '.')
    .replace(/^\.|\.$/g, '');
const seconds = (ms: number): string => String(Math.floor(ms / 1_000));

function fail(response: Response, code: number, message: string, subcode?: number): void {
  const status = code === 1 || code === 2 ? 500 : code === 190 ? 401 : 400;
  response.status(status).json({
    error: {
      message: `(#${code}) ${message}`,
      type: 'OAuthException',
      code,
      ...(subcode && { error_subcode: subcode }),
      fbtrace_id: digits(11),
    },
  });
}

/** The platform's own words for each refusal. */
const refusals = (response: Response, kind: GraphKind): Refusals => ({
  '401': () => fail(response, 190, 'Error validating access token: Session has expired.'),
  '403': () => fail(response, 10, 'Application does not have permission for this action.'),
  '429': () =>
    fail(response, kind === 'whatsapp' ? 130_429 : 613, 'Calls to this api have exceeded the rate limit.'),
  '500': () => fail(response, 2, 'An unexpected error has occurred. Please retry your request later.'),
  blocked: () =>
    fail(response, 368, 'The action attempted has been deemed abusive or is otherwise disallowed.'),
});
