import type { Response } from 'express';
import { RateLimit, type Mood, type Refusals } from './mood';

export interface Button {
  text: string;
  callback_data?: string;
  url?: string;
}
export interface TelegramMessage {
  message_id: number;
  date: number;
  text: string;
  from: 'person' | 'bot';
  keyboard: Button[][];
  /** The address of a picture or file that came with it. */
  media?: string;
}
export interface Chat {
  id: number;
  firstName: string;
  language: string;
  messages: TelegramMessage[];
  blocked: boolean;
  pace: RateLimit;
  delivery: Promise<unknown>;
  /** How often the bot showed that it was typing. */
  actions: number;
}
export interface Bot {
  id: string;
  token: string;
  username: string;
  webhook: { url: string; secret: string } | null;
  /** The next update's number; Telegram counts a bot's updates without gaps. */
  nextUpdate: number;
  chats: Map<string, Chat>;
  pace: RateLimit;
  mood: Mood;
  commands: { command: string; description: string }[];
  /** Updates that are on their way to the webhook. */
  pending: number;
  /** When the webhook last did not take one (s), and why. */
  lastError: { at: number; words: string } | null;
}
/** What a bot was asked to send; for tests. */

export interface TelegramSending {
  bot: string;
  chat: string;
  text: string;
  keyboard: Button[][];
  at: number;
}
export function succeed(response: Response, result: unknown): void {
  response.json({ ok: true, result });
}
export function fail(response: Response, code: number, description: string): void {
  response.status(code).json({ ok: false, error_code: code, description });
}
/** Telegram's own words for each refusal. */
export const refusals = (response: Response): Refusals => ({
  '401': () => fail(response, 401, 'Unauthorized'),
  '403': () => fail(response, 403, 'Forbidden: bot was blocked by the user'),
  '429': () => tooMany(response, 2),
  '500': () => fail(response, 500, 'Internal Server Error'),
});
export function tooMany(response: Response, after: number): void {
  response.status(429).json({
    ok: false,
    error_code: 429,
    description: `Too Many Requests: retry after ${after}`,
    parameters: { retry_after: after },
  });
}

export const newChat = (who: string, name: string): Chat => ({
  id: Number(who),
  firstName: name,
  language: 'en',
  messages: [],
  blocked: false,
  pace: new RateLimit(1),
  delivery: Promise.resolve(),
  actions: 0,
});

/** Why the platform would not take a message, in its own words; null where it would. */
export function unsound(text: string, media: string | undefined, keyboard: Button[][]): string | null {
  if (text.trim() === '' && media === undefined) return 'Bad Request: message text is empty';
  if (text.length > (media === undefined ? 4_096 : 1_024))
    return media === undefined
      ? 'Bad Request: message is too long'
      : 'Bad Request: message caption is too long';
  for (const button of keyboard.flat()) {
    if (!button.text) return 'Bad Request: text buttons are unallowed in the inline keyboard';
    const bytes = Buffer.byteLength(button.callback_data ?? '');
    if (button.url === undefined && (bytes < 1 || bytes > 64)) return 'Bad Request: BUTTON_DATA_INVALID';
  }
  return null;
}

export const newBot = (id: string, token: string): Bot => ({
  id,
  token,
  username: `halfmoon_${id}_bot`,
  webhook: null,
  nextUpdate: 10_000 + (Number(id) % 1_000),
  chats: new Map(),
  commands: [],
  pending: 0,
  lastError: null,
  pace: new RateLimit(30),
  mood: 'well',
});
