import { unread, type ReplyReader } from './reading';

export const text: ReplyReader = {
  type: 'text',
  words: 'any text',
  read(written) {
    const value = written.trim();
    return value ? { ok: true, value: { type: 'text', value }, sure: true } : unread('it is empty');
  },
};
