import { createHmac, randomUUID } from 'node:crypto';
import { Router, type Response } from 'express';
import { deliver } from './deliver';
import { RateLimit, inMood, type Mood, type Refusals, type StandinClock } from './mood';
import { STANDIN_SECRET } from './secret';

export interface SmsMessage {
  id: string;
  from: 'person' | 'line';
  text: string;
  at: number;
}
interface NumberAccount {
  number: string;
  key: string;
  webhook: string | null;
  pace: RateLimit;
  mood: Mood;
  threads: Map<string, { messages: SmsMessage[]; delivery: Promise<unknown> }>;
  /** What each idempotency key was answered with. */
  taken: Map<string, string>;
}

/** What a number was asked to send; for tests. */
export interface SmsSending {
  from: string;
  to: string;
  body: string;
  id: string;
  at: number;
}

/** The key and signing secret that the gateway gives a number; a real one would show them on its page. */
export function smsAccess(number: string): { key: string; signing: string } {
  const digest = (what: string) =>
    createHmac('sha256', `${STANDIN_SECRET}-gateway`)
      .update(`${what}:${number}`)
      .digest('base64url')
      .slice(0, 24);
  return { key: `key_${digest('key')}`, signing: `sig_${digest('signing')}` };
}

/**
 * A stand-in for a plain SMS gateway: signed form POST in, JSON POST out, repeated idempotency keys dropped.
 */
export class SmsStandin {
  readonly numbers = new Map<string, NumberAccount>();
  readonly sendings: SmsSending[] = [];
  limits = true;
  keep = true;
  /** Whether deliveries are reported. */
  reports = true;

  constructor(private readonly clock: StandinClock) {}

  router(): Router {
    const router = Router();
    router.post('/sms/numbers', async (request, response) => {
      const { number, webhook } = (request.body ?? {}) as { number?: string; webhook?: string | null };
      if (!number || !/^(\+\d{7,15}|\d{5,6})$/.test(number))
        return void fail(response, 400, 'invalid_number', 'The number must be in E.164.');
      if (request.headers.authorization !== `Bearer ${smsAccess(number).key}`)
        return void fail(response, 401, 'unauthorized', 'The key does not belong to this number.');
      const account = this.#come(number);
      if (await inMood(account.mood, response, refusals(response))) return;
      account.webhook = webhook ?? null;
      response.json({ number, webhook: account.webhook });
    });
    router.post('/sms/messages', async (request, response) => {
      const { from, to, body } = (request.body ?? {}) as { from?: string; to?: string; body?: string };
      const account = this.numbers.get(from ?? '');
      if (!account || request.headers.authorization !== `Bearer ${account.key}`)
        return void fail(response, 401, 'unauthorized', 'The key does not belong to this number.');
      if (await inMood(account.mood, response, refusals(response))) return;
      if (!to || !/^\+\d{7,15}$/.test(to))
        return void fail(response, 400, 'invalid_number', 'The number must be in E.164.');
      if (!body || body.length > 1_600)
        return void fail(response, 400, 'invalid_body', 'A body has 1 to 1,600 characters.');
      const repeated = account.taken.get(String(request.headers['idempotency-key'] ?? ''));
      if (repeated) return void response.status(200).json({ id: repeated, repeated: true });
      if (this.limits && !account.pace.take(Date.now())) {
        response.setHeader('retry-after', '1');
        return void fail(response, 429, 'rate', 'A long code sends one message a second.');
      }
      const id = randomUUID();
      if (request.headers['idempotency-key'])
        account.taken.set(String(request.headers['idempotency-key']), id);
      if (this.keep) {
        this.#thread(account, to).messages.push({ id, from: 'line', text: body, at: this.clock.now() });
        this.sendings.push({ from: account.number, to, body, id, at: Date.now() });
      }
      response.status(202).json({ id });
      if (this.keep) this.#report(account, to, id, 'delivered');
    });
    return router;
  }

  async write(number: string, who: string, text: string, media = 0): Promise<boolean> {
    const account = this.numbers.get(number);
    if (!account?.webhook) throw new Error('this number has no webhook: connect the line first');
    const thread = this.#thread(account, who);
    const { url, headers, body, id } = this.incoming(account, who, text, undefined, media);
    thread.messages.push({ id, from: 'person', text: text || '(picture)', at: this.clock.now() });
    const delivery = thread.delivery.then(() => deliver(url, headers, body));
    thread.delivery = delivery;
    return delivery;
  }

  /** A signed delivery, for tests that deliver by themselves. */
  incoming(
    account: NumberAccount,
    who: string,
    text: string,
    id: string = randomUUID(),
    media = 0,
  ): { url: string; headers: Record<string, string>; body: string; id: string } {
    const body = new URLSearchParams({
      Id: id,
      From: who,
      To: account.number,
      Body: text,
      MediaCount: String(media),
      ...(media > 0 && { MediaUrl0: `https://gateway.example/media/${id}.jpg` }),
      SentAt: new Date(this.clock.now()).toISOString(),
    }).toString();
    return { url: account.webhook!, ...this.#signed(account, body), id };
  }

  #signed(account: NumberAccount, body: string): { headers: Record<string, string>; body: string } {
    const signature = createHmac('sha256', smsAccess(account.number).signing).update(body).digest('hex');
    return {
      headers: {
        'content-type': 'application/x-www-form-urlencoded',
        'x-signature-256': `sha256=${signature}`,
      },
      body,
    };
  }

  /** What became of a message: told to the webhook, as the carrier tells the gateway. */
  #report(account: NumberAccount, to: string, id: string, state: 'delivered' | 'failed'): void {
    if (!account.webhook || !this.reports) return;
    const { headers, body } = this.#signed(
      account,
      new URLSearchParams({ Id: id, To: to, From: account.number, Status: state }).toString(),
    );
    void deliver(account.webhook, headers, body);
  }

  look(number: string, who: string): SmsMessage[] {
    return this.numbers.get(number)?.threads.get(who)?.messages ?? [];
  }

  /** Everything that outlives a restart. */
  state(): object[] {
    return [...this.numbers.values()].map(({ number, webhook, threads, taken }) => ({
      number,
      webhook,
      taken: [...taken],
      threads: [...threads].map(([who, thread]) => ({ who, messages: thread.messages })),
    }));
  }

  restore(
    state: {
      number: string;
      webhook: string | null;
      taken: [string, string][];
      threads: { who: string; messages: SmsMessage[] }[];
    }[],
  ): void {
    for (const { number, webhook, taken, threads } of state) {
      const account = this.#come(number);
      Object.assign(account, { webhook, taken: new Map(taken) });
      for (const { who, messages } of threads) this.#thread(account, who).messages = messages;
    }
  }

  #come(number: string): NumberAccount {
    let account = this.numbers.get(number);
    if (!account)
      this.numbers.set(
        number,
        (account = {
          number,
          key: smsAccess(number).key,
          webhook: null,
          pace: new RateLimit(paceOf(number)),
          mood: 'well',
          threads: new Map(),
          taken: new Map(),
        }),
      );
    return account;
  }

  #thread(account: NumberAccount, who: string) {
    let thread = account.threads.get(who);
    if (!thread) account.threads.set(who, (thread = { messages: [], delivery: Promise.resolve() }));
    return thread;
  }
}

function fail(response: Response, status: number, code: string, message: string): void {
  response.status(status).json({ error: { code, message } });
}

/** The gateway's own words for each refusal. */
const refusals = (response: Response): Refusals => ({
  '401': () => fail(response, 401, 'unauthorized', 'The key was withdrawn.'),
  '403': () => fail(response, 403, 'opted_out', 'The number has opted out.'),
  '429': () => fail(response.setHeader('retry-after', '2'), 429, 'rate', 'Too many messages.'),
  '500': () => fail(response, 500, 'fault', 'An internal fault.'),
});

/** How many messages a second carriers take from a number: short codes 100, toll-free ones 3, others 1. */
const paceOf = (number: string) =>
  /^\d{5,6}$/.test(number) ? 100 : /^\+1(800|833|844|855|866|877|888)/.test(number) ? 3 : 1;
