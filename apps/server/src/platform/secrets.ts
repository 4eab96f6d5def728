import {
  createCipheriv,
  createDecipheriv,
  createHash,
  createHmac,
  randomBytes,
  scrypt,
  timingSafeEqual,
} from 'node:crypto';
import { promisify } from 'node:util';
import { toJson } from './db/json';
import { newToken } from './ids';

const scryptAsync = promisify<string, Buffer, number, { N: number; r: number; p: number }, Buffer>(scrypt);
const COST = { N: 16_384, r: 8, p: 5 };

/** Encrypts with AES-256-GCM: 12 bytes of nonce, 16 of tag, then the text. `key` is 32 bytes. */
export function seal(key: Buffer, value: Record<string, string>): Buffer {
  const nonce = randomBytes(12);
  const cipher = createCipheriv('aes-256-gcm', key, nonce);
  const body = Buffer.concat([cipher.update(toJson(value), 'utf8'), cipher.final()]);
  return Buffer.concat([nonce, cipher.getAuthTag(), body]);
}

/** Opens what {@link seal} made. Throws when the key is another or a byte was changed. */
export function unseal(key: Buffer, sealed: Buffer): Record<string, string> {
  const decipher = createDecipheriv('aes-256-gcm', key, sealed.subarray(0, 12));
  decipher.setAuthTag(sealed.subarray(12, 28));
  return JSON.parse(
    Buffer.concat([decipher.update(sealed.subarray(28)), decipher.final()]).toString('utf8'),
  ) as Record<string, string>;
}

/** A password as it is kept: scrypt with its own salt (OWASP's cost N=2^14, r=8, p=5). */
export async function hashPassword(password: string): Promise<string> {
  const salt = randomBytes(16);
  const hash = await scryptAsync(password, salt, 32, COST);
  return `scrypt$${salt.toString('base64url')}$${hash.toString('base64url')}`;
}

export async function passwordFits(password: string, kept: string): Promise<boolean> {
  const [, salt, hash] = kept.split('$');
  if (!salt || !hash) return false;
  const expected = Buffer.from(hash, 'base64url');
  return timingSafeEqual(await scryptAsync(password, Buffer.from(salt, 'base64url'), 32, COST), expected);
}

/** Compares two secrets in constant time, whatever their lengths. */
export function sameSecret(a: string, b: string): boolean {
  const digest = (text: string) => createHash('sha256').update(text).digest();
  return timingSafeEqual(digest(a), digest(b));
}

/** An address that cannot be read back, but can be known again by whoever has the key. */
export const addressHash = (key: Buffer, clientId: number, lineId: number, address: string): Buffer =>
  createHmac('sha256', key).update(`${clientId}|${lineId}|${address}`).digest();

export function tokenHash(token: string): Buffer {
  return createHash('sha256').update(token).digest();
}

/** Letters and digits that are not taken for each other. */
const LETTERS = 'ABCDEFGHJKMNPQRSTUVWXYZ23456789';

/** Bytes as a code that people type: a letter or digit for each, in two halves with a hyphen between. */
export function readableCode(bytes: Uint8Array): string {
  const letters = Array.from(bytes, (byte) => LETTERS[byte % LETTERS.length]).join('');
  return `${letters.slice(0, letters.length / 2)}-${letters.slice(letters.length / 2)}`;
}

/** A secret that is told once: what is kept of it is its hash, and its last four characters to know it by. */
export function toldOnce(): { token: string; hash: Buffer; hint: string } {
  const token = newToken();
  return { token, hash: tokenHash(token), hint: token.slice(-4) };
}
