import express, { type Express } from 'express';
import { z } from 'zod';
import { Crowd } from './crowd';
import { MailStandin } from './mail';
import { MOODS, StandinClock } from './mood';
import { OutsideAnswer, OutsideStandin } from './outside';
import { SmsStandin, smsAccess } from './sms';
import { TelegramStandin } from './telegram';

const Control = z.object({
  /** Milliseconds to stand the clock at; null gives it back to the wall. */
  clock: z.number().nullable().optional(),
  /** Whether rates are limited. */
  limits: z.boolean().optional(),
  /** Whether what was sent is kept. */
  keep: z.boolean().optional(),
  mood: z.object({ channel: z.enum(['telegram', 'sms']), line: z.string(), is: z.enum(MOODS) }).optional(),
  /** How another system answers. */
  outside: OutsideAnswer.optional(),
  /** The SMTP code the mail server refuses with; null: it takes everything. */
  mailRefuses: z.number().int().min(400).max(599).nullable().optional(),
  block: z.object({ line: z.string(), who: z.string(), is: z.boolean() }).optional(),
});
const Place = z.object({ channel: z.enum(['telegram', 'sms']), line: z.string() });
const Person = Place.extend({ who: z.string() });
const Write = Person.extend({ name: z.string().default(''), text: z.string().min(1).max(4_096) });
const Tap = Person.extend({ messageId: z.coerce.number(), data: z.string() });
const Order = z.object({
  bots: z.array(z.string()),
  numbers: z.array(z.string()),
  people: z.number().int().positive(),
  perSecond: z.number().nonnegative(),
  messages: z.number().int().positive(),
  says: z.array(z.string()).min(1),
});

/** The stand-ins of one process. */
export interface Standins {
  app: Express;
  telegram: TelegramStandin;
  sms: SmsStandin;
  outside: OutsideStandin;
  mail: MailStandin;
  clock: StandinClock;
}

/** Telegram, an SMS gateway, a mail server and other systems in their own formats, the switch for how they answer, the test phone's other end, and the crowd. */
export function makeStandins(): Standins {
  const clock = new StandinClock();
  const telegram = new TelegramStandin(clock);
  const sms = new SmsStandin(clock);
  const outside = new OutsideStandin();
  const mail = new MailStandin();
  const crowd = new Crowd(telegram, sms);
  const app = express();
  app.disable('x-powered-by');
  app.use(express.json({ limit: '1mb' }));
  app.use(telegram.router());
  app.use(sms.router());
  app.use(outside.router());

  app.get('/healthz', (_request, response) => void response.json({ status: 'well' }));
  app.get(
    '/control/received',
    (_request, response) =>
      void response.json({ telegram: telegram.sendings, sms: sms.sendings, outside: outside.requests, mail: mail.mails }),
  );
  app.get('/control/mail', (_request, response) => void response.json({ port: mail.port }));
  app.get(
    '/control/webhooks',
    (_request, response) =>
      void response.json({
        telegram: [...telegram.bots.values()].map((bot) => ({ bot: bot.id, next: bot.nextUpdate, ...bot.webhook })),
        sms: [...sms.numbers.values()].map((each) => ({ number: each.number, url: each.webhook, ...smsAccess(each.number) })),
      }),
  );
  app.post('/control', (request, response) => {
    const order = Control.parse(request.body);
    if (order.clock !== undefined) clock.wind(order.clock);
    if (order.limits !== undefined) telegram.limits = sms.limits = order.limits;
    if (order.keep !== undefined) telegram.keep = sms.keep = order.keep;
    if (order.mood) {
      const line = order.mood.channel === 'telegram' ? telegram.bot(order.mood.line) : sms.numbers.get(order.mood.line);
      if (!line) return void response.status(404).json({ reason: `there is no line ${order.mood.line}` });
      line.mood = order.mood.is;
    }
    if (order.outside) outside.answer(order.outside);
    if (order.mailRefuses !== undefined) mail.refuse = order.mailRefuses;
    if (order.block) {
      const chat = telegram.bot(order.block.line)?.chats.get(order.block.who);
      if (!chat) return void response.status(404).json({ reason: 'there is no such chat' });
      chat.blocked = order.block.is;
    }
    response.json({ ok: true });
  });

  const seen = ({ channel, line, who }: z.infer<typeof Person>) => ({
    messages:
      channel === 'telegram'
        ? telegram.look(line, who).map((each) => ({
            id: String(each.message_id),
            from: each.from === 'person' ? 'person' : 'line',
            text: each.text,
            at: new Date(each.date * 1_000).toISOString(),
            buttons: each.keyboard.flat().map((button) => ({ text: button.text, data: button.callback_data ?? '' })),
          }))
        : sms
            .look(line, who)
            .map((each) => ({ id: each.id, from: each.from, text: each.text, at: new Date(each.at).toISOString(), buttons: [] })),
  });
  /** Somebody who has never written to the line, so that nothing they did before decides what they get. */
  app.post('/phone/somebody', (request, response) => {
    const { channel, line } = Place.parse(request.body);
    response.json({ who: channel === 'telegram' ? telegram.somebody(line) : sms.somebody(line) });
  });
  app.post('/phone/look', (request, response) => void response.json(seen(Person.parse(request.body))));
  app.post('/phone/write', async (request, response) => {
    const act = Write.parse(request.body);
    const taken = await (act.channel === 'telegram'
      ? telegram.write(act.line, act.who, act.name, act.text)
      : sms.write(act.line, act.who, act.text));
    if (!taken) return void response.status(502).json({ reason: 'the webhook did not take it' });
    response.json(seen(act));
  });
  app.post('/phone/tap', async (request, response) => {
    const act = Tap.parse(request.body);
    const taken = await telegram.tap(act.line, act.who, act.messageId, act.data);
    if (!taken) return void response.status(502).json({ reason: 'the webhook did not take it' });
    response.json(seen(act));
  });
  app.post('/crowd', (request, response) => {
    const order = Order.parse(request.body);
    void crowd.run(order).catch((error: Error) => console.error(error.message));
    response.json({ ok: true });
  });
  app.get('/crowd', (_request, response) => void response.json(crowd.report));
  app.use((error: Error, _request: express.Request, response: express.Response, _next: express.NextFunction) => {
    response
      .status(error instanceof z.ZodError ? 400 : 500)
      .json({ reason: error instanceof z.ZodError ? z.prettifyError(error) : error.message });
  });
  return { app, telegram, sms, outside, mail, clock };
}
