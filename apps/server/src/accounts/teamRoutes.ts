import {
  ChangeMember,
  Invite,
  type Invitation,
  type MadeLink,
  type Member,
  type Reach,
  type TeamPage,
} from '@dart-loop/contract';
import { handOnFrom } from '../conversations/handOn';
import { asking, route, type Account, type Asked } from '../http/route';
import type { Clock } from '../platform/clock';
import { auditAgency } from '../platform/db/agencyAudit';
import { newId } from '../platform/ids';
import type { Mailer } from '../platform/mail';
import { Problem, notFound } from '../platform/problem';
import { byOf } from './byOf';
import { letterOf } from './letters';
import { makeLink, type For } from './links';
import { changeMember, leave, memberOf, type StoredMember } from './members';

interface Parts {
  clock: Clock;
  mailer: Mailer;
  /** Where the app is open; links are made from it. */
  address: () => string;
  /** Tells that something waits to be decided. */
  wake: () => void;
}

/** The people of the agency: invited, given roles and clients, and let go. */
export const teamRoutes = (parts: Parts) => [
  route({
    method: 'get',
    path: '/team',
    may: 'manage team',
    async handle({ db, account }): Promise<TeamPage> {
      const members = await db.query<Omit<Member, 'clients'> & { all: boolean; ids: number[] }>(
        `
          select a.id, a.name, a.email, a.role, a.grants, a.all_clients as "all", a.factor_since is not null as factor,
            array(select client_id from account_client where account_id = a.id order by 1) as ids,
            (select max(created_at) from session s where s.account_id = a.id) as "lastSignIn"
          from account a where a.agency_id = $1 and a.left_at is null order by lower(a.name), a.id`,
        [account.agencyId],
      );
      const invitations = await db.query<Omit<Invitation, 'clients'> & { ids: number[] | null }>(
        `
          select l.id, l.email, l.role, l.grants, l.client_ids as ids, a.name as by, l.expires_at as "expiresAt"
          from account_link l left join account a on a.id = l.made_by
          where l.agency_id = $1 and l.kind = 'invitation' and l.expires_at > $2 order by l.made_at desc`,
        [account.agencyId, new Date(parts.clock.now())],
      );
      const clients = await db.query<{ id: number; name: string }>(
        'select id, name from client order by lower(name)',
      );
      return {
        members: members.rows.map(({ all, ids, ...row }) => ({ ...row, clients: all ? 'all' : ids })),
        invitations: invitations.rows.map(({ ids, ...row }) => ({ ...row, clients: ids ?? 'all' })),
        clients: clients.rows,
        mails: parts.mailer.isThere,
      };
    },
  }),
  route({
    method: 'post',
    path: '/team/invitations',
    may: 'manage team',
    body: Invite,
    async handle(asked) {
      const { db, account, body } = asked;
      stopIfOutOfReach(account, body.clients);
      const { rows } = await db.query<{ name: string }>(
        'select name from account where email = $1 and left_at is null',
        [body.email],
      );
      if (rows[0]) {
        const detail = 'has an account already';
        throw new Problem(409, 'There is one already', `email: ${body.email} ${detail}.`, {
          errors: [{ field: 'email', detail }],
        });
      }
      return handOver(parts, asked, { kind: 'invitation', ...body }, body.email, 'invited', {
        email: body.email,
        role: body.role,
        grants: body.grants,
        clients: body.clients,
      });
    },
  }),
  route({
    method: 'delete',
    path: '/team/invitations/:invitationId',
    may: 'manage team',
    async handle(asked) {
      const { db, account, params } = asked;
      const { rows } = await db.query<{ email: string }>(
        `
          delete from account_link where agency_id = $1 and kind = 'invitation' and id = $2
          returning email`,
        [account.agencyId, params.invitationId],
      );
      if (!rows[0]) throw notFound('invitation');
      await auditAgency(db, byOf(asked, parts.clock.now()), 'withdrew an invitation', rows[0]);
    },
  }),
  route({
    method: 'put',
    path: '/team/:accountId',
    may: 'manage team',
    body: ChangeMember,
    async handle(asked) {
      const { db, account, body } = asked;
      stopIfOutOfReach(account, body.clients);
      const before = await found(asked);
      await changeMember(db, account.agencyId, before.id, body);
      await auditAgency(db, byOf(asked, parts.clock.now()), 'changed what somebody may do', {
        who: before.email,
        before: { role: before.role, grants: before.grants, clients: before.clients },
        after: body,
      });
    },
  }),
  route({
    method: 'delete',
    path: '/team/:accountId',
    may: 'manage team',
    async handle(asked) {
      const { db, account } = asked;
      const { id, name, email, role } = await found(asked);
      const now = parts.clock.now();
      await leave(db, account.agencyId, id, now);
      const handedOn = await handOnFrom(db, { agencyId: account.agencyId, name, now });
      await auditAgency(db, byOf(asked, now), 'removed somebody', { name, email, role, handedOn });
      asked.afterwards(parts.wake);
    },
  }),
  route({
    method: 'post',
    path: '/team/:accountId/password',
    may: 'manage team',
    async handle(asked) {
      const { id, email } = await found(asked);
      return handOver(
        parts,
        asked,
        { kind: 'password', accountId: id },
        email,
        'made a link for a new password',
        {
          who: email,
        },
      );
    },
  }),
];

/**
 * Makes a link and gives it to whoever asked for it, to hand over; where there is a mail server it is sent as
 * well.
 */
async function handOver(
  { clock, mailer, address }: Parts,
  asked: Asked<unknown, unknown>,
  whom: For,
  to: string,
  what: string,
  detail: Record<string, unknown>,
) {
  const { db, account } = asked;
  const { token, expiresAt } = await makeLink(db, account.agencyId, whom, account.id, clock.now());
  await auditAgency(db, byOf(asked, clock.now()), what, detail);
  const { rows } = await db.query<{ name: string }>('select name from agency where id = $1', [
    account.agencyId,
  ]);
  const link = `${address()}/welcome/${token}`;
  const letter = letterOf(whom.kind, link, { by: account.name, agency: rows[0]!.name });
  return asking(
    async () => (mailer.isThere ? (await mailer.send({ id: newId(clock.now()), to, ...letter })).ok : false),
    async (_db, mailed): Promise<MadeLink> => ({ address: link, mailed, expiresAt: expiresAt.toISOString() }),
  );
}

/** Nobody gives what they do not have: other clients than their own, or all of them. */
function stopIfOutOfReach(account: Account, clients: Reach): void {
  const reaches =
    clients === 'all' ? account.allClients : clients.every((id) => account.clientIds.includes(id));
  if (reaches) return;
  const detail = 'only clients that you may see yourself can be given';
  throw new Problem(403, 'Not allowed', `clients: ${detail}.`, { errors: [{ field: 'clients', detail }] });
}

async function found({ db, account, params }: Asked<unknown, unknown>): Promise<StoredMember> {
  const member = await memberOf(db, account.agencyId, Number(params.accountId));
  if (!member) throw notFound('member of the team');
  // Whoever sees more is not in the hands of whoever sees less.
  stopIfOutOfReach(account, member.clients);
  return member;
}
