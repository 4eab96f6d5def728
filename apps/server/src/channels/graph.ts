import { createHmac } from 'node:crypto';
import type { PlatformNote } from '@dart-loop/contract';
import { z } from 'zod';
import { sameSecret } from '../platform/secrets';
import type { Connecting, Failure, HookRequest, OpenLine, Sent } from './adapter';
import { askPlatform, type Answer, type Method } from '../platform/ask';
import { commonTrouble, giveUp, holdConversation, holdLine, quoted, slowDown } from './trouble';

/**
 * What the three Graph-style channels have in common: signature, subscription check, calls, errors. See
 * channels.md.
 */

const Refusal = z.object({
  error: z.object({
    message: z.string(),
    code: z.number(),
    error_subcode: z.number().optional(),
    type: z.string().optional(),
  }),
});

/** `X-Hub-Signature-256`: the HMAC-SHA256 of the raw body with the app's secret, in hexadecimal. */
export function graphSignature(secret: string, body: Buffer | string): string {
  return `sha256=${createHmac('sha256', secret).update(body).digest('hex')}`;
}

export const verifyGraph = (request: HookRequest, line: OpenLine): boolean =>
  sameSecret(
    request.header('x-hub-signature-256') ?? '',
    graphSignature(line.secrets.appSecret!, request.body),
  );

/** The word that the platform repeats when it asks whether a webhook is ours. */
export const verifyToken = (key: Buffer, hookToken: string): string =>
  createHmac('sha256', key).update(`graph:${hookToken}`).digest('base64url').slice(0, 32);

/** The subscription check: the challenge where mode and word are right, else null. */
export function graphChallenge(query: URLSearchParams, word: string): string | null {
  const right =
    query.get('hub.mode') === 'subscribe' && sameSecret(query.get('hub.verify_token') ?? '', word);
  return right ? query.get('hub.challenge') : null;
}

export type GraphCall = (path: string, token: string, body?: unknown, method?: Method) => Promise<Answer>;

/** Calls below the address of the API, with its version in it; a body makes it a POST. */
export const graphCall =
  (base: string): GraphCall =>
  (path, token, body, method = body === undefined ? 'GET' : 'POST') =>
    askPlatform(`${base}${path}`, body, { authorization: `Bearer ${token}` }, { method });

/** The body of an answer that is one, read by its shape; null when it is a refusal or something else. */
export function readAnswer<T>(answer: Answer, shape: z.ZodType<T>): T | null {
  return answer.kind === 'answer' && answer.status < 300 ? (shape.safeParse(answer.body).data ?? null) : null;
}

const Ok = z.looseObject({});

/** Why a call was refused; null when it was not. */
export function graphProblem(platform: string, answer: Answer): Failure | null {
  return readAnswer(answer, Ok) ? null : graphRefusal(platform, answer).failure;
}

/** What each refusal means for the message and the line. */
export function graphRefusal(platform: string, answer: Answer): Exclude<Sent, { kind: 'sent' }> {
  const error = answer.kind === 'answer' ? Refusal.safeParse(answer.body).data?.error : undefined;
  const said = error ? quoted(platform, error.message) : '';
  const trouble = commonTrouble(platform, answer, error !== undefined, said);
  if (trouble || !error) return trouble!;
  return graphTrouble(platform, error.code, error.error_subcode, said);
}

/** As {@link graphRefusal}, by the code alone: codes come in reports on what was sent as well. */
export function graphTrouble(
  platform: string,
  code: number,
  subcode: number | undefined,
  said: string,
): Exclude<Sent, { kind: 'sent' }> {
  const failure = (reason: string, remedy: string): Failure => ({
    code: String(code),
    reason: `${reason}${said}`,
    remedy,
  });
  switch (code) {
    case 190:
      return holdLine(
        failure(
          'The access token has expired or was revoked.',
          'Make a new token and renew the line with it. Messages wait meanwhile, and nothing is lost.',
        ),
      );
    case 4:
    case 32:
    case 613:
    case 80_006:
    case 130_429:
    case 131_048:
      return slowDown(
        failure(
          `The line sends more than ${platform} allows at the moment.`,
          'Nothing to do: sending goes on by itself, slower.',
        ),
      );
    case 131_056:
      return holdConversation(
        failure(
          'Too many messages to this person in a short time.',
          'Nothing to do: it is tried again with growing pauses.',
        ),
      );
    case 1:
    case 2:
      return holdLine(
        failure(
          `${platform} has a fault of its own.`,
          'Nothing to do: it is tried again with growing pauses.',
        ),
      );
    case 368:
      return holdLine(
        failure(
          `${platform} has blocked the account from sending for a while.`,
          'Look at the account’s quality page on the platform, and settle what it names. Messages wait meanwhile.',
        ),
      );
    case 133_010:
      return holdLine(
        failure(
          'The number is not registered for sending.',
          'Register the number on the platform, then test the line. Messages wait meanwhile.',
        ),
      );
    case 10:
      if (subcode !== 2_018_278)
        return holdLine(
          failure(
            'The account does not let this program read and send its messages.',
            'In the account’s settings allow access to messages, and give the app the permission for messages. Then test the line.',
          ),
        );
      return {
        kind: 'outside window',
        failure: failure(
          'Held back: the time in which the line may write to the person is over.',
          'It goes out when the person writes again.',
        ),
      };
    case 131_047:
      return {
        kind: 'outside window',
        failure: failure(
          'Held back: the time in which the line may write to the person is over.',
          'It goes out when the person writes again, or use an approved template.',
        ),
      };
    case 551:
    case 131_026:
      return giveUp(
        failure(
          'The person cannot get messages from this line at the moment.',
          'Only the person can open the conversation again.',
        ),
      );
    case 132_000:
    case 132_001:
      return giveUp(
        failure(
          'The template does not exist in this language, or its parameters do not fit.',
          'Look at the template’s state on the line, and at the step that uses it.',
        ),
      );
    default:
      if (code >= 200 && code < 300)
        return holdLine(
          failure(
            'The app lacks a permission that is needed.',
            'Give the app the permission for messages on the platform, then test the line.',
          ),
        );
      return giveUp(failure(`${platform} refused the message.`, 'Look at the step that sends it.'));
  }
}

/**
 * Typed secrets that every one of the three lines needs; a sentence for the first that has the wrong shape.
 */
export function readAppSecrets(
  typed: Record<string, string>,
): { token: string; appId: string; appSecret: string } | Extract<Connecting, { ok: false }> {
  const token = (typed.token ?? '').trim();
  const appId = (typed.appId ?? '').trim();
  const appSecret = (typed.appSecret ?? '').trim();
  const refuse = (field: string, reason: string, remedy: string) => ({
    ok: false as const,
    field,
    failure: { code: 'shape', reason, remedy },
  });
  if (!/^[A-Za-z0-9_-]{20,500}$/.test(token))
    return refuse(
      'token',
      'That is not the shape of an access token.',
      'A token is a long row of letters and digits that mostly begins with EAA; copy it whole.',
    );
  if (!/^\d{5,20}$/.test(appId))
    return refuse(
      'appId',
      'The app’s id is a number of 5 to 20 digits.',
      'It stands at the top of the app’s page on the platform.',
    );
  if (!/^[0-9a-f]{32}$/i.test(appSecret))
    return refuse(
      'appSecret',
      'The app’s secret has 32 characters, digits and a to f.',
      'It is on the app’s page under basic settings; show it and copy it whole.',
    );
  return { token, appId, appSecret };
}

const Subscriptions = z.object({
  data: z.array(z.looseObject({ object: z.string(), callback_url: z.string().optional() })),
});

/** Points the app's webhook for an object here. */
export async function subscribeApp(
  call: GraphCall,
  platform: string,
  app: { appId: string; appSecret: string },
  object: string,
  fields: readonly string[],
  hookAddress: string,
  word: string,
): Promise<Failure | null> {
  const answer = await call(`/${app.appId}/subscriptions`, `${app.appId}|${app.appSecret}`, {
    object,
    callback_url: hookAddress,
    verify_token: word,
    fields: fields.join(','),
  });
  return graphProblem(platform, answer);
}

const SubscribedApps = z.object({
  data: z.array(z.looseObject({ id: z.string(), subscribed_fields: z.array(z.string()).optional() })),
});

/** One app has one webhook: any of ours will do, as entries are handed to the line they are for. */
const isOurs = (address: string, hookAddress: string): boolean =>
  address.slice(0, address.lastIndexOf('/')) === hookAddress.slice(0, hookAddress.lastIndexOf('/'));

/**
 * Why events of a page or account do not reach us; null when they do: the page must hand them to our app, and
 * the app those of the object to a webhook of ours.
 */
export async function whyNothingArrives(
  call: GraphCall,
  platform: string,
  { account, secrets }: OpenLine,
  object: string,
  hookAddress: string,
): Promise<Failure | null> {
  const notSubscribed = (reason: string, remedy: string): Failure => ({
    code: 'not subscribed',
    reason: `${platform} hands the account’s events to ${reason}.`,
    remedy,
  });
  const page = await call('/me/subscribed_apps', secrets.token!);
  const apps = readAnswer(page, SubscribedApps);
  if (!apps) return graphRefusal(platform, page).failure;
  if (!apps.data.some((app) => app.id === account.appId))
    return notSubscribed(
      'nobody: its webhook is not subscribed',
      'Renew the line here, which subscribes it again; nothing is lost by that.',
    );
  const app = await call(`/${account.appId}/subscriptions`, `${account.appId}|${secrets.appSecret}`);
  const subscriptions = readAnswer(app, Subscriptions);
  if (!subscriptions) return graphRefusal(platform, app).failure;
  const address = subscriptions.data.find((each) => each.object === object)?.callback_url;
  if (address && isOurs(address, hookAddress)) return null;
  return notSubscribed(
    address ? `another address: ${address.slice(0, 80)}` : 'nobody: its webhook is not subscribed',
    'Renew the line here, which points the webhook to us; nothing is lost by that.',
  );
}

/** What a page or account hands over, by the platform's names: what does not come where it is missing. */
const HANDED_OVER: Record<string, string> = {
  messages: 'messages',
  messaging_postbacks: 'taps on buttons and menus',
  messaging_referrals: 'links and clicks on ads',
  messaging_referral: 'links and clicks on ads',
  message_deliveries: 'whether a message arrived',
  message_reads: 'whether a message was read',
  messaging_seen: 'whether a message was read',
  message_echoes: 'what the team writes elsewhere',
  feed: 'comments',
  comments: 'comments',
  leadgen: 'lead forms',
};

/** Which of the events that a line needs its page does not hand over. Null where it could not be asked. */
export async function notHandedOver(
  call: GraphCall,
  { account, secrets }: OpenLine,
  fields: readonly string[],
): Promise<PlatformNote[] | null> {
  const apps = readAnswer(await call('/me/subscribed_apps', secrets.token!), SubscribedApps);
  const handed = apps?.data.find((app) => app.id === account.appId)?.subscribed_fields;
  // An app that is not there at all is told by the test.
  if (!handed) return apps ? [] : null;
  const missing = [
    ...new Set(fields.filter((field) => !handed.includes(field)).map((each) => HANDED_OVER[each] ?? each)),
  ];
  if (missing.length === 0) return [];
  return [
    {
      code: 'not handed over',
      tone: 'warning',
      words: `The page does not hand over ${missing.join(', ')}: loops are told nothing of these. Renew the line, which asks for all of them again.`,
      at: null,
    },
  ];
}
