import type { FieldType } from '../../model/person';
import { email } from './email';
import { number } from './number';
import { phone } from './phone';
import type { Reading, ReadingWorld, ReplyReader } from './reading';
import { text } from './text';
import { yesNo } from './yesNo';

export const READERS: Record<FieldType, ReplyReader> = { text, email, phone, number, 'yes/no': yesNo };

/** Reads a typed answer as a value of `type`, or says why it cannot be read. Never throws. */
export function readReply(type: FieldType, written: string, world: ReadingWorld): Reading {
  return READERS[type].read(written.slice(0, 4_096), world);
}

export type { Reading, ReadingWorld, ReplyReader };
