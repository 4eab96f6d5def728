import { z } from 'zod';

/** Names and networks that lie inside: RFC 1918, RFC 6598, loopback, link-local, multicast, and their IPv6 likes. */
const INSIDE_NAMES = /(^|\.)(localhost|local|internal|intranet|lan|home|corp|localdomain)$/i;

/** Whether an IP address (v4 or v6, without brackets) is one that nothing outside can have. */
export function isInside(ip: string): boolean {
  const mapped = /^::ffff:(\d+\.\d+\.\d+\.\d+)$/i.exec(ip)?.[1];
  const v4 = /^(\d{1,3})\.(\d{1,3})\.(\d{1,3})\.(\d{1,3})$/.exec(mapped ?? ip);
  if (v4) {
    const [a, b] = [Number(v4[1]), Number(v4[2])];
    return (
      a === 0 ||
      a === 10 ||
      a === 127 ||
      (a === 100 && b >= 64 && b <= 127) ||
      (a === 169 && b === 254) ||
      (a === 172 && b >= 16 && b <= 31) ||
      (a === 192 && b === 168) ||
      (a === 192 && b === 0 && v4[3] === '0') ||
      (a === 198 && (b === 18 || b === 19)) ||
      a >= 224
    );
  }
  const v6 = ip.toLowerCase();
  return v6 === '::' || v6 === '::1' || /^::ffff:/.test(v6) || /^f[cd]/.test(v6) || /^fe[89ab]/.test(v6) || /^ff/.test(v6);
}

/** Why an address that somebody typed is not one to send to; null when it is. Names are resolved and checked again when sending. */
export function whyNotAddress(address: string): string | null {
  let url: URL;
  try {
    url = new URL(address);
  } catch {
    return `“${address}” is not an address; write it whole, such as https://example.org/hook`;
  }
  if (url.protocol !== 'https:' && url.protocol !== 'http:') return `“${address}” must begin with https://`;
  if (url.username || url.password) return `“${address}” holds a user name or password; nothing secret belongs in an address`;
  const host = url.hostname.replace(/^\[|\]$/g, '');
  if (isInside(host) || INSIDE_NAMES.test(host) || (!host.includes('.') && !host.includes(':')))
    return `“${address}” is a private address (${host}); a webhook must be reachable from outside`;
  if (url.protocol === 'http:') return `“${address}” is not encrypted; write https://`;
  return null;
}

/** An address that may be sent to, as somebody types it. */
export const OutsideAddress = z
  .string()
  .trim()
  .max(2_000)
  .superRefine((address, context) => {
    const reason = whyNotAddress(address);
    if (reason) context.addIssue({ code: 'custom', message: reason });
  });
