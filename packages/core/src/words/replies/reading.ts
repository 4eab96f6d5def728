import type { Value } from '../../model/person';

/** What became of a typed answer: its typed value, or the reason why it could not be read. */
export type Reading = { ok: true; value: Value; sure: boolean } | { ok: false; reason: string };

/** What a reader may know beside the words. `country` is ISO 3166-1 alpha-2. */
export interface ReadingWorld {
  country: string;
}

/** One way of reading a typed answer. A new kind is one file with a `ReplyReader`, plus its line in the index. */
export interface ReplyReader {
  type: Value['type'];
  /** How the script words it: "an email address". */
  words: string;
  read(text: string, world: ReadingWorld): Reading;
}

export const unread = (reason: string): Reading => ({ ok: false, reason });
