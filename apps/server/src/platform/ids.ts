import { randomBytes, randomFillSync } from 'node:crypto';

const pool = Buffer.alloc(10 * 512);
let used = pool.length;
let lastMs = 0;
let counter = 0;

/**
 * A UUID of version 7 (RFC 9562): 48 bits of Unix milliseconds, a 12-bit counter within the millisecond, then
 * chance. Ids made by one process for the same moment rise in the order they were made.
 */
export function newId(nowMs: number): string {
  if (used + 10 > pool.length) {
    randomFillSync(pool);
    used = 0;
  }
  counter = nowMs === lastMs ? (counter + 1) & 0xfff : 0;
  lastMs = nowMs;
  const time = nowMs.toString(16).padStart(12, '0');
  const random = pool.subarray(used, used + 8);
  random[0] = (random[0]! & 0x3f) | 0x80;
  const rest = random.toString('hex');
  used += 10;
  return `${time.slice(0, 8)}-${time.slice(8, 12)}-7${counter.toString(16).padStart(3, '0')}-${rest.slice(0, 4)}-${rest.slice(4)}`;
}

/** A secret for an address or a cookie: 32 random bytes in base64url. */
export function newToken(): string {
  return randomBytes(32).toString('base64url');
}

/** Whether a text is a UUID as ids are written here: small letters, with their hyphens. */
export const isUuid = (text: string): boolean => /^[0-9a-f]{8}(-[0-9a-f]{4}){3}-[0-9a-f]{12}$/.test(text);

/** When an id of {@link newId} was made (ms). */
export const madeAt = (id: string): number => Number.parseInt(id.slice(0, 8) + id.slice(9, 13), 16);
