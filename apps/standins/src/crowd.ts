import { post } from './deliver';
import type { SmsStandin } from './sms';
import type { TelegramStandin } from './telegram';

export interface CrowdOrder {
  /** The bots and numbers that are written to, in turn. */
  bots: string[];
  numbers: string[];
  people: number;
  /** Messages a second over all; 0 writes as fast as it is taken, 64 at once. */
  perSecond: number;
  /** How many messages in all. */
  messages: number;
  /** What each person writes, one after the other, then from the start again. */
  says: string[];
}
export interface CrowdReport {
  sent: number;
  taken: number;
  /** How many webhooks were answered otherwise than with 200, by status; 0 stands for no answer. */
  refused: Record<number, number>;
  seconds: number;
  done: boolean;
  /** From handing over a webhook to being asked to send the first answer, in ms, sorted; on Telegram only. */
  latencies: number[];
}

const AT_ONCE = 64;

/** Simulated people who write to lines at a rate, through the same webhooks and formats as everybody. */
export class Crowd {
  report: CrowdReport = { sent: 0, taken: 0, refused: {}, seconds: 0, done: true, latencies: [] };
  constructor(
    private readonly telegram: TelegramStandin,
    private readonly sms: SmsStandin,
  ) {}

  async run(order: CrowdOrder): Promise<CrowdReport> {
    const report: CrowdReport = { sent: 0, taken: 0, refused: {}, seconds: 0, done: false, latencies: [] };
    /** When each chat wrote what is not answered yet, the oldest first. */
    const waiting = new Map<string, number[]>();
    this.telegram.onSending = (chat) => {
      const asked = waiting.get(chat)?.shift();
      if (asked !== undefined) report.latencies.push(performance.now() - asked);
    };
    this.report = report;
    const places = [
      ...order.bots.map((bot) => ({ kind: 'telegram' as const, bot })),
      ...order.numbers.map((number) => ({ kind: 'sms' as const, number })),
    ];
    const start = performance.now();
    let next = 0;
    const write = async () => {
      for (let n = next++; n < order.messages; n = next++) {
        if (order.perSecond > 0) {
          const wait = start + (n * 1_000) / order.perSecond - performance.now();
          if (wait > 1) await new Promise((resolve) => setTimeout(resolve, wait));
        }
        const person = n % order.people;
        const place = places[person % places.length]!;
        const says = order.says[Math.floor(n / order.people) % order.says.length]!;
        report.sent++;
        const chat = String(5_000_000 + person);
        if (place.kind === 'telegram') waiting.set(chat, [...(waiting.get(chat) ?? []), performance.now()]);
        const status = await (place.kind === 'telegram'
          ? this.#telegram(place.bot, 5_000_000 + person, says)
          : this.#sms(place.number, `+4477009${String(person).padStart(5, '0')}`, says));
        if (status === 200) report.taken++;
        else report.refused[status] = (report.refused[status] ?? 0) + 1;
      }
    };
    await Promise.all(Array.from({ length: AT_ONCE }, write));
    report.seconds = (performance.now() - start) / 1_000;
    report.done = true;
    return report;
  }

  #telegram(botId: string, who: number, text: string): Promise<number> {
    const bot = this.telegram.bot(botId);
    if (!bot) throw new Error(`there is no bot ${botId}`);
    this.telegram.meet(bot, who);
    const { url, headers, body } = this.telegram.update(bot, {
      message: {
        message_id: bot.nextUpdate,
        date: Math.floor(Date.now() / 1_000),
        chat: { id: who, type: 'private' },
        from: { id: who, is_bot: false, first_name: `Walker ${who % 10_000}` },
        text,
      },
    });
    return post(url, headers, body);
  }

  #sms(number: string, who: string, text: string): Promise<number> {
    const { url, headers, body } = this.sms.incoming(this.sms.numbers.get(number)!, who, text);
    return post(url, headers, body);
  }
}
