import { createHmac } from 'node:crypto';
import { Router, type Request, type Response } from 'express';
import { deliver } from '../deliver';
import { inMood, type StandinClock } from '../mood';
import { CannotBeDone, digits, type Phone, type PhoneDo, type PhonePost, type PhoneView } from '../phone';
import type { Account, Json, Thread } from './account';
import { fail, refusals } from './errors';
import { InstagramStandin } from './instagram';
import type { GraphKind } from './limits';
import { MessengerStandin } from './messenger';
import { APP, type GraphPlatform, type GraphWorld } from './platform';
import { postSeen, type Seen } from './seen';
import { menuSeen } from './sendApi';
import { WhatsAppStandin } from './whatsapp';
import { type GraphSending, graphAccess, LETTER, newAccount } from './access';

/**
 * A stand-in for the Graph APIs of Messenger, Instagram and WhatsApp: tokens, paths, limits, windows, error
 * codes, webhooks. What differs between the three stands in a file each.
 */
export class GraphStandin implements Phone, GraphWorld {
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
  readonly #platforms: Record<GraphKind, GraphPlatform> = {
    messenger: new MessengerStandin(this),
    instagram: new InstagramStandin(this),
    whatsapp: new WhatsAppStandin(this),
  };

  constructor(readonly clock: StandinClock) {}

  nextId(): number {
    return ++this.#ids;
  }

  account(kind: GraphKind, id: string): Account | undefined {
    return this.accounts.get(`${kind}:${id}`);
  }

  /** An account comes into being when it is first asked for with its token. */
  come(kind: GraphKind, id: string, name = ''): Account {
    let account = this.account(kind, id);
    if (!account)
      this.accounts.set(`${kind}:${id}`, (account = newAccount(kind, id, name, this.clock.now())));
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
      if (request.method === 'GET') account.asked++;
      if (await inMood(account.mood, response, refusals(response, account.kind))) return;
      return request.method === 'GET'
        ? this.#get(account, path, response)
        : this.#change(account, path, request, response);
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
    if (!(await this.answersChallenge(callback_url ?? '', verify_token ?? '')))
      return fail(response, 2200, 'Callback verification failed.');
    this.subscriptions.set(object!, callback_url!);
    response.json({ success: true });
  }

  /** The platform asks the address whether it is a webhook before it hands anything to it. */
  async answersChallenge(address: string, word: string): Promise<boolean> {
    const challenge = digits(10);
    const answer = await fetch(
      `${address}?hub.mode=subscribe&hub.challenge=${challenge}&hub.verify_token=${encodeURIComponent(word)}`,
    ).catch(() => null);
    return answer?.status === 200 && (await answer.text()) === challenge;
  }

  #get(account: Account, path: string[], response: Response): void {
    const [first, second] = path;
    if (first === 'me' && second === 'conversations' && account.mood === 'no access')
      return fail(response, 10, 'Application does not have permission for this action.');
    const own = this.#platforms[account.kind].get(account, path);
    if (own) return void response.json(own);
    const lead = account.leads.find((each) => each.id === first);
    if (lead?.unreadable) return fail(response, 10, 'Application does not have permission for this action.');
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

  #change(account: Account, path: string[], request: Request, response: Response): void | Promise<void> {
    const platform = this.#platforms[account.kind];
    const body = (request.body ?? {}) as Json;
    if (request.method === 'DELETE' && platform.remove) return platform.remove(account, path, body, response);
    if (path[1] !== 'messages') return platform.post(account, path, body, response);
    if (account.mood === 'no access')
      return fail(response, 10, 'Application does not have permission for this action.');
    if (account.mood === 'unregistered') return fail(response, 133_010, 'The account is not registered.');
    platform.send(account, body, response);
  }

  took(account: Account, who: string, thread: Thread, id: string, body: Json, seen: Seen): void {
    if (!this.keep) return;
    const at = new Date(this.clock.now()).toISOString();
    thread.messages.push({ id, from: 'line', at, read: false, ...seen });
    this.sendings.push({ channel: account.kind, account: account.id, to: who, body, at: Date.now() });
    if (this.reports) this.#platforms[account.kind].delivered(account, who, id);
  }

  // The person’s side.

  /** The channel is told apart by the line's name here: "messenger:1001". */
  #known(line: string): Account {
    const account = this.accounts.get(line);
    if (!account) throw new CannotBeDone('there is no such account yet: connect the line first');
    return account;
  }

  somebody(line: string, taken: (number: string) => boolean): string {
    const [kind] = line.split(':') as [GraphKind];
    return this.#platforms[kind].somebody(taken);
  }

  look(line: string, who: string): PhoneView {
    const account = this.accounts.get(line);
    if (!account) return { messages: [], posts: [], ads: [], greeting: null, menu: [], blocked: false };
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
      greeting: account.profile.greeting?.[0]?.text ?? null,
      menu: menuSeen(account),
      blocked: thread?.blocked ?? false,
    };
  }

  #reading(account: Account, who: string, thread: Thread): void {
    const unread = thread.messages.filter((message) => message.from === 'line' && !message.read);
    const newest = unread.at(-1);
    if (!newest) return;
    for (const message of unread) message.read = true;
    this.#platforms[account.kind].read(account, who, newest.id);
  }

  async act(line: string, who: string, what: PhoneDo): Promise<boolean> {
    const account = this.#known(line);
    const platform = this.#platforms[account.kind];
    if (what.do === 'comment' || what.do === 'edit comment' || what.do === 'remove comment')
      return platform.comment(account, who, what);
    if (what.do === 'lead form')
      return this.submit(account, what.form, what.adId, what.answers, !what.readable);
    const thread = this.thread(account, who, 'name' in what ? what.name : '');
    const now = this.clock.now();
    if (what.do === 'block') thread.blocked = what.is;
    return platform.act(
      {
        account,
        who,
        thread,
        mine: (text, media) =>
          thread.messages.push({
            id: `p${this.nextId()}`,
            from: 'person',
            text,
            at: new Date(now).toISOString(),
            buttons: [],
            as: 'none',
            read: true,
            ...(media && { media }),
          }),
        heard: (byAd = false) => Object.assign(thread, { heard: now, byAd }),
      },
      what,
    );
  }

  /** Somebody submits a lead form of an ad. */
  submit(
    account: Account,
    form: string,
    ad: string,
    answers: Record<string, string>,
    unreadable = false,
  ): Promise<boolean> {
    const id = `444${this.nextId()}`;
    account.leads.push({
      id,
      field_data: Object.entries(answers).map(([name, value]) => ({ name, values: [value] })),
      ...(unreadable && { unreadable }),
    });
    const created_time = Math.floor(this.clock.now() / 1_000);
    const value = { leadgen_id: id, form_id: form, page_id: account.id, ad_id: ad, created_time };
    return this.deliver(account, null, { changes: [{ field: 'leadgen', value }] });
  }

  /** The platform has decided on a template. */
  async decideOn(account: Account, name: string, status: string): Promise<void> {
    for (const template of account.templates) if (template.name === name) template.status = status;
    const value = { event: status, message_template_name: name, message_template_language: 'en' };
    const changes = [{ field: 'message_template_status_update', value }];
    await this.deliver(account, null, { changes });
  }

  /** A signed delivery of entries, for tests that deliver by themselves. */
  signed(kind: GraphKind, entry: object[]): { headers: Record<string, string>; body: string } {
    const body = JSON.stringify({ object: this.#platforms[kind].object, entry });
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
      : (this.subscriptions.get(this.#platforms[account.kind].object) ?? null);
  }

  /** Events of one thread are delivered one after the other. */
  deliver(
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

  thread(account: Account, who: string, name: string): Thread {
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
