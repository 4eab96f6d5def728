import type { FieldType } from '../../people/person';
import { date } from './date';
import { email } from './email';
import { number } from './number';
import { pageAddress } from './pageAddress';
import { phone } from './phone';
import { asRead, unread, type Reading, type ReadingWorld, type ReplyReader } from './reading';
import { text } from './text';
import { time } from './time';
import { yesNo } from './yesNo';

/** A value out of a list is kept as it is written; which of them was meant is the asking step's to read. */
const oneOf: ReplyReader = {
  ...text,
  type: 'one of',
  words: 'one of the options',
  example: 'the first',
  read: (written) =>
    written.trim() ? asRead({ type: 'one of', value: written.trim() }) : unread('it is empty'),
};
const severalOf: ReplyReader = {
  type: 'several of',
  words: 'several of the options',
  example: 'the first two',
  read(written) {
    const parts = written
      .split(',')
      .map((part) => part.trim())
      .filter(Boolean);
    return parts.length > 0
      ? asRead({ type: 'several of', value: parts }, 1, parts.join(', '))
      : unread('it is empty');
  },
};
const file: ReplyReader = {
  type: 'file',
  words: 'a file',
  example: '',
  read: () => unread('it is a text, and a file is asked for'),
};
const place: ReplyReader = {
  type: 'place',
  words: 'a place',
  example: '',
  read: () => unread('it is a text, and a place is asked for'),
};

export const READERS: Record<FieldType, ReplyReader> = {
  text,
  email,
  phone,
  number,
  date,
  time,
  'yes/no': yesNo,
  'one of': oneOf,
  'several of': severalOf,
  'page address': pageAddress,
  file,
  place,
};

/** How many characters of an answer are read, and kept of a text. */
export const MOST_READ = 4_096;

/** As many are looked at for a value that is found among other words, up to the last whole word. */
const MOST_SEARCHED: Partial<Record<FieldType, number>> = {
  email: 1_000,
  phone: 250,
  number: 600,
  date: 300,
  time: 300,
};

/** Reads a typed answer as a value of `type`, or says why it cannot be read. Never throws. */
export function readReply(type: FieldType, written: string, world: ReadingWorld): Reading {
  const most = MOST_SEARCHED[type] ?? MOST_READ;
  const short = written.slice(0, most);
  const isCut = most < MOST_READ && written.length > most;
  const whole = isCut ? short.slice(0, Math.max(short.lastIndexOf(' '), 0)) : short;
  const reading = READERS[type].read(whole, world);
  // Of other values nothing is lost: they are short.
  return reading.ok && type === 'text' && written.length > MOST_READ
    ? { ...reading, cutFrom: written.length }
    : reading;
}

export type { Reading, ReadingWorld, ReplyReader };
