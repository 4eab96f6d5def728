import type { Asked } from '../http/route';
import type { SignInLimit } from '../http/limits';
import { wrong } from '../platform/problem';
import { passwordFits } from '../platform/secrets';

/**
 * What changes how one signs in asks for the password once more; wrong ones count as at the sign-in. `field`:
 * where it was typed.
 */
export async function stopIfWrongPassword(
  { db, account, request }: Asked<unknown, unknown>,
  limit: SignInLimit,
  field: string,
  typed: string,
): Promise<void> {
  const from = request.ip ?? 'unknown';
  await limit.check(account.email, from);
  const { rows } = await db.query<{ password_hash: string }>(
    'select password_hash from account where id = $1',
    [account.id],
  );
  if (await passwordFits(typed, rows[0]!.password_hash)) return;
  await limit.failed(account.email, from);
  throw wrong(field, 'is not the one that you have now');
}
