import { createHmac } from 'node:crypto';
import type { Router } from 'express';
import { FirstRun } from '@dart-loop/contract';
import type { Clock } from '../platform/clock';
import type { Db } from '../platform/db/pool';
import { Problem, readBody, wrong } from '../platform/problem';
import { hashPassword, readableCode, sameSecret } from '../platform/secrets';
import type { SignInLimit } from '../http/limits';
import { stopCommonPassword } from './passwords';
import type { Sessions } from './sessions';

/**
 * The code that founds the agency: eight letters, the same on every server of the installation, as it comes
 * from `root`, the key that stays. It counts for nothing once somebody has an account.
 */
export function firstRunCode(root: Buffer): string {
  const bytes = createHmac('sha256', root).update('the first run').digest();
  return readableCode(bytes.subarray(0, 8));
}

/** Founds the agency with its first owner, for whoever knows the code; once only. */
export function hangFirstRun(
  router: Router,
  {
    db,
    clock,
    root,
    sessions,
    limit,
  }: { db: Db; clock: Clock; root: Buffer; sessions: Sessions; limit: SignInLimit },
): void {
  router.post('/first-run', async (request, response) => {
    const { code, agency, name, email, password } = readBody(FirstRun, request.body);
    if (!(await sessions.isFirstRun()))
      throw new Problem(409, 'Done already', 'The agency is there already. Sign in, or ask its owner.');
    const from = request.ip ?? 'unknown';
    await limit.check(`first run from ${from}`, from);
    if (!sameSecret(code, firstRunCode(root))) {
      await limit.failed(`first run from ${from}`, from);
      throw wrong('code', 'is not the code in the server’s log');
    }
    stopCommonPassword(password, [email, name, agency]);
    const { rows } = await db.query<{ owner: number | null }>(
      'select found_agency($1, $2, $3, $4, $5) as owner',
      [agency, name, email, await hashPassword(password), new Date(clock.now())],
    );
    const owner = rows[0]?.owner;
    if (!owner)
      throw new Problem(409, 'Done already', 'Somebody else was quicker: the agency is there already.');
    await sessions.begin(request, response, owner);
  });
}
