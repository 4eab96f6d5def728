import { asRead, unread, type ReplyReader } from './reading';

const LOOKS_LIKE = /(?:https?:\/\/)?[^\s<>"'`@]+\.[^\s<>"'`@]{2,}/giu;

/** The longest address that is kept, with what stands about it. */
const LONGEST = 2_100;

export const pageAddress: ReplyReader = {
  type: 'page address',
  words: 'the address of a page',
  example: 'https://saltmarshferries.example/book',
  /** Finds the one web address in the words, with or without https:// before it. Reads to an absolute URL. */
  read(written) {
    const words = written.split(/\s+/).filter((word) => word.length <= LONGEST);
    const found = words
      .flatMap((word) => [...word.matchAll(LOOKS_LIKE)])
      .flatMap(([address]) => asUrl(address.replace(/[.,;:!?)\]]+$/, '')) ?? []);
    const addresses = [...new Set(found)];
    if (addresses.length > 1) return unread('it holds more than one address of a page');
    return addresses[0] === undefined
      ? unread('there is no address of a page in it, such as https://example.org')
      : asRead({ type: 'page address', value: addresses[0] });
  },
};

function asUrl(words: string): string | null {
  try {
    const url = new URL(/^https?:\/\//i.test(words) ? words : `https://${words}`);
    return /\.[\p{L}][\p{L}\d-]+$/u.test(url.hostname) && url.href.length <= 2_000 ? url.href : null;
  } catch {
    return null;
  }
}
