import { Router, type Response } from 'express';
import { deliver } from './deliver';
import { RateLimit, inMood, type StandinClock } from './mood';
import { ofBot } from './telegramBot';
import {
  Bot,
  TelegramSending,
  fail,
  refusals,
  succeed,
  TelegramMessage,
  Chat,
  Button,
  tooMany,
  newBot,
  newChat,
  unsound,
} from './telegramWorld';

const TOKEN = /^\d{6,12}:[A-Za-z0-9_-]{35}$/;

/**
 * A stand-in for the Telegram Bot API: its paths, its limits, its error codes, its message ids. Any
 * well-shaped token is a bot.
 */
export class TelegramStandin {
  readonly bots = new Map<string, Bot>();
  readonly sendings: TelegramSending[] = [];
  limits = true;
  /** Told of every message that the bots were asked to send. */
  onSending: ((chat: string) => void) | null = null;
  /** In the quick mode of benchmarks nothing is kept. */
  keep = true;

  /** Taps that a bot may still answer. */
  readonly #queries = new Set<string>();

  constructor(private readonly clock: StandinClock) {}

  bot(id: string): Bot | undefined {
    return this.bots.get(id);
  }

  router(): Router {
    const router = Router();
    router.post('/bot:token/:method', async (request, response) => {
      const { token, method } = request.params;
      if (!TOKEN.test(token)) return void fail(response, 404, 'Not Found');
      const bot = this.#come(token);
      if (bot.token !== token) return void fail(response, 401, 'Unauthorized');
      if (await inMood(bot.mood, response, refusals(response))) return;
      const body = (request.body ?? {}) as Record<string, unknown>;
      if (ofBot(bot, method, body, response)) return;
      switch (method) {
        case 'answerCallbackQuery':
          return void (this.#queries.delete(String(body.callback_query_id))
            ? succeed(response, true)
            : fail(
                response,
                400,
                'Bad Request: query is too old and response timeout expired or query ID is invalid',
              ));
        case 'sendMessage':
          return void this.#send(bot, body, response, typeof body.text === 'string' ? body.text : '');
        case 'sendPhoto':
        case 'sendDocument':
        case 'sendVideo':
        case 'sendAudio': {
          const address = body[method.slice(4).toLowerCase()];
          if (typeof address !== 'string' || !/^https?:\/\//.test(address))
            return void fail(response, 400, 'Bad Request: wrong file identifier/HTTP URL specified');
          return void this.#send(
            bot,
            body,
            response,
            typeof body.caption === 'string' ? body.caption : '',
            address,
          );
        }
        case 'sendChatAction': {
          const chat = bot.chats.get(String(body.chat_id));
          if (!chat) return void fail(response, 400, 'Bad Request: chat not found');
          chat.actions++;
          return void succeed(response, true);
        }
        default:
          return void fail(response, 404, 'Not Found');
      }
    });
    return router;
  }

  /** The person writes to the bot; resolves once the update was delivered. */
  async write(botId: string, who: string, name: string, text: string): Promise<boolean> {
    const bot = this.#known(botId);
    const chat = this.#chat(bot, who, name);
    const message = {
      message_id: chat.messages.length + 1,
      date: Math.floor(this.clock.now() / 1_000),
      text,
      from: 'person' as const,
      keyboard: [],
    };
    chat.messages.push(message);
    return this.#deliver(bot, chat, {
      message: {
        message_id: message.message_id,
        date: message.date,
        chat: { id: chat.id, type: 'private', first_name: chat.firstName },
        from: this.#user(chat),
        text,
      },
    });
  }

  /** The person sends a picture, a voice note or where they are. */
  async send(
    botId: string,
    who: string,
    name: string,
    what: 'picture' | 'voice note' | 'place',
  ): Promise<boolean> {
    const bot = this.#known(botId);
    const chat = this.#chat(bot, who, name);
    const date = Math.floor(this.clock.now() / 1_000);
    const message_id = chat.messages.length + 1;
    chat.messages.push({
      message_id,
      date,
      text: what === 'place' ? '51.5007, -0.1246' : '',
      from: 'person',
      keyboard: [],
      ...(what !== 'place' && { media: what }),
    });
    const content =
      what === 'place'
        ? { location: { latitude: 51.5007, longitude: -0.1246 } }
        : what === 'picture'
          ? { photo: [{ file_id: `small-${message_id}` }, { file_id: `large-${message_id}` }] }
          : { voice: { file_id: `voice-${message_id}` } };
    return this.#deliver(bot, chat, {
      message: {
        message_id,
        date,
        chat: { id: chat.id, type: 'private' },
        from: this.#user(chat),
        ...content,
      },
    });
  }

  /** The person blocks the bot, or lets it write again. */
  async block(botId: string, who: string, is: boolean): Promise<boolean> {
    const bot = this.#known(botId);
    const chat = this.#chat(bot, who, '');
    chat.blocked = is;
    return this.#deliver(bot, chat, {
      my_chat_member: {
        chat: { id: chat.id, type: 'private' },
        from: this.#user(chat),
        date: Math.floor(this.clock.now() / 1_000),
        old_chat_member: { status: is ? 'member' : 'kicked' },
        new_chat_member: { status: is ? 'kicked' : 'member' },
      },
    });
  }

  /** The person's telephone is set to another language. */
  speak(botId: string, who: string, language: string): void {
    this.#chat(this.#known(botId), who, '').language = language;
  }

  /** The person taps a button under one of the bot's messages. */
  async tap(botId: string, who: string, messageId: number, data: string): Promise<boolean> {
    const bot = this.#known(botId);
    const chat = this.#chat(bot, who, '');
    const message = chat.messages.find((each) => each.message_id === messageId && each.from === 'bot');
    if (!message) throw new Error(`there is no message ${messageId} of the bot in this chat`);
    const id = `${bot.nextUpdate}${chat.id}`;
    this.#queries.add(id);
    return this.#deliver(bot, chat, {
      callback_query: {
        id,
        from: this.#user(chat),
        chat_instance: String(chat.id),
        data,
        message: {
          message_id: messageId,
          date: message.date,
          chat: { id: chat.id, type: 'private' },
          text: message.text,
          reply_markup: { inline_keyboard: message.keyboard },
        },
      },
    });
  }

  /** Takes an update's number and gives its delivery, for tests that deliver by themselves. */
  update(bot: Bot, content: object): { url: string; headers: Record<string, string>; body: string } {
    if (!bot.webhook) throw new Error('the bot has no webhook');
    return {
      url: bot.webhook.url,
      headers: { 'content-type': 'application/json', 'x-telegram-bot-api-secret-token': bot.webhook.secret },
      body: JSON.stringify({ update_id: bot.nextUpdate++, ...content }),
    };
  }

  /** A chat with somebody comes into being, as when they first write. */
  meet(bot: Bot, who: number): void {
    this.#chat(bot, String(who), '');
  }

  /** The id of somebody whom the bot has never met. */
  somebody(botId: string): string {
    for (;;) {
      const who = `6${String(Math.floor(Math.random() * 1e8)).padStart(8, '0')}`;
      if (!this.bot(botId)?.chats.has(who)) return who;
    }
  }

  look(botId: string, who: string): TelegramMessage[] {
    return this.bot(botId)?.chats.get(who)?.messages ?? [];
  }

  /** Everything that outlives a restart. */
  state(): object[] {
    return [...this.bots.values()].map(({ chats, pace: _pace, mood: _mood, ...bot }) => ({
      ...bot,
      chats: [...chats].map(([who, chat]) => ({
        who,
        firstName: chat.firstName,
        messages: chat.messages,
        blocked: chat.blocked,
      })),
    }));
  }

  restore(
    state: {
      id: string;
      token: string;
      username: string;
      webhook: Bot['webhook'];
      nextUpdate: number;
      commands?: Bot['commands'];
      chats: { who: string; firstName: string; messages: TelegramMessage[]; blocked: boolean }[];
    }[],
  ): void {
    for (const { chats, ...bot } of state) {
      const restored: Bot = {
        commands: [],
        pending: 0,
        lastError: null,
        ...bot,
        chats: new Map(),
        pace: new RateLimit(30),
        mood: 'well',
      };
      this.bots.set(bot.id, restored);
      for (const { who, firstName, messages, blocked } of chats)
        Object.assign(this.#chat(restored, who, firstName), { messages, blocked });
    }
  }

  #come(token: string): Bot {
    const id = token.split(':')[0]!;
    let bot = this.bots.get(id);
    if (!bot) {
      bot = newBot(id, token);
      this.bots.set(id, bot);
    }
    return bot;
  }

  #known(botId: string): Bot {
    const bot = this.bots.get(botId);
    if (!bot?.webhook) throw new Error('this bot has no webhook: connect the line first');
    return bot;
  }

  #chat(bot: Bot, who: string, name: string): Chat {
    let chat = bot.chats.get(who);
    if (!chat) bot.chats.set(who, (chat = newChat(who, name)));
    if (name) chat.firstName = name;
    return chat;
  }

  #user(chat: Chat) {
    return { id: chat.id, is_bot: false, first_name: chat.firstName, language_code: chat.language };
  }

  /** Updates of one chat are delivered one after the other. */
  #deliver(bot: Bot, chat: Chat, content: object): Promise<boolean> {
    const { url, headers, body } = this.update(bot, content);
    bot.pending++;
    const delivery = chat.delivery.then(() =>
      deliver(url, headers, body, (status) => {
        bot.lastError = {
          at: Math.floor(this.clock.now() / 1_000),
          words: status === 0 ? 'Connection refused' : `Wrong response from the webhook: ${status}`,
        };
      }).finally(() => bot.pending--),
    );
    chat.delivery = delivery;
    return delivery;
  }

  #send(bot: Bot, body: Record<string, unknown>, response: Response, text: string, media?: string): void {
    const chat = bot.chats.get(String(body.chat_id));
    if (!chat) return fail(response, 403, "Forbidden: bot can't initiate conversation with a user");
    if (chat.blocked) return fail(response, 403, 'Forbidden: bot was blocked by the user');
    const keyboard =
      (body.reply_markup as { inline_keyboard?: Button[][] } | undefined)?.inline_keyboard ?? [];
    const wrong = unsound(text, media, keyboard);
    if (wrong) return fail(response, 400, wrong);
    const now = Date.now();
    if (this.limits && (!chat.pace.take(now) || !bot.pace.take(now))) {
      return tooMany(response, 1);
    }
    const message: TelegramMessage = {
      message_id: chat.messages.length + 1,
      date: Math.floor(this.clock.now() / 1_000),
      text,
      from: 'bot',
      keyboard,
      ...(media !== undefined && { media }),
    };
    if (this.keep) {
      chat.messages.push(message);
      this.sendings.push({ bot: bot.id, chat: String(chat.id), text, keyboard, at: now });
    }
    this.onSending?.(String(chat.id));
    succeed(response, {
      message_id: message.message_id,
      date: message.date,
      chat: { id: chat.id, type: 'private' },
      text,
    });
  }
}
