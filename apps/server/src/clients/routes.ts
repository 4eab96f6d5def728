import {
  DeleteClient,
  NewClient,
  type ArchivedClient,
  type ClientReceipt,
  type ClientRow,
  type ClientsPage,
} from '@dart-loop/contract';
import { isZone } from '@dart-loop/core/time/clockTime';
import { byOf } from '../accounts/byOf';
import { route } from '../http/route';
import type { Clock } from '../platform/clock';
import { audit } from '../platform/db/audit';
import { openClients } from '../platform/db/pool';
import { auditAgency } from '../platform/db/agencyAudit';
import { counted } from '@dart-loop/core/language/counted';
import { Problem, notFound, wrong } from '../platform/problem';
import { addClient, mayAddClients } from './addClient';

/** The agency's clients: all of them with their figures, and a further one. */
export const clientRoutes = ({
  clock,
  changed,
}: {
  clock: Clock;
  /** What is delivered for the client is another. */
  changed: (clientId: number) => void;
}) => [
  route({
    method: 'get',
    path: '/clients',
    may: 'manage clients',
    async handle({ db, account }): Promise<ClientsPage> {
      const { rows } = await db.query<ClientRow>(
        `
          select c.id, c.slug, c.name,
            (select count(*) from line l where l.client_id = c.id and l.secrets is not null)::int as lines,
            (select count(*) from line l
              where l.client_id = c.id and l.failing_since is not null)::int as "failingLines",
            (select count(*) from loop o
              where o.client_id = c.id and o.live_version is not null
                and o.archived_at is null)::int as "liveLoops",
            (select count(*) from conversation v
              where v.client_id = c.id and v.shelf = 'waiting on us')::int as waiting,
            (select count(*) from person p where p.client_id = c.id)::int as people
          from client c order by lower(c.name), c.id`,
      );
      const archived = account.allClients
        ? await db.query<ArchivedClient>(
            'select id, name, archived_at as "archivedAt" from archived_of_agency($1)',
            [account.agencyId],
          )
        : { rows: [] };
      const deleted = account.allClients
        ? await db.query<ClientReceipt>(
            `
              select r.name, r.asked_at as "askedAt", a.name as "askedBy", r.done_at as "doneAt", r.counts
              from client_receipt r left join account a on a.id = r.asked_by
              where r.agency_id = $1 order by r.asked_at desc limit 200`,
            [account.agencyId],
          )
        : { rows: [] };
      return { clients: rows, archived: archived.rows, deleted: deleted.rows };
    },
  }),
  route({
    method: 'post',
    path: '/clients',
    may: 'manage clients',
    body: NewClient,
    async handle(asked): Promise<{ slug: string }> {
      const { db, account, body } = asked;
      mayAddClients(account);
      stopIfNoZone(body.timeZone);
      const { id, slug } = await addClient(db, account.agencyId, { ...body, languages: [body.language] });
      await openClients(db, [id]);
      const now = clock.now();
      await audit(db, id, account.id, now, 'added the client', { ...body, slug });
      await auditAgency(db, byOf(asked, now), 'added a client', { ...body, slug });
      return { slug };
    },
  }),
  route({
    method: 'post',
    path: '/clients/:client/archive',
    may: 'manage clients',
    async handle(asked) {
      const { db, client, account, afterwards } = asked;
      const { rows } = await db.query<{ lines: number }>(
        'select count(*)::int as lines from line where client_id = $1 and secrets is not null',
        [client.id],
      );
      // What people write would go unanswered without a word to anybody.
      if (rows[0]!.lines > 0)
        throw new Problem(
          409,
          'Lines are connected',
          `${client.name} has ${counted(rows[0]!.lines, 'connected line')}. Disconnect them first: nobody would answer there.`,
        );
      const now = clock.now();
      await db.query("update destination set state = 'off' where client_id = $1 and state <> 'off'", [
        client.id,
      ]);
      await audit(db, client.id, account.id, now, 'archived the client', { name: client.name });
      await auditAgency(db, byOf(asked, now), 'archived a client', { name: client.name, id: client.id });
      await db.query('update client set archived_at = $2 where id = $1', [client.id, new Date(now)]);
      afterwards(() => changed(client.id));
    },
  }),
  route({
    method: 'post',
    path: '/archived-clients/:clientId/delete',
    may: 'manage clients',
    body: DeleteClient,
    async handle(asked) {
      const { db, account, params, body } = asked;
      const { rows } = account.allClients
        ? await db.query<{ id: number; name: string }>(
            'select id, name from archived_of_agency($1) where id = $2',
            [account.agencyId, params.clientId],
          )
        : { rows: [] };
      if (!rows[0]) throw notFound('archived client');
      const { name } = rows[0];
      if (body.name.trim() !== name) throw wrong('name', `type “${name}”, as the client is called`);
      const now = clock.now();
      await db.query('select delete_client($1, $2, $3, $4)', [
        account.agencyId,
        params.clientId,
        account.id,
        new Date(now),
      ]);
      await auditAgency(db, byOf(asked, now), 'deleted a client', { name, id: Number(params.clientId) });
    },
  }),
  route({
    method: 'post',
    path: '/archived-clients/:clientId/restore',
    may: 'manage clients',
    async handle(asked): Promise<{ slug: string }> {
      const { db, account, params } = asked;
      const { rows } = account.allClients
        ? await db.query<{ slug: string | null }>('select restore_client($1, $2) as slug', [
            account.agencyId,
            params.clientId,
          ])
        : { rows: [] };
      const slug = rows[0]?.slug;
      if (!slug) throw notFound('archived client');
      await auditAgency(db, byOf(asked, clock.now()), 'restored a client', { slug });
      return { slug };
    },
  }),
];

/** Refuses a zone that is none, with its field. */
export function stopIfNoZone(timeZone: string): void {
  if (isZone(timeZone)) return;
  throw wrong('timeZone', `“${timeZone}” is no time zone; write it as "Europe/London"`);
}
