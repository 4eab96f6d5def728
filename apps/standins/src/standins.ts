import express, { type Express } from 'express';
import { z } from 'zod';
import { newAccountOn, typedFor } from './access';
import { CrmStandin } from './crm';
import { Crowd } from './crowd';
import { GraphStandin } from './graph';
import type { GraphTemplate } from './graph/account';
import { MailStandin } from './mail';
import { MOODS, StandinClock } from './mood';
import { OutsideAnswer, OutsideStandin } from './outside';
import { ModelStandin } from './model';
import { Site, SiteStandin } from './site';
import { CannotBeDone, inventedNumber, type Phone, type PhoneDo } from './phone';
import { smsPhone, telegramPhone } from './phones';
import { SheetStandin } from './sheet';
import { SmsStandin, smsAccess } from './sms';
import { TelegramStandin } from './telegram';

const Channel = z.enum(['messenger', 'instagram', 'whatsapp', 'telegram', 'sms']);
const Graph = z.enum(['messenger', 'instagram', 'whatsapp']);
const Template: z.ZodType<GraphTemplate> = z.object({
  name: z.string(),
  language: z.string(),
  status: z.string(),
  category: z.string(),
  components: z.array(
    z.object({
      type: z.string(),
      format: z.string().optional(),
      text: z.string().optional(),
      buttons: z.array(z.object({ type: z.string(), text: z.string() })).optional(),
    }),
  ),
});
const Control = z.object({
  /** Milliseconds to stand the clock at; null gives it back to the wall. */
  clock: z.number().nullable().optional(),
  /** Whether rates are limited. */
  limits: z.boolean().optional(),
  /** Whether what was sent is kept. */
  keep: z.boolean().optional(),
  mood: z.object({ channel: Channel, line: z.string(), is: z.enum(MOODS) }).optional(),
  /** Whether deliveries and readings are reported. */
  reports: z.boolean().optional(),
  /** What stands on an account's wall: its name, posts and ads. */
  wall: z
    .object({
      channel: Graph,
      account: z.string(),
      name: z.string(),
      posts: z.array(z.object({ id: z.string(), text: z.string(), at: z.number() })),
      ads: z.array(
        z.object({ id: z.string(), text: z.string(), opening: z.string(), ref: z.string().default('') }),
      ),
      templates: z.array(Template).default([]),
    })
    .optional(),
  /** Where the CRM tells of its changes; null: nowhere. */
  crmTells: z.string().nullable().optional(),
  /** How another system answers. */
  outside: OutsideAnswer.optional(),
  /** A website that stands there from now on. */
  site: Site.optional(),
  /** The host of another system that answers by itself again. */
  well: z.string().optional(),
  /** The SMTP code the mail server refuses with; null: it takes everything. */
  mailRefuses: z.number().int().min(400).max(599).nullable().optional(),
  block: z.object({ line: z.string(), who: z.string(), is: z.boolean() }).optional(),
});
const Place = z.object({ channel: Channel, line: z.string() });
const Person = Place.extend({ who: z.string() });
const name = z.string().default('');
const Doing: z.ZodType<PhoneDo> = z.discriminatedUnion('do', [
  z.object({ do: z.literal('write'), name, text: z.string().min(1).max(4_096) }),
  z.object({ do: z.literal('tap'), messageId: z.string(), data: z.string() }),
  z.object({ do: z.literal('send'), name, what: z.enum(['picture', 'voice note', 'place']) }),
  z.object({
    do: z.literal('comment'),
    name,
    postId: z.string(),
    text: z.string().min(1).max(8_000),
    under: z.string().nullable().default(null),
  }),
  z.object({ do: z.literal('edit comment'), commentId: z.string(), text: z.string().min(1).max(8_000) }),
  z.object({ do: z.literal('remove comment'), commentId: z.string() }),
  z.object({ do: z.literal('click ad'), name, adId: z.string() }),
  z.object({
    do: z.literal('lead form'),
    adId: z.string(),
    form: z.string().min(1),
    answers: z.record(z.string(), z.string()),
    readable: z.boolean(),
  }),
  z.object({ do: z.literal('open link'), name, ref: z.string().min(1) }),
  z.object({ do: z.literal('menu'), name, item: z.string().min(1) }),
  z.object({ do: z.literal('block'), is: z.boolean() }),
  z.object({ do: z.literal('answer as the account'), text: z.string().min(1) }),
]);
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
  graph: GraphStandin;
  outside: OutsideStandin;
  crm: CrmStandin;
  model: ModelStandin;
  sheet: SheetStandin;
  mail: MailStandin;
  clock: StandinClock;
}

/**
 * The five channels, a mail server and other systems in their own formats, the switch for how they answer,
 * the test phone's other end, and the crowd.
 */
export function makeStandins(): Standins {
  const clock = new StandinClock();
  const telegram = new TelegramStandin(clock);
  const sms = new SmsStandin(clock);
  const crm = new CrmStandin();
  const model = new ModelStandin();
  const sheet = new SheetStandin();
  const outside = new OutsideStandin({
    'crm.example': crm,
    'sheet.example': sheet,
    'model.example': model,
  });
  const mail = new MailStandin();
  const graph = new GraphStandin(clock);
  const phones: Record<z.infer<typeof Channel>, Phone> = {
    messenger: graph,
    instagram: graph,
    whatsapp: graph,
    telegram: telegramPhone(telegram),
    sms: smsPhone(sms),
  };
  /** One number is one person on all channels that go by numbers, or one of the lines themselves. */
  const isTaken = (number: string): boolean =>
    sms.numbers.has(number) ||
    [...sms.numbers.values()].some(({ threads }) => threads.has(number)) ||
    [...graph.accounts.values()].some(
      ({ name, threads }) => threads.has(number) || name.replace(/[^\d+]/g, '') === number,
    );
  const crowd = new Crowd(telegram, sms);
  const app = express();
  app.disable('x-powered-by');
  app.use(express.json({ limit: '1mb' }));
  app.use(express.text({ type: 'text/csv', limit: '20mb' }));
  app.use(telegram.router());
  app.use(sms.router());
  app.use(graph.router());
  app.use(outside.router());
  app.use(crm.router());
  app.use(sheet.router());

  app.get('/healthz', (_request, response) => void response.json({ status: 'well' }));
  app.get(
    '/control/received',
    (_request, response) =>
      void response.json({
        telegram: telegram.sendings,
        sms: sms.sendings,
        graph: graph.sendings,
        outside: outside.requests,
        mail: mail.mails,
      }),
  );
  app.get('/control/mail', (_request, response) => void response.json({ port: mail.port }));
  app.get(
    '/control/webhooks',
    (_request, response) =>
      void response.json({
        telegram: [...telegram.bots.values()].map((bot) => ({
          bot: bot.id,
          next: bot.nextUpdate,
          ...bot.webhook,
        })),
        sms: [...sms.numbers.values()].map((each) => ({
          number: each.number,
          url: each.webhook,
          ...smsAccess(each.number),
        })),
      }),
  );
  app.post('/control', (request, response) => {
    const order = Control.parse(request.body);
    if (order.clock !== undefined) clock.wind(order.clock);
    if (order.limits !== undefined) telegram.limits = sms.limits = graph.limits = order.limits;
    if (order.keep !== undefined) telegram.keep = sms.keep = graph.keep = order.keep;
    if (order.reports !== undefined) sms.reports = graph.reports = order.reports;
    if (order.crmTells !== undefined)
      crm.tells = order.crmTells === null ? null : { address: order.crmTells };
    if (order.wall) {
      const { channel, account, name, ...wall } = order.wall;
      Object.assign(graph.come(channel, account, name), wall);
    }
    if (order.mood) {
      const { channel, line: named } = order.mood;
      const line =
        channel === 'telegram'
          ? telegram.bot(named)
          : channel === 'sms'
            ? sms.numbers.get(named)
            : graph.accounts.get(named);
      if (!line) return void response.status(404).json({ reason: `there is no line ${named}` });
      line.mood = order.mood.is;
    }
    if (order.outside) outside.answer(order.outside);
    if (order.site) outside.serve(order.site.host, new SiteStandin(order.site.pages));
    if (order.well !== undefined) outside.well(order.well);
    if (order.mailRefuses !== undefined) mail.refuse = order.mailRefuses;
    if (order.block) {
      const chat = telegram.bot(order.block.line)?.chats.get(order.block.who);
      if (!chat) return void response.status(404).json({ reason: 'there is no such chat' });
      chat.blocked = order.block.is;
    }
    response.json({ ok: true });
  });

  /** What is typed to connect an account that nobody has yet. */
  app.post('/phone/line', (request, response) => {
    const { channel, name } = z.object({ channel: Channel, name: z.string() }).parse(request.body);
    const account = newAccountOn(channel, isTaken);
    if ('id' in account)
      graph.come(account.channel, account.id, channel === 'whatsapp' ? inventedNumber(isTaken) : name);
    response.json({ typed: typedFor(account) });
  });
  /** Somebody who has never written to the line, so that nothing they did before decides what they get. */
  app.post('/phone/somebody', (request, response) => {
    const { channel, line } = Place.parse(request.body);
    response.json({ who: phones[channel].somebody(line, isTaken) });
  });
  app.post('/phone/look', (request, response) => {
    const { channel, line, who } = Person.parse(request.body);
    response.json(phones[channel].look(line, who));
  });
  app.post('/phone/act', async (request, response) => {
    const { channel, line, who } = Person.parse(request.body);
    const taken = await phones[channel].act(line, who, Doing.parse(request.body));
    if (!taken) return void response.status(502).json({ reason: 'the webhook did not take it' });
    response.json(phones[channel].look(line, who));
  });
  app.post('/crowd', (request, response) => {
    const order = Order.parse(request.body);
    void crowd.run(order).catch((error: Error) => console.error(error.message));
    response.json({ ok: true });
  });
  app.get('/crowd', (_request, response) => void response.json(crowd.report));
  app.use(
    (error: Error, _request: express.Request, response: express.Response, _next: express.NextFunction) => {
      response
        .status(error instanceof z.ZodError ? 400 : error instanceof CannotBeDone ? 409 : 500)
        .json({ reason: error instanceof z.ZodError ? z.prettifyError(error) : error.message });
    },
  );
  return { app, telegram, sms, graph, outside, crm, model, sheet, mail, clock };
}

/** What outlives a restart of the stand-ins, as plain data. */
export interface StandinsState {
  telegram: ReturnType<TelegramStandin['state']>;
  sms: ReturnType<SmsStandin['state']>;
  graph: ReturnType<GraphStandin['state']>;
}

export const stateOf = ({ telegram, sms, graph }: Standins): StandinsState => ({
  telegram: telegram.state(),
  sms: sms.state(),
  graph: graph.state(),
});

/** Goes on from a state that was written down as JSON. */
export function restore({ telegram, sms, graph }: Standins, json: string): void {
  const state = JSON.parse(json) as { telegram: never; sms: never; graph: never };
  telegram.restore(state.telegram);
  sms.restore(state.sms);
  graph.restore(state.graph);
}
