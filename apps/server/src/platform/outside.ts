import { createHmac } from 'node:crypto';
import { lookup } from 'node:dns';
import type { LookupFunction } from 'node:net';
import { Webhook } from 'standardwebhooks';
import { isInside, whyNotAddress } from '@dart-loop/core';
import { NotOutside, askPlatform, type Answer, type Method } from './ask';
import { toJson } from './db/json';

/**
 * Looks a name up and refuses addresses that lie inside; the connection is made to the very address that was
 * looked at.
 */
const lookUpOutside =
  (lookUp = lookup): LookupFunction =>
  (name, options, done) => {
    lookUp(name, { ...options, all: true }, (error, addresses) => {
      if (error) return done(error, '', 0);
      const inside = addresses.find(({ address }) => isInside(address));
      if (inside)
        return done(new NotOutside(`its name leads to the private address ${inside.address}`), '', 0);
      const first = addresses[0];
      if (!first) return done(new Error('no address'), '', 0);
      if ((options as { all?: boolean }).all)
        return (done as unknown as (error: null, all: typeof addresses) => void)(null, addresses);
      done(null, first.address, first.family);
    });
  };

/**
 * A client's secret for what we sign, in the form of Standard Webhooks: made from our key, so that it is
 * nowhere stored.
 */
export function signingSecret(key: Buffer, clientId: number): string {
  return `whsec_${createHmac('sha256', key).update(`send out:${clientId}`).digest('base64')}`;
}

/**
 * The one guard for calls to addresses that people type: https, no private address before or after the name
 * is looked up, no redirect followed, 15 s and 1 MB at the most. Hosts that end in ".example" belong to the
 * stand-ins, where there are any.
 */
export async function askOutside(
  { standins, patienceMs, lookup }: Outside,
  { method, address, headers, body, bytes }: OutsideCall,
): Promise<Answer> {
  const problem = whyNotAddress(address);
  if (problem) return { kind: 'silence', code: 'forbidden', reason: problem.reason };
  const url = new URL(address);
  const all = { 'user-agent': 'Dart Loop', ...headers };
  if (standins && url.hostname.endsWith('.example'))
    return askPlatform(`${standins}/outside/${url.hostname}${url.pathname}${url.search}`, body, all, {
      ...{ patienceMs, method, bytes },
    });
  return askPlatform(address, body, all, {
    ...{ patienceMs, method, bytes },
    lookup: lookUpOutside(lookup),
  });
}

export interface Outside {
  /** Where the stand-ins are, if there are any. */
  standins: string | null;
  patienceMs?: number;
  /** Looks names up; the system's own way unless a test brings another. */
  lookup?: typeof lookup;
}
export interface OutsideCall {
  method: Method;
  address: string;
  headers: Record<string, string>;
  body: unknown;
  /** The answer is given as it came, at most so many bytes of it. */
  bytes?: number;
}

/**
 * The headers of Standard Webhooks, by which the other side knows that a body comes from this client, and
 * knows it again.
 */
export function signature(secret: string, id: string, now: number, body: unknown): Record<string, string> {
  return {
    'webhook-id': id,
    'webhook-timestamp': String(Math.floor(now / 1_000)),
    'webhook-signature': new Webhook(secret).sign(id, new Date(now), toJson(body)),
  };
}

/** A signed webhook. */
export const sendOutside = (
  options: Outside & { secret: string; id: string; now: number },
  address: string,
  body: unknown,
): Promise<Answer> =>
  askOutside(options, {
    method: 'POST',
    address,
    headers: signature(options.secret, options.id, options.now, body),
    body,
  });

/** Whether a refusal of this status may pass by itself. */
export const mayPass = (status: number): boolean => status >= 500 || [408, 409, 425, 429].includes(status);

/** What a status that is no success says, in words. */
export const refusalWords = (status: number): string =>
  status >= 300 && status < 400
    ? `it leads on to another address (${status}), which is not followed`
    : `it was answered ${status}`;
