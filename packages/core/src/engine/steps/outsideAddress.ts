import ip from 'ipaddr.js';
import { z } from 'zod';

/** Names that lie inside, whatever they lead to. */
const INSIDE_NAMES =
  /(^|\.)(localhost|localhost4|localhost6|ip6-localhost|ip6-loopback|loopback|local|internal|intranet|lan|home|corp|private|localdomain)$/i;

/**
 * Whether an IP address (v4 or v6, without brackets) is one that nothing outside can have: anything but
 * unicast, once every way of writing an IPv4 address within an IPv6 one is undone (mapped and compatible, RFC
 * 4291; 6to4, RFC 3056; Teredo, RFC 4380; NAT64, RFC 6052; ISATAP, RFC 5214). What is no IP address is not
 * inside.
 */
export function isInside(address: string): boolean {
  if (!ip.isValid(address)) return false;
  const parsed = ip.parse(address);
  const embedded = parsed instanceof ip.IPv6 ? embeddedIn(parsed.parts) : [];
  if (embedded.length > 0) return embedded.some((each) => each.range() !== 'unicast');
  return parsed.range() !== 'unicast';
}

/** The IPv4 addresses that stand in the eight parts (16 bits each) of an IPv6 one. */
function embeddedIn(parts: readonly number[]): ip.IPv4[] {
  const v4 = (at: number, flip = 0) => {
    const [high, low] = [parts[at]! ^ flip, parts[at + 1]! ^ flip];
    return new ip.IPv4([high >> 8, high & 255, low >> 8, low & 255]);
  };
  const begins = (...with_: number[]) => with_.every((part, at) => parts[at] === part);
  // Mapped, translated and compatible; `::` and `::1` are read as such and are no unicast either.
  if (begins(0, 0, 0, 0)) return [v4(6)];
  if (parts[0] === 0x2002) return [v4(1)];
  if (begins(0x2001, 0)) return [v4(2), v4(6, 0xffff)];
  if (begins(0x64, 0xff9b)) return [v4(6)];
  if ((parts[4] === 0 || parts[4] === 0x200) && parts[5] === 0x5efe) return [v4(6)];
  return [];
}

/** Why an address that somebody typed is not one to send to: a code for programs, a sentence for people. */
export interface AddressProblem {
  code: 'no address' | 'scheme' | 'secret' | 'inside' | 'not encrypted';
  reason: string;
}

/**
 * Why an address is not one to send to; null when it is. Names are resolved and checked again when sending.
 */
export function whyNotAddress(address: string): AddressProblem | null {
  let url: URL;
  try {
    url = new URL(address);
  } catch {
    return {
      code: 'no address',
      reason: `“${address}” is not an address; write it whole, such as https://example.org/hook`,
    };
  }
  if (url.protocol !== 'https:' && url.protocol !== 'http:')
    return { code: 'scheme', reason: `“${address}” must begin with https://` };
  if (url.username || url.password)
    return {
      code: 'secret',
      reason: `“${address}” holds a user name or password; nothing secret belongs in an address`,
    };
  // A name may end in a dot, and is the same name.
  const host = url.hostname.replace(/^\[|\]$/g, '').replace(/\.+$/, '');
  if (isInside(host) || INSIDE_NAMES.test(host) || (!host.includes('.') && !host.includes(':')))
    return {
      code: 'inside',
      reason: `“${address}” is a private address (${host}); a webhook must be reachable from outside`,
    };
  if (url.protocol === 'http:')
    return { code: 'not encrypted', reason: `“${address}” is not encrypted; write https://` };
  return null;
}

/** An address that may be sent to, as somebody types it. */
export const OutsideAddress = z
  .string()
  .trim()
  .max(2_000)
  .superRefine((address, context) => {
    const problem = whyNotAddress(address);
    if (problem) context.addIssue({ code: 'custom', message: problem.reason });
  });
