import type { Request, Router } from 'express';
import { AskForPassword, FollowLink, type LinkView } from '@dart-loop/contract';
import type { SignInLimit } from '../http/limits';
import type { Clock } from '../platform/clock';
import { auditAgency } from '../platform/db/agencyAudit';
import { inTransaction, type Db } from '../platform/db/pool';
import { newId } from '../platform/ids';
import type { Mailer } from '../platform/mail';
import { Problem, readBody, wrong } from '../platform/problem';
import { hashPassword } from '../platform/secrets';
import { letterOf } from './letters';
import { findLink, makeLink, useUp, type Link } from './links';
import { comeIn } from './members';
import { stopCommonPassword } from './passwords';
import type { Sessions } from './sessions';

interface Parts {
  db: Db;
  clock: Clock;
  mailer: Mailer;
  sessions: Sessions;
  limit: SignInLimit;
  address: () => string;
}

/** For whoever has no session yet but a link: to come in, or to choose a new password; and to ask for one. */
export function hangWelcome(router: Router, { db, clock, mailer, sessions, limit, address }: Parts): void {
  const linkOf = async (request: Request): Promise<Link> => {
    // A token is too long to be guessed; wrong ones are not counted, so that nobody holds up another’s link.
    const link = await findLink(db, String(request.params.token), clock.now());
    if (link) return link;
    throw new Problem(
      404,
      'Not found',
      'This link counts no more: it was used, withdrawn, or is too old. Ask for another.',
    );
  };
  router.get('/welcome/:token', async (request, response) => {
    const link = await linkOf(request);
    const view: LinkView = {
      kind: link.for.kind,
      agency: link.agency,
      email: link.email,
      role: link.for.kind === 'invitation' ? link.for.role : null,
    };
    response.json(view);
  });
  router.post('/welcome/:token', async (request, response) => {
    const link = await linkOf(request);
    const { password, name = link.name } = readBody(FollowLink, request.body);
    if (!name) throw wrong('name', 'type your name');
    stopCommonPassword(password, [link.email, name, link.agency]);
    const passwordHash = await hashPassword(password);
    const cameIn = await inTransaction(db, async (one) => {
      if (!(await useUp(one, String(request.params.token)))) return null;
      const by = { agencyId: link.agencyId, now: clock.now(), address: request.ip ?? null };
      if (link.for.kind === 'invitation') {
        const { email, role, grants, clients } = link.for;
        const id = await comeIn(
          one,
          link.agencyId,
          { email, name, role, grants, clients, passwordHash },
          by.now,
        );
        await auditAgency(one, { ...by, accountId: id }, 'came in', { email, role, clients });
        return { id, hasFactor: false };
      }
      const { accountId: id } = link.for;
      await one.query('update account set password_hash = $2 where id = $1', [id, passwordHash]);
      // Whoever knew the old one is out.
      await one.query('delete from session where account_id = $1', [id]);
      await auditAgency(one, { ...by, accountId: id }, 'chose a new password', { by: 'a link' });
      const { rows } = await one.query<{ hasFactor: boolean }>(
        'select factor_since is not null as "hasFactor" from account where id = $1',
        [id],
      );
      return { id, hasFactor: rows[0]!.hasFactor };
    });
    if (cameIn === null)
      throw new Problem(404, 'Not found', 'This link was used a moment ago. Sign in, or ask for another.');
    await limit.succeeded(link.email, request.ip ?? 'unknown');
    // A link is one factor; whoever has two signs in with both.
    if (cameIn.hasFactor) return void response.status(204).end();
    await sessions.begin(request, response, cameIn.id);
  });

  // The answer is the same whether there is such an account or not, and comes at once.
  router.post('/sign-in/password', async (request, response) => {
    const { email } = readBody(AskForPassword, request.body);
    if (!mailer.isThere)
      throw new Problem(
        409,
        'Not possible here',
        'This server cannot send mail. Ask an owner of the agency for a link.',
      );
    const from = request.ip ?? 'unknown';
    await limit.check(`a new password for ${email}`, from);
    await limit.failed(`a new password for ${email}`, from);
    response.status(204).end();
    const { rows } = await db.query<{ id: number; agency_id: number; agency: string }>(
      `
        select a.id, a.agency_id, g.name as agency from account a join agency g on g.id = a.agency_id
        where a.email = $1 and a.left_at is null`,
      [email],
    );
    const account = rows[0];
    if (!account) return;
    const { token } = await makeLink(
      db,
      account.agency_id,
      { kind: 'password', accountId: account.id },
      null,
      clock.now(),
    );
    const letter = letterOf('password', `${address()}/welcome/${token}`, {
      by: null,
      agency: account.agency,
    });
    await mailer.send({ id: newId(clock.now()), to: email, ...letter });
  });
}
