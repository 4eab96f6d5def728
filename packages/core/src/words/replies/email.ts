import isEmail from 'validator/lib/isEmail.js';
import { unread, type ReplyReader } from './reading';

const LOOKS_LIKE = /[^\s<>()[\],;:"'`]+@[^\s<>()[\],;:"'`]+/gu;

export const email: ReplyReader = {
  type: 'email',
  words: 'an email address',
  /** Finds the one address in the words ("it's mira@example.org thanks"); the part after the @ is put in small letters. */
  read(written) {
    const found = [...written.matchAll(LOOKS_LIKE)].map((match) => match[0].replace(/^[.!?<]+|[.!?>]+$/g, ''));
    const valid = [...new Set(found.filter((address) => address.length <= 254 && isEmail(address)))];
    if (valid.length > 1) return unread('it holds more than one email address');
    if (valid.length === 0)
      return unread(
        written.includes('@') ? `“${shorten(written)}” is not a whole email address` : 'there is no @ in it, so it is not an email address',
      );
    const [name, domain] = valid[0]!.split('@') as [string, string];
    return { ok: true, value: { type: 'email', value: `${name}@${domain.toLowerCase()}` }, sure: true };
  },
};

function shorten(words: string): string {
  return words.length > 60 ? `${words.slice(0, 59)}…` : words.trim();
}
