import { fold } from '../../language/fold';

const EMAIL = /[\p{L}\p{N}._%+-]+@[\p{L}\p{N}-]+(?:\.[\p{L}\p{N}-]+)+/gu;
const NUMBER = /\+?\(?\d(?:[\s()./-]?\d){6,}/g;
const DATE = /^(?:\d{4}[-/. ]\d{1,2}[-/. ]\d{1,2}|\d{1,2}[-/. ]\d{1,2}[-/. ]\d{4})$/;

/** What stands where something was left out. */
export const MASKED = { email: '[email]', number: '[number]', name: '[name]' } as const;

/**
 * A text without what tells who wrote it: email addresses, telephone and other long numbers, and the names
 * that are given. Dates stay.
 */
export function masked(text: string, names: readonly string[]): string {
  const without = text
    .replace(EMAIL, MASKED.email)
    .replace(NUMBER, (number) => (DATE.test(number.trim()) ? number : MASKED.number));
  const theirs = new Set(names.flatMap((name) => fold(name).split(' ')).filter((name) => name.length > 1));
  return theirs.size === 0
    ? without
    : without.replace(/[\p{L}\p{N}]+/gu, (word) => (theirs.has(fold(word)) ? MASKED.name : word));
}
