import { randomBytes } from 'node:crypto';
import { Secret, TOTP } from 'otpauth';
import type { Connection } from '../platform/db/pool';
import type { Keyring } from '../platform/keyring';
import { readableCode, tokenHash } from '../platform/secrets';

type Queries = Pick<Connection, 'query'>;

/** Seconds that a code counts, and how many such stretches a clock may be off by (RFC 6238). */
const STEP_S = 30;
const SLACK = 1;
const RECOVERY_CODES = 10;

const totpOf = (secret: string, label: string): TOTP =>
  new TOTP({ issuer: 'Dart Loop', label, secret: Secret.fromBase32(secret), period: STEP_S });

/** A fresh secret for somebody's authenticator, and the address that it reads as a QR code. */
export function newSecret(label: string): { secret: string; address: string } {
  const secret = new Secret({ size: 20 }).base32;
  return { secret, address: totpOf(secret, label).toString() };
}

/** The stretch of time that a code belongs to; null where it is not one of now. */
export function stepOf(secret: string, code: string, now: number): number | null {
  const digits = code.replace(/\s/g, '');
  if (!/^\d{6}$/.test(digits)) return null;
  const off = totpOf(secret, '').validate({ token: digits, window: SLACK, timestamp: now });
  return off === null ? null : Math.floor(now / 1_000 / STEP_S) + off;
}

/** Codes for when the authenticator is lost, as they are shown once. */
export function newRecoveryCodes(): string[] {
  return Array.from({ length: RECOVERY_CODES }, () => readableCode(randomBytes(10)).toLowerCase());
}

/** A recovery code as it is kept: ten letters of chance need no slow hash. */
export const recoveryHash = (code: string): string =>
  tokenHash(code.trim().toLowerCase().replace(/\s/g, '')).toString('base64url');

/**
 * Whether a typed code lets somebody in whose second factor is on: one of their authenticator that was not
 * used before, or one of their recovery codes, which is used up by it.
 */
export async function takeCode(
  db: Queries,
  keys: Keyring,
  accountId: number,
  code: string,
  now: number,
): Promise<boolean> {
  const { rows } = await db.query<{ secrets: Buffer; factor_step: string }>(
    'select secrets, factor_step from account where id = $1 and factor_since is not null',
    [accountId],
  );
  const row = rows[0];
  if (!row) return false;
  const { secret } = await keys.unseal(row.secrets);
  const step = stepOf(secret!, code, now);
  if (step !== null) {
    const { rowCount } = await db.query(
      'update account set factor_step = $2 where id = $1 and factor_step < $2',
      [accountId, step],
    );
    return rowCount === 1;
  }
  const { rowCount } = await db.query(
    'update account set recovery = array_remove(recovery, $2) where id = $1 and $2 = any (recovery)',
    [accountId, recoveryHash(code)],
  );
  return rowCount === 1;
}

/** Somebody’s second factor is gone, with its codes. */
export const endFactor = (db: Queries, accountId: number) =>
  db.query(
    "update account set secrets = null, factor_since = null, factor_step = 0, recovery = '{}' where id = $1",
    [accountId],
  );
