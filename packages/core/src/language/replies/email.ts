import isEmail from 'validator/lib/isEmail.js';
import { slips } from '../fold';
import { asRead, unread, type ReplyReader } from './reading';

const LOOKS_LIKE = /[^\s<>()[\],;:"'`]+@[^\s<>()[\],;:"'`]+/gu;

/** Mail hosts that many people have; an address one slip beside one of them is asked about. */
const COMMON_HOSTS = [
  'gmail.com',
  'googlemail.com',
  'hotmail.com',
  'hotmail.co.uk',
  'outlook.com',
  'live.com',
  'msn.com',
  'yahoo.com',
  'yahoo.co.uk',
  'yahoo.fr',
  'yahoo.es',
  'icloud.com',
  'me.com',
  'aol.com',
  'btinternet.com',
  'gmx.de',
  'gmx.net',
  'web.de',
  't-online.de',
  'orange.fr',
  'wanadoo.fr',
  'free.fr',
  'libero.it',
  'protonmail.com',
  'proton.me',
];
/** Endings that do not exist and what they stand for. */
const ENDINGS: Record<string, string> = {
  con: 'com',
  cmo: 'com',
  ocm: 'com',
  vom: 'com',
  comm: 'com',
  'co.ku': 'co.uk',
  couk: 'co.uk',
};

/** An address as it is said aloud, and how long one may be with what stands about it. */
const SPELT = /(?<!\S)([\w.+-]+(?: dot [\w.+-]+)*) at ([\w-]+(?: dot [\w-]+)+)(?!\S)/gi;
const LONGEST = 320;
const spelledOut = (_: string, name: string, host: string) => `${name}@${host}`.replace(/ dot /gi, '.');

export const email: ReplyReader = {
  type: 'email',
  words: 'an email address',
  example: 'mira@example.org',
  /**
   * Finds the one address in the words ("it's mira@example.org thanks", "joe at example dot com"); the part
   * after the @ is put in small letters. A slip in a common host is suggested, never put right unasked.
   */
  read(written) {
    const spelt = written.includes('@') ? written : written.slice(0, 300).replace(SPELT, spelledOut);
    const joined = spelt
      .replace(/\s*@\s*/g, '@')
      .split(/\s+/)
      .filter((word) => word.length <= LONGEST);
    const found = joined
      .flatMap((word) => [...word.matchAll(LOOKS_LIKE)])
      .map((match) => match[0].replace(/^[.!?<]+|[.!?>]+$/g, ''));
    const valid = [...new Set(found.filter((address) => address.length <= 254 && isEmail(address)))];
    if (valid.length > 1) return unread('it holds more than one email address');
    if (valid.length === 0)
      return unread(
        written.includes('@')
          ? `“${shorten(written)}” is not a whole email address`
          : 'there is no @ in it, so it is not an email address',
      );
    const [name, host] = valid[0]!.split('@') as [string, string];
    const value = `${name}@${host.toLowerCase()}`;
    const likely = likelyHost(host.toLowerCase());
    const read = likely
      ? asRead({ type: 'email', value }, 0.5, value, `“${likely}” is written so often`)
      : asRead({ type: 'email', value });
    return likely ? { ...read, suggestion: { type: 'email', value: `${name}@${likely}` } } : read;
  },
};

function likelyHost(host: string): string | null {
  if (COMMON_HOSTS.includes(host)) return null;
  const near = COMMON_HOSTS.filter((common) => common.length >= 7 && slips(host, common, 1) === 1);
  if (near.length > 0) return near[0]!;
  const dot = host.indexOf('.');
  const ending = ENDINGS[host.slice(dot + 1)];
  return ending ? `${host.slice(0, dot)}.${ending}` : null;
}

function shorten(words: string): string {
  return words.length > 60 ? `${words.slice(0, 59)}…` : words.trim();
}
