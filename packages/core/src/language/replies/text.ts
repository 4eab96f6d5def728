import { asRead, unread, type ReplyReader } from './reading';

export const text: ReplyReader = {
  type: 'text',
  words: 'any text',
  example: 'Anything at all',
  read(written) {
    const value = written.trim();
    return value ? asRead({ type: 'text', value }) : unread('it is empty');
  },
};
