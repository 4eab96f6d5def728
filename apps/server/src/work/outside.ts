import { createHmac } from 'node:crypto';
import { lookup } from 'node:dns';
import type { LookupFunction } from 'node:net';
import { Webhook } from 'standardwebhooks';
import { isInside, whyNotAddress } from '@dart-loop/core';
import { NotOutside, askPlatform, type Answer } from '../channels/ask';

/** Looks a name up and refuses addresses that lie inside; the connection is made to the very address that was looked at. */
const lookUpOutside: LookupFunction = (name, options, done) => {
  lookup(name, { ...options, all: true }, (error, addresses) => {
    if (error) return done(error, '', 0);
    const inside = addresses.find(({ address }) => isInside(address));
    if (inside) return done(new NotOutside(`its name leads to the private address ${inside.address}`), '', 0);
    const first = addresses[0];
    if (!first) return done(new Error('no address'), '', 0);
    if ((options as { all?: boolean }).all) return (done as unknown as (error: null, all: typeof addresses) => void)(null, addresses);
    done(null, first.address, first.family);
  });
};

/** A client's secret for what we sign, in the form of Standard Webhooks: made from our key, so that it is nowhere stored. */
export function signingSecret(key: Buffer, clientId: number): string {
  return `whsec_${createHmac('sha256', key).update(`send out:${clientId}`).digest('base64')}`;
}

/**
 * The one guard for calls to addresses that people type: https, no private address before or after the name is looked up,
 * no redirect followed, 15 s and 1 MB at the most. Hosts that end in ".example" belong to the stand-ins, where there are any.
 */
export async function sendOutside(
  options: { standins: string | null; secret: string; id: string; now: number; patienceMs?: number },
  address: string,
  body: unknown,
): Promise<Answer> {
  const reason = whyNotAddress(address);
  if (reason) return { kind: 'silence', reason };
  const payload = JSON.stringify(body);
  const headers = {
    'webhook-id': options.id,
    'webhook-timestamp': String(Math.floor(options.now / 1_000)),
    'webhook-signature': new Webhook(options.secret).sign(options.id, new Date(options.now), payload),
    'user-agent': 'Dart Loop',
  };
  const url = new URL(address);
  const { patienceMs } = options;
  if (options.standins && url.hostname.endsWith('.example'))
    return askPlatform(`${options.standins}/outside/${url.hostname}${url.pathname}${url.search}`, body, headers, { patienceMs });
  return askPlatform(address, body, headers, { patienceMs, lookup: lookUpOutside });
}
