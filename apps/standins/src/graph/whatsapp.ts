import type { Response } from 'express';
import type { Account, Json } from './account';
import { fail } from './errors';
import { whyRefused } from './limits';
import {
  DAY,
  clicked,
  pageOf,
  seconds,
  tapped,
  type GraphPlatform,
  type GraphWorld,
  type InThread,
  type ThreadDo,
} from './platform';
import { seenWhatsApp, templateCalled, whatsAppFile } from './seen';
import { CannotBeDone, digits, inventedNumber } from '../phone';

const TEMPLATE_REFUSALS: Record<number, string> = {
  132_000: 'Number of parameters does not match.',
  132_001: 'Template does not exist or is not approved.',
  132_012: 'Format of the header does not match.',
};

/** WhatsApp: numbers, templates, and reports that say what became of a message after it was taken. */
export class WhatsAppStandin implements GraphPlatform {
  readonly kind = 'whatsapp' as const;
  readonly object = 'whatsapp_business_account';

  constructor(private readonly world: GraphWorld) {}

  somebody(taken: (id: string) => boolean): string {
    return inventedNumber(taken);
  }

  get(account: Account, [first, second]: string[]): object | null {
    if (first === `8${account.id}` && second === 'message_templates') return { data: account.templates };
    if (first === 'me') return pageOf(account);
    if (first === account.id)
      return {
        id: account.id,
        display_phone_number: account.name,
        verified_name: account.name,
        status: account.mood === 'unregistered' ? 'PENDING' : 'CONNECTED',
        quality_rating: account.quality,
        messaging_limit_tier: account.tier,
      };
    return null;
  }

  async post(account: Account, [first, second]: string[], body: Json, response: Response): Promise<void> {
    if (second === 'subscribed_apps') {
      const address = String(body.override_callback_uri ?? '');
      if (address !== '' && !(await this.world.answersChallenge(address, String(body.verify_token ?? ''))))
        return fail(response, 2200, 'Callback verification failed.');
      account.webhook = address || null;
      return void response.json({ success: true });
    }
    fail(response, 100, `Unsupported post request to ${first}/${second}.`);
  }

  send(account: Account, body: Json, response: Response): void {
    const who = `+${String(body.to ?? '').replace(/\D/g, '')}`;
    const thread = this.world.thread(account, who, '');
    const refused = whyRefused('whatsapp', body);
    if (refused) return fail(response, 100, `(#100) Invalid parameter: ${refused}.`);
    const template = body.type === 'template' ? templateCalled(account, body.template as Json) : null;
    if (typeof template === 'number') return fail(response, template, TEMPLATE_REFUSALS[template]!);
    if (this.world.limits && !account.pace.take(Date.now()))
      return fail(response, 130_429, 'Rate limit hit.');
    const id = `wamid.${account.id}.${this.world.nextId()}`;
    const open =
      thread.heard !== null && this.world.clock.now() <= thread.heard + (thread.byAd ? 3 : 1) * DAY;
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
    if (error) this.#report(account, who, id, 'failed', { errors: [error] });
    else this.world.took(account, who, thread, id, body, template ?? seenWhatsApp(body));
  }

  delivered(account: Account, who: string, id: string): void {
    this.#report(account, who, id, 'delivered');
  }

  read(account: Account, who: string, id: string): void {
    this.#report(account, who, id, 'read');
  }

  #report(account: Account, who: string, id: string, status: string, more: object = {}): void {
    const timestamp = seconds(this.world.clock.now());
    void this.#tell(account, who, {
      statuses: [{ id, status, timestamp, recipient_id: who.slice(1), ...more }],
    });
  }

  comment(): Promise<boolean> {
    throw new CannotBeDone('WhatsApp has no posts');
  }

  async act(at: InThread, what: ThreadDo): Promise<boolean> {
    const { account, who, thread, mine, heard } = at;
    switch (what.do) {
      case 'block':
        return this.#tell(account, who, {
          user_preferences: [
            {
              wa_id: who.slice(1),
              value: what.is ? 'stop' : 'resume',
              category: 'marketing_messages',
              timestamp: seconds(this.world.clock.now()),
            },
          ],
        });
      case 'answer as the account':
        throw new CannotBeDone('WhatsApp tells nothing of what is written elsewhere');
      case 'write':
      case 'open link': {
        const text = what.do === 'write' ? what.text : what.ref;
        mine(text);
        heard();
        return this.#message(at, { type: 'text', text: { body: text } });
      }
      case 'send':
        mine(what.what === 'place' ? '51.5007, -0.1246' : '', what.what === 'place' ? undefined : what.what);
        heard();
        return this.#message(at, whatsAppFile(what.what));
      case 'tap': {
        const { message, button } = tapped(thread, what);
        mine(button.text);
        heard();
        const reply = { id: what.data, title: button.text };
        return this.#message(at, {
          type: 'interactive',
          interactive:
            message.as === 'list'
              ? { type: 'list_reply', list_reply: reply }
              : { type: 'button_reply', button_reply: reply },
          context: { id: message.id },
        });
      }
      case 'click ad': {
        const ad = clicked(account, what);
        heard(true);
        mine(ad.opening);
        return this.#message(at, {
          type: 'text',
          text: { body: ad.opening },
          referral: { source_id: ad.id, source_type: 'ad', headline: ad.text, ctwa_clid: digits(20) },
        });
      }
      case 'menu':
        throw new CannotBeDone('WhatsApp has no standing menu');
    }
  }

  #message({ account, who, thread }: InThread, message: object): Promise<boolean> {
    return this.#tell(account, who, {
      contacts: [{ profile: { name: thread.name }, wa_id: who.slice(1) }],
      messages: [
        {
          from: who.slice(1),
          id: `wamid.in.${account.id}.${this.world.nextId()}`,
          timestamp: seconds(this.world.clock.now()),
          ...message,
        },
      ],
    });
  }

  #tell(account: Account, who: string, value: object): Promise<boolean> {
    return this.world.deliver(account, account.threads.get(who) ?? null, {
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
}
