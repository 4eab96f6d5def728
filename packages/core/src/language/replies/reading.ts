import type { Value } from '../../people/person';
import type { HolidayTable } from '../../time/holidayTable';
import type { OpeningHours } from '../../time/openingHours';

/**
 * What became of an answer: its typed value with its normal form, how sure the reading is (0 to 1) and why it
 * is no surer, or the reason why it could not be read. `suggestion`: a value that was more likely meant, to
 * be asked about. `cutFrom`: how many characters were written, where only the first of them are kept.
 * `either`: it is one of two, to be asked which; `span`: it lies in there, to be asked where.
 */
export type Reading =
  | {
      ok: true;
      value: Value;
      normal: string;
      confidence: number;
      /** A sentence part; left out where nothing else could be meant. */
      why?: string;
      suggestion?: Value;
      cutFrom?: number;
    }
  | { ok: false; reason: string; either?: Value[]; span?: Span };

/** Days (YYYY-MM-DD) or times of day (HH:MM), first and last included; null: without an end. */
export interface Span {
  type: 'date' | 'time';
  from: string | null;
  to: string | null;
}

/**
 * What a reader may know beside the words. `country` is ISO 3166-1 alpha-2, `language` ISO 639-1; `now` in ms
 * decides what is ahead.
 */
export interface ReadingWorld {
  country: string;
  language: string;
  now: number;
  zone: string;
  /** Which days a date may be read as. */
  days?: 'ahead' | 'past' | 'any';
  /** When the client is open: it tells which half of the day is meant. */
  hours?: OpeningHours;
  /** The days with a name of their own in the client's country; asked for when a day is read. */
  holidays?: () => HolidayTable;
  /** A number by itself is no time of day. */
  onlyNamed?: boolean;
  /** The span in which it was asked where. */
  within?: Span;
}

/**
 * One way of reading a typed answer. A new kind is one file with a `ReplyReader`, plus its line in the index.
 */
export interface ReplyReader {
  type: Value['type'];
  /** How the script words it: "an email address". */
  words: string;
  /** An answer that it can read; empty where it cannot be typed. */
  example: string;
  read(text: string, world: ReadingWorld): Reading;
}

export const unread = (reason: string): Extract<Reading, { ok: false }> => ({ ok: false, reason });

/** A value that was read; `confidence` from 0 (a guess) to 1 (nothing else was meant), and why no more. */
export function asRead(
  value: Value,
  confidence = 1,
  normal = String(value.value),
  why?: string,
): Extract<Reading, { ok: true }> {
  return { ok: true, value, normal, confidence, ...(why !== undefined && { why }) };
}
