import type { Response } from 'express';
import { fail, succeed, type Bot } from './telegramWorld';

/** What a bot asks of itself: who it is, where updates go, its commands. False: it asks something else. */
export function ofBot(bot: Bot, method: string, body: Record<string, unknown>, response: Response): boolean {
  const done = (answer: unknown) => (succeed(response, answer), true);
  const refuse = (words: string) => (fail(response, 400, words), true);
  switch (method) {
    case 'getMe':
      return done({
        id: Number(bot.id),
        is_bot: true,
        first_name: bot.username.replaceAll('_', ' '),
        username: bot.username,
      });
    case 'setWebhook': {
      if (typeof body.url !== 'string' || !/^https?:\/\//.test(body.url))
        return refuse('Bad Request: bad webhook: URL host is empty');
      if (body.secret_token !== undefined && !/^[A-Za-z0-9_-]{1,256}$/.test(String(body.secret_token)))
        return refuse('Bad Request: secret token contains unallowed characters');
      bot.webhook = { url: body.url, secret: String(body.secret_token ?? '') };
      return done(true);
    }
    case 'getWebhookInfo':
      return done({
        url: bot.webhook?.url ?? '',
        has_custom_certificate: false,
        pending_update_count: bot.pending,
        ...(bot.lastError && {
          last_error_date: bot.lastError.at,
          last_error_message: bot.lastError.words,
        }),
      });
    case 'deleteWebhook':
      bot.webhook = null;
      return done(true);
    case 'setMyCommands': {
      const commands = (Array.isArray(body.commands) ? body.commands : []) as {
        command: string;
        description: string;
      }[];
      if (commands.length > 100 || commands.some(({ command }) => !/^[a-z0-9_]{1,32}$/.test(command)))
        return refuse('Bad Request: BOT_COMMAND_INVALID');
      if (commands.some(({ description }) => !description || description.length > 256))
        return refuse('Bad Request: BOT_COMMAND_DESCRIPTION_INVALID');
      bot.commands = commands.map(({ command, description }) => ({ command, description }));
      return done(true);
    }
    case 'getMyCommands':
      return done(bot.commands);
    default:
      return false;
  }
}
