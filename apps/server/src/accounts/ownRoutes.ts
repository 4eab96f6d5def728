import { ChangeDisplay, ChangeName, ChangePassword, PinClient, type OwnSession } from '@dart-loop/contract';
import { route } from '../http/route';
import type { Clock } from '../platform/clock';
import { auditAgency } from '../platform/db/agencyAudit';
import { notFound } from '../platform/problem';
import { hashPassword } from '../platform/secrets';
import type { SignInLimit } from '../http/limits';
import { stopIfWrongPassword } from './ownPassword';
import { stopCommonPassword } from './passwords';
import type { Sessions } from './sessions';
import { byOf } from './byOf';

/** One's own page: name, password, and where one is signed in. */
export const ownRoutes = ({
  clock,
  sessions,
  limit,
}: {
  clock: Clock;
  sessions: Sessions;
  limit: SignInLimit;
}) => [
  route({
    method: 'put',
    path: '/account/name',
    may: 'signed in',
    body: ChangeName,
    async handle(asked) {
      const { db, account, body } = asked;
      await db.query('update account set name = $2 where id = $1', [account.id, body.name]);
      await auditAgency(db, byOf(asked, clock.now()), 'changed their name', {
        before: account.name,
        after: body.name,
      });
    },
  }),
  route({
    method: 'put',
    path: '/account/display',
    may: 'signed in',
    untraced: 'it is how one sees dates and numbers oneself',
    body: ChangeDisplay,
    async handle({ db, account, body: { locale, timeZone } }) {
      await db.query('update account set locale = $2, time_zone = $3 where id = $1', [
        account.id,
        locale,
        timeZone,
      ]);
    },
  }),
  route({
    method: 'put',
    path: '/account/password',
    may: 'signed in',
    body: ChangePassword,
    async handle(asked) {
      const { db, account, body, request } = asked;
      await stopIfWrongPassword(asked, limit, 'now', body.now);
      stopCommonPassword(body.next, [account.email, account.name], 'next');
      await db.query('update account set password_hash = $2 where id = $1', [
        account.id,
        await hashPassword(body.next),
      ]);
      // Wherever else one is signed in ends.
      await db.query("delete from session where account_id = $1 and encode(token_hash, 'hex') <> $2", [
        account.id,
        sessions.nameOf(request),
      ]);
      await auditAgency(db, byOf(asked, clock.now()), 'chose a new password', { by: 'their own page' });
    },
  }),
  route({
    method: 'get',
    path: '/account/sessions',
    may: 'signed in',
    async handle({ db, account, request }): Promise<OwnSession[]> {
      const { rows } = await db.query<OwnSession>(
        `
          select id, browser, address, created_at as "beganAt", encode(token_hash, 'hex') = $2 as "isThis"
          from session where account_id = $1 and expires_at > $3 order by created_at desc limit 100`,
        [account.id, sessions.nameOf(request), new Date(clock.now())],
      );
      return rows;
    },
  }),
  route({
    method: 'put',
    path: '/account/pins',
    may: 'signed in',
    untraced: 'it is in which order one sees one’s own list',
    body: PinClient,
    async handle({ db, account, body: { client, on } }) {
      // What is pinned and not seen any more goes with the next one.
      await db.query(
        `
          update account set pinned = array(
            select id from unnest(pinned || $2::int) as p (id)
            where id = any ($4::int[]) and (id <> $2 or $3) group by id)
          where id = $1`,
        [account.id, client, on, account.clientIds],
      );
    },
  }),
  route({
    method: 'delete',
    path: '/account/sessions/:sessionId',
    may: 'signed in',
    async handle(asked) {
      const { db, account, params } = asked;
      const { rowCount } = await db.query('delete from session where account_id = $1 and id = $2', [
        account.id,
        params.sessionId,
      ]);
      if (!rowCount) throw notFound('session');
      await auditAgency(db, byOf(asked, clock.now()), 'ended a session of theirs', {});
    },
  }),
];
