import { createHmac } from 'node:crypto';
import { parsePhoneNumberFromString } from 'libphonenumber-js';
import { z } from 'zod';
import { NUMBER_KINDS, numberKindOf } from '@dart-loop/core/channels/numberKinds';
import { sameSecret } from '../platform/secrets';
import type { Adapter, Failure, HookReading, OpenLine, Received, Sent } from './adapter';
import { askPlatform, type Answer } from '../platform/ask';
import { commonTrouble, giveUp, holdLine, quoted, slowDown } from './trouble';

const Taken = z.object({ id: z.string() });
const Refused = z.object({ error: z.object({ code: z.string(), message: z.string() }) });

/** How a request is signed: `sha256=` and the HMAC-SHA256 of the raw body in hexadecimal. */
export function smsSignature(secret: string, body: Buffer | string): string {
  return `sha256=${createHmac('sha256', secret).update(body).digest('hex')}`;
}

/** The plain SMS gateway: signed form POST in, JSON POST out. */
export function smsAdapter(base: string | null): Adapter {
  const call = (path: string, body: unknown, key: string, headers: Record<string, string> = {}) =>
    askPlatform(`${base}${path}`, body, { authorization: `Bearer ${key}`, ...headers });
  return {
    kind: 'sms',
    accountKey: 'number',
    rate: { perSecond: NUMBER_KINDS['long code'].perSecond, conversationPauseMs: 0 },
    rateOf: ({ numberKind }) => ({
      perSecond: NUMBER_KINDS[numberKindOf(numberKind)].perSecond,
      conversationPauseMs: 0,
    }),
    dropsRepeats: true,

    verify: (request, line) =>
      sameSecret(request.header('x-signature-256') ?? '', smsSignature(line.secrets.signing!, request.body)),

    read(request): HookReading {
      const body = request.body.toString('utf8');
      const form = new URLSearchParams(body);
      const state = form.get('Status');
      const to = form.get('To');
      if (state !== null && to !== null && form.get('Id'))
        return readReport(state, form.get('Id')!, to, form.get('Error'));
      const [id, from, text] = [form.get('Id'), form.get('From'), form.get('Body')];
      if (!id || !from || text === null)
        return { received: [], aside: [{ reason: 'the form lacks Id, From or Body', body }] };
      const number = parsePhoneNumberFromString(from)?.number;
      if (!number)
        return {
          received: [],
          aside: [{ reason: `From is not a number with its country code: ${from.slice(0, 40)}`, body }],
        };
      const media = Number(form.get('MediaCount') ?? 0) > 0;
      const address = form.get('MediaUrl0');
      const wordless = text.trim() === '' && media;
      const picture: Received['incoming'] = address
        ? { kind: 'file', file: { address, what: 'picture' } }
        : { kind: 'other', what: 'picture' };
      const at = Date.parse(form.get('SentAt') ?? '');
      return {
        received: [
          {
            providerId: id.slice(0, 200),
            place: null,
            at: Number.isNaN(at) ? null : at,
            address: number,
            profile: { firstName: null, lastName: null, handle: null },
            incoming: wordless ? picture : { kind: 'text', text },
            words: wordless ? '(picture)' : text,
          },
        ],
        aside: [],
      };
    },

    async send(outgoing, address, line, idempotencyKey): Promise<Sent> {
      if (outgoing.channel !== 'sms') throw new Error(`a message for ${outgoing.channel} on an SMS line`);
      const answer = await call(
        '/messages',
        { from: line.account.number, to: address, body: outgoing.text },
        line.secrets.key!,
        {
          'idempotency-key': idempotencyKey,
        },
      );
      const id =
        answer.kind === 'answer' && answer.status < 300 ? Taken.safeParse(answer.body).data?.id : undefined;
      return id ? { kind: 'sent', providerId: id } : whatNow(answer);
    },

    typedOf: (account) => ({ number: account.number!, numberKind: numberKindOf(account.numberKind) }),
    accountOf: (typed) => Promise.resolve(numberOf(typed)?.number ?? null),

    async connect(typed, _hookToken, hookAddress) {
      const refuse = (field: string, reason: string, remedy: string) => ({
        ok: false as const,
        field,
        failure: { code: 'shape', reason, remedy },
      });
      const number = numberOf(typed);
      if (!number)
        return typed.numberKind === 'short code'
          ? refuse('number', 'That is not a short code.', 'A short code has 5 or 6 digits, such as 61234.')
          : refuse('number', 'That is not a number with its country code.', 'Write it like +44 7700 900123.');
      const key = (typed.key ?? '').trim();
      if (key.length < 16)
        return refuse(
          'key',
          'The gateway’s key has at least 16 characters.',
          'Copy it whole from the gateway’s page for this number.',
        );
      const signing = (typed.signing ?? '').trim();
      if (signing.length < 16)
        return refuse(
          'signing',
          'The signing secret has at least 16 characters.',
          'Copy it whole from the gateway’s page for webhooks.',
        );
      if (!base)
        return {
          ok: false,
          field: 'number',
          failure: {
            code: 'gateway',
            reason: 'This server has no SMS gateway.',
            remedy: 'Set DARTLOOP_SMS_GATEWAY to its address and start the server again.',
          },
        };
      const line = {
        account: { number: number.number, numberKind: numberKindOf(typed.numberKind) },
        secrets: { key, signing },
      };
      const failure = problemOf(await call('/numbers', { number: number.number, webhook: hookAddress }, key));
      if (failure) return { ok: false, field: failure.code === 'unauthorized' ? 'key' : 'number', failure };
      return { ok: true, name: number.words, ...line };
    },

    async test(line, hookAddress) {
      return problemOf(
        await call('/numbers', { number: line.account.number, webhook: hookAddress }, line.secrets.key!),
      );
    },

    async disconnect(line: OpenLine) {
      await call('/numbers', { number: line.account.number, webhook: null }, line.secrets.key!);
    },
  };
}

/** The number that was typed, as the gateway names it and as it is read; null where it is none. */
function numberOf(typed: Record<string, string>): { number: string; words: string } | null {
  const written = (typed.number ?? '').trim();
  if (typed.numberKind === 'short code')
    return /^\d{5,6}$/.test(written) ? { number: written, words: written } : null;
  const number = parsePhoneNumberFromString(written);
  return number?.isPossible() ? { number: number.number, words: number.formatInternational() } : null;
}

/** A delivery report: what became of a message of ours. */
function readReport(state: string, id: string, to: string, error: string | null): HookReading {
  const status = state === 'delivered' || state === 'failed' ? state : null;
  if (!status) return { received: [], aside: [] };
  const failure =
    status === 'failed'
      ? {
          code: error ?? 'undelivered',
          reason: `The carrier could not deliver it${error ? ` (${error})` : ''}.`,
          remedy: 'Look whether the number is right and takes SMS.',
        }
      : null;
  return {
    received: [],
    aside: [],
    statuses: [{ status, address: to, ids: [id], upTo: null, at: null, failure }],
  };
}

function problemOf(answer: Answer): Failure | null {
  if (answer.kind === 'answer' && answer.status < 300) return null;
  return whatNow(answer).failure;
}

/** What each of the gateway's refusals means for the message and the line. */
function whatNow(answer: Answer): Exclude<Sent, { kind: 'sent' }> {
  const refused = answer.kind === 'answer' ? Refused.safeParse(answer.body).data?.error : undefined;
  const said = refused ? quoted('The gateway', refused.message) : '';
  const trouble = commonTrouble('The SMS gateway', answer, refused !== undefined, said);
  if (trouble || answer.kind === 'silence') return trouble!;
  const code = refused!.code;
  if (answer.status === 401)
    return holdLine({
      code: 'unauthorized',
      reason: `The gateway does not accept the key any more.${said}`,
      remedy: 'Connect the number again with a valid key. Messages wait meanwhile.',
    });
  if (answer.status === 429) {
    const after = Number(answer.headers['retry-after']);
    return slowDown(
      {
        code: '429',
        reason: `The number sends faster than its kind may.${said}`,
        remedy: 'Nothing to do: sending goes on after the pause that the gateway names.',
      },
      after > 0 ? after * 1_000 : null,
    );
  }
  if (answer.status === 403)
    return giveUp({
      code,
      reason: `The number does not take messages from this line.${said}`,
      remedy: 'Only the person can open the conversation again, by writing START.',
    });
  return giveUp({
    code,
    reason: `The gateway refused the message.${said}`,
    remedy: 'Look at the number and at the step that sends it.',
  });
}
