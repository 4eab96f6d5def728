import { ConfirmFactor, EndFactor, type FactorState, type NewFactor } from '@dart-loop/contract';
import { qrSvg } from '@dart-loop/core/channels/qr';
import { route } from '../http/route';
import type { SignInLimit } from '../http/limits';
import type { Clock } from '../platform/clock';
import { auditAgency } from '../platform/db/agencyAudit';
import type { Keyring } from '../platform/keyring';
import { Problem, wrong } from '../platform/problem';
import { stopIfWrongPassword } from './ownPassword';
import { endFactor, newRecoveryCodes, newSecret, recoveryHash, stepOf } from './secondFactor';
import { byOf } from './byOf';

interface Parts {
  clock: Clock;
  keys: Keyring;
  limit: SignInLimit;
}

/** One's own second factor: set up, tried out with a code, and ended. */
export const factorRoutes = ({ clock, keys, limit }: Parts) => [
  route({
    method: 'get',
    path: '/account/second-factor',
    may: 'signed in',
    async handle({ db, account }): Promise<FactorState> {
      const { rows } = await db.query<FactorState>(
        'select factor_since as since, cardinality(recovery) as "codesLeft" from account where id = $1',
        [account.id],
      );
      return rows[0]!;
    },
  }),
  route({
    method: 'post',
    path: '/account/second-factor',
    may: 'signed in',
    async handle(asked): Promise<NewFactor> {
      const { db, account } = asked;
      const made = newSecret(account.email);
      const { rowCount } = await db.query(
        'update account set secrets = $2, factor_step = 0 where id = $1 and factor_since is null',
        [account.id, keys.seal({ secret: made.secret })],
      );
      if (rowCount === 0)
        throw new Problem(409, 'There already', 'The second factor is on already. Turn it off first.');
      await auditAgency(db, byOf(asked, clock.now()), 'began to set up a second factor', {});
      return { ...made, picture: qrSvg(made.address, 'Dart Loop') };
    },
  }),
  route({
    method: 'post',
    path: '/account/second-factor/codes',
    may: 'signed in',
    body: ConfirmFactor,
    async handle(asked): Promise<{ codes: string[] }> {
      const { db, account, body } = asked;
      const { rows } = await db.query<{ secrets: Buffer | null }>(
        'select secrets from account where id = $1 and factor_since is null for update',
        [account.id],
      );
      if (!rows[0]?.secrets)
        throw new Problem(409, 'Not begun', 'There is no second factor to be tried out. Begin again.');
      const { secret } = await keys.unseal(rows[0].secrets);
      const step = stepOf(secret!, body.code, clock.now());
      if (step === null) throw wrong('code', 'is not the one that your authenticator shows now');
      const codes = newRecoveryCodes();
      await db.query('update account set factor_since = $2, factor_step = $3, recovery = $4 where id = $1', [
        account.id,
        new Date(clock.now()),
        step,
        codes.map(recoveryHash),
      ]);
      await auditAgency(db, byOf(asked, clock.now()), 'turned the second factor on', {});
      return { codes };
    },
  }),
  route({
    method: 'post',
    path: '/account/second-factor/end',
    may: 'signed in',
    body: EndFactor,
    async handle(asked) {
      const { db, account, body } = asked;
      await stopIfWrongPassword(asked, limit, 'password', body.password);
      await endFactor(db, account.id);
      await auditAgency(db, byOf(asked, clock.now()), 'turned the second factor off', {});
    },
  }),
];
