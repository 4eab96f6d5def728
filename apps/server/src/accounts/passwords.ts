import { wrong } from '../platform/problem';
import { COMMON } from './commonPasswords';

/**
 * Whether a password would be among the first that somebody tries: one of the common ones, one of those with
 * digits or signs behind it, one letter over and over, a row of digits, or what is known of its owner.
 */
export function isCommonPassword(password: string, known: string[]): boolean {
  const plain = password.toLowerCase().replace(/\s+/g, '');
  const stem = plain.replace(/[^\p{L}]+$/u, '');
  const parts = known
    .flatMap((text) => text.toLowerCase().split(/[^\p{L}\p{N}]+/u))
    .filter((part) => part.length >= 4);
  return (
    COMMON.has(plain) ||
    COMMON.has(stem) ||
    new Set(plain).size <= 3 ||
    '0123456789012345678909876543210987654321'.includes(plain) ||
    parts.some((part) => stem === part || stem === part + part)
  );
}

/** Refuses such a password in its sentence. `known`: the owner’s name and address, the agency’s name. */
export function stopCommonPassword(password: string, known: string[], field = 'password'): void {
  if (!isCommonPassword(password, known)) return;
  const detail =
    'is one of the first that somebody would try; take a few words that belong together for you only';
  throw wrong(field, detail);
}
