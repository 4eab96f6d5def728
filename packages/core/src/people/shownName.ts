import { parsePhoneNumberFromString } from 'libphonenumber-js';
import { valueWords, type Value } from './person';

const NUMBER = /^\+\d{7,15}$/;
/** Grouping takes a tenth of a millisecond, and lists show the same numbers again and again. */
const MOST_KEPT = 5_000;
const kept = new Map<string, string>();

/**
 * A name, a handle, or anything else that a person is known by, as it is shown: a telephone number (E.164) in
 * groups as its country writes them ("+44 7700 900036"); everything else as it is.
 */
export function shownName(name: string): string {
  if (!NUMBER.test(name)) return name;
  const known = kept.get(name);
  if (known !== undefined) return known;
  const grouped = parsePhoneNumberFromString(name)?.formatInternational() ?? name;
  if (kept.size >= MOST_KEPT) kept.clear();
  kept.set(name, grouped);
  return grouped;
}

/** A value as it is shown: as its words, a telephone number in groups. */
export const shownValue = (value: Value): string =>
  value.type === 'phone' ? shownName(valueWords(value)) : valueWords(value);
