import { createHmac } from 'node:crypto';
import { z } from 'zod';
import { readChoiceRef } from '@dart-loop/core';
import { sameSecret } from '../platform/secrets';
import type { Adapter, Failure, HookReading, Received, Sent } from './adapter';
import { askPlatform, type Answer } from '../platform/ask';
import { commonTrouble, giveUp, holdLine, quoted, slowDown } from './trouble';
import { Reply, Update, User, WebhookInfo, readMessage, webhookNotes } from './telegramReading';

/** `digits:35 characters`, as BotFather gives it. */
export const TELEGRAM_TOKEN = /^\d{6,12}:[A-Za-z0-9_-]{35}$/;
const Commands = z.object({ result: z.array(z.object({ command: z.string(), description: z.string() })) });

/** How each kind of media is sent: method and the name of its parameter. */
const SEND = {
  image: ['sendPhoto', 'photo'],
  file: ['sendDocument', 'document'],
  video: ['sendVideo', 'video'],
  audio: ['sendAudio', 'audio'],
} as const;

/** The Telegram Bot API. `base` is its address; a stand-in differs only in that. */
export function telegramAdapter(base: string, hookSecretKey: Buffer): Adapter {
  const call = (token: string, method: string, body: unknown) =>
    askPlatform(`${base}/bot${token}/${method}`, body);
  /** The secret that Telegram repeats in every POST: ours alone, 1 to 256 of A-Z a-z 0-9 _ -. */
  const hookSecret = (hookToken: string) =>
    createHmac('sha256', hookSecretKey).update(`telegram:${hookToken}`).digest('base64url');
  const setWebhook = (token: string, hookToken: string, hookAddress: string) =>
    call(token, 'setWebhook', {
      url: hookAddress,
      secret_token: hookSecret(hookToken),
      allowed_updates: ['message', 'callback_query', 'my_chat_member'],
    });

  return {
    kind: 'telegram',
    accountKey: 'botId',
    rate: { perSecond: 30, conversationPauseMs: 1_000 },
    dropsRepeats: false,

    verify: (request, line) =>
      sameSecret(request.header('x-telegram-bot-api-secret-token') ?? '', hookSecret(line.hookToken)),

    read(request, line): HookReading {
      const body = request.body.toString('utf8');
      let json: unknown;
      try {
        json = JSON.parse(body);
      } catch {
        return { received: [], aside: [{ reason: 'the body is not JSON', body }] };
      }
      const parsed = Update.safeParse(json);
      if (!parsed.success)
        return {
          received: [],
          aside: [{ reason: 'the update does not have the shape that Telegram describes', body }],
        };
      const update = parsed.data;
      const base = { providerId: String(update.update_id), place: update.update_id };
      const tap = update.callback_query;
      if (tap) {
        const ref = readChoiceRef(tap.data ?? '');
        const label = labelOf(json, tap.data) ?? 'a button';
        const afterwards = [
          async () =>
            void (await call(line.secrets.token!, 'answerCallbackQuery', { callback_query_id: tap.id })),
        ];
        const from = profile(tap.from);
        const incoming: Received['incoming'] = ref
          ? { kind: 'tap', ...ref, label }
          : { kind: 'other', what: 'button of another program' };
        return {
          received: [
            {
              ...base,
              at: null,
              address: String(tap.message?.chat?.id ?? tap.from.id),
              profile: from,
              incoming,
              words: label,
            },
          ],
          aside: [],
          afterwards,
        };
      }
      const standing = update.my_chat_member;
      if (standing?.chat.type === 'private') {
        const blocked = standing.new_chat_member.status === 'kicked';
        const words = blocked ? '(has blocked the bot)' : '(has unblocked the bot)';
        const { chat, from } = standing;
        return {
          received: [
            {
              ...base,
              at: standing.date * 1_000,
              address: String(chat.id),
              profile: profile(from),
              incoming: { kind: 'blocked', on: blocked },
              words,
            },
          ],
          aside: [],
        };
      }
      const message = update.message;
      if (message?.chat.type === 'private') {
        const { incoming, words } = readMessage(message, (json as { message: object }).message);
        return {
          received: [
            {
              ...base,
              at: message.date * 1_000,
              address: String(message.chat.id),
              profile: profile(message.from),
              incoming,
              words,
            },
          ],
          aside: [],
        };
      }
      return {
        received: [],
        aside: [
          {
            reason: message
              ? 'it was written in a group, and a loop speaks to one person'
              : 'it is an update of a kind that is not read yet',
            body,
          },
        ],
      };
    },

    async send(outgoing, address, line): Promise<Sent> {
      if (outgoing.channel !== 'telegram')
        throw new Error(`a message for ${outgoing.channel} on a Telegram line`);
      const { media, text } = outgoing;
      const [method, parameter] = media ? SEND[media.what] : (['sendMessage', 'text'] as const);
      const answer = await call(line.secrets.token!, method, {
        chat_id: Number(address),
        [parameter]: media ? media.address : text,
        ...(media && text && { caption: text }),
        ...(outgoing.taps.length > 0 && {
          reply_markup: {
            inline_keyboard: outgoing.taps.map((tap) => [
              'url' in tap ? { text: tap.label, url: tap.url } : { text: tap.label, callback_data: tap.ref },
            ]),
          },
        }),
      });
      if (answer.kind === 'answer') {
        const reply = Reply.safeParse(answer.body).data;
        const id = (reply?.result as { message_id?: number } | undefined)?.message_id;
        if (reply?.ok && id !== undefined) return { kind: 'sent', providerId: String(id) };
      }
      return whatNow(answer);
    },

    async typing(address, line) {
      await call(line.secrets.token!, 'sendChatAction', { chat_id: Number(address), action: 'typing' });
    },

    async putMenus(menus, line) {
      const commands = (menus.commands ?? []).map(({ item, label }) => ({
        command: item,
        description: label,
      }));
      return problemOf(await call(line.secrets.token!, 'setMyCommands', { commands }));
    },
    async lookAtMenus(line) {
      const answer = await call(line.secrets.token!, 'getMyCommands', {});
      const failure = problemOf(answer);
      const read = failure ? null : Commands.safeParse(answer.kind === 'answer' ? answer.body : null).data;
      if (!read) return { failure: failure ?? whatNow(answer).failure };
      return {
        menus: {
          commands: read.result.map(({ command, description }) => ({ item: command, label: description })),
        },
      };
    },

    typedOf: () => ({}),
    accountOf: (typed) => Promise.resolve((typed.token ?? '').trim().split(':')[0] || null),

    async connect(typed, hookToken, hookAddress) {
      const token = (typed.token ?? '').trim();
      if (!TELEGRAM_TOKEN.test(token))
        return {
          ok: false,
          field: 'token',
          failure: {
            code: 'shape',
            reason: 'That is not the shape of a bot token.',
            remedy:
              'A token is digits, a colon and 35 characters, such as 7001234567:AAE…; copy it whole from the message in which you were given it.',
          },
        };
      const me = await call(token, 'getMe', {});
      const failure = problemOf(me);
      if (failure) return { ok: false, field: 'token', failure };
      const bot = z
        .object({ result: z.object({ id: z.number(), username: z.string(), first_name: z.string() }) })
        .safeParse((me as { body: unknown }).body).data?.result;
      if (!bot)
        return {
          ok: false,
          field: 'token',
          failure: {
            code: 'answer',
            reason: 'Telegram answered, but not with a bot.',
            remedy: 'Try again in a minute.',
          },
        };
      const hook = problemOf(await setWebhook(token, hookToken, hookAddress));
      if (hook) return { ok: false, field: 'token', failure: hook };
      return {
        ok: true,
        name: `@${bot.username}`,
        account: { username: bot.username, botId: String(bot.id) },
        secrets: { token },
      };
    },

    async notes(line) {
      const answer = await call(line.secrets.token!, 'getWebhookInfo', {});
      const info = answer.kind === 'answer' ? WebhookInfo.safeParse(answer.body).data : undefined;
      return info?.ok ? webhookNotes(info.result) : null;
    },

    async test(line, hookAddress) {
      const failure = problemOf(await call(line.secrets.token!, 'getMe', {}));
      if (failure) return failure;
      return problemOf(await setWebhook(line.secrets.token!, line.hookToken, hookAddress));
    },

    async disconnect(line) {
      await call(line.secrets.token!, 'deleteWebhook', {});
    },
  };
}

function profile(from: z.infer<typeof User> | undefined): Received['profile'] {
  return {
    firstName: from?.first_name || null,
    lastName: from?.last_name ?? null,
    handle: from?.username ? `@${from.username}` : null,
    language: from?.language_code?.slice(0, 2).toLowerCase() ?? null,
  };
}

/** The tapped button's label stands only in the keyboard of the message it was under. */
function labelOf(json: unknown, data: string | undefined): string | null {
  const Keyboard = z.object({
    callback_query: z.object({
      message: z.object({
        reply_markup: z.object({
          inline_keyboard: z.array(
            z.array(z.object({ text: z.string(), callback_data: z.string().optional() })),
          ),
        }),
      }),
    }),
  });
  const rows = Keyboard.safeParse(json).data?.callback_query.message.reply_markup.inline_keyboard ?? [];
  return rows.flat().find((button) => button.callback_data === data)?.text ?? null;
}

function problemOf(answer: Answer): Failure | null {
  return answer.kind === 'answer' && Reply.safeParse(answer.body).data?.ok ? null : whatNow(answer).failure;
}

/** What each of Telegram's refusals means for the message and the line. */
function whatNow(answer: Answer): Exclude<Sent, { kind: 'sent' }> {
  const reply = answer.kind === 'answer' ? Reply.safeParse(answer.body).data : undefined;
  const said = reply?.description ? quoted('Telegram', reply.description) : '';
  const trouble = commonTrouble('Telegram', answer, reply !== undefined, said);
  if (trouble || answer.kind === 'silence') return trouble!;
  const code = reply!.error_code ?? answer.status;
  if (code === 401 || code === 404)
    return holdLine({
      code: String(code),
      reason: `The bot’s token is not valid any more.${said}`,
      remedy: 'Make a new token for the bot and connect the line again with it. Messages wait meanwhile.',
    });
  if (code === 429) {
    const after = reply!.parameters?.retry_after;
    return slowDown(
      {
        code: '429',
        reason: `The line sends faster than Telegram allows.${said}`,
        remedy: 'Nothing to do: sending goes on after the pause that Telegram names.',
      },
      after === undefined ? null : after * 1_000,
    );
  }
  if (code === 403)
    return giveUp({
      code: '403',
      reason: `The person has blocked the bot, or has never written to it.${said}`,
      remedy: 'Only the person can open the conversation again.',
    });
  return giveUp({
    code: String(code),
    reason: `Telegram refused the message.${said}`,
    remedy: 'Look at the step that sends it.',
  });
}
