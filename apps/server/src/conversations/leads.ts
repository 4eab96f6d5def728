import { parsePhoneNumberFromString, type CountryCode } from 'libphonenumber-js';
import { isHeardOn, type Loop } from '@dart-loop/core';
import { toJson } from '../platform/db/json';
import type { Db } from '../platform/db/pool';
import type { Adapter, HookReading, Lead, OpenLine, Received } from '../channels/adapter';
import type { Lines } from '../lines/lines';

/** How the platform's forms name a telephone number and a name. */
const PHONES = ['phone_number', 'phone', 'mobile_number', 'work_phone_number'];
const FIRST = ['first_name', 'full_name', 'name'];

/**
 * A lead form is told without its answers, and its person has no conversation yet. The answers are asked for,
 * and the person is met by telephone number on the line where a live loop hears the form.
 */
export class Leads {
  constructor(
    private readonly db: Db,
    private readonly lines: Lines,
  ) {}

  /**
   * What is to be stored, and on which line. Null where the platform does not say now what was answered: it
   * is asked again later.
   */
  async meet(
    lead: Lead,
    line: OpenLine,
    adapter: Adapter,
  ): Promise<{ line: OpenLine; reading: HookReading } | null> {
    const answers = await adapter.lead?.(lead.id, line);
    if (!answers) return null;
    const aside = (reason: string) => ({
      line,
      // Without the answers: they are asked for again.
      reading: { received: [], aside: [{ kind: 'lead form' as const, reason, body: toJson(lead) }] },
    });
    const { rows } = await this.db.query<{ country: string }>('select country from client where id = $1', [
      line.clientId,
    ]);
    const typed = PHONES.map((name) => answers[name]).find((each) => each?.trim());
    const phone = typed ? parsePhoneNumberFromString(typed, rows[0]!.country as CountryCode) : undefined;
    if (!phone?.isPossible())
      return aside(
        typed
          ? `the telephone number “${typed.slice(0, 40)}” in the lead form ${lead.form} cannot be read`
          : `the lead form ${lead.form} asks for no telephone number, so there is no line on which to write to the person`,
      );
    const target = await this.#lineFor(lead.form, line.clientId);
    if (!target)
      return aside(`no live loop hears the lead form ${lead.form} on a connected WhatsApp or SMS line`);
    const [firstName, ...rest] = (FIRST.map((name) => answers[name]).find((each) => each?.trim()) ?? '')
      .trim()
      .split(/\s+/);
    const received: Received = {
      providerId: `lead:${lead.id}`,
      place: null,
      at: lead.at,
      address: phone.number,
      profile: {
        firstName: firstName || null,
        lastName: answers.last_name?.trim() || rest.join(' ') || null,
        handle: null,
      },
      incoming: { kind: 'lead', form: lead.form, ad: lead.ad, answers },
      words: `(lead form ${lead.form})`,
    };
    return { line: target, reading: { received: [received], aside: [] } };
  }

  /** The first connected WhatsApp or SMS line on which a live loop hears the form. */
  async #lineFor(form: string, clientId: number): Promise<OpenLine | null> {
    const { rows: loops } = await this.db.query<{ loop: Loop }>(
      `
        select v.loop from loop o join loop_version v on v.client_id = o.client_id and v.loop_id = o.id
          and v.version = o.live_version where o.client_id = $1 order by o.position, o.id`,
      [clientId],
    );
    const { rows: lines } = await this.db.query<{ id: number; key: string }>(
      `
        select id, key from line where client_id = $1 and channel in ('whatsapp', 'sms')
          and secrets is not null order by channel desc, id`,
      [clientId],
    );
    for (const { loop } of loops)
      for (const cue of loop.cues) {
        if (cue.kind !== 'lead form' || !cue.forms.includes(form)) continue;
        const line = lines.find(({ key }) => isHeardOn(loop, cue, key));
        if (line) return this.lines.byId(line.id);
      }
    return null;
  }
}
