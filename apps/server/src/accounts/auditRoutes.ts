import { AuditQuery, type AuditRow } from '@dart-loop/contract';
import { route } from '../http/route';
import type { z } from 'zod';

/** How many lines of the audit come at once. */
const AT_ONCE = 100;

/** Every change by somebody of the agency, newest first: those of its clients and those of its own. */
export const auditRoutes = () => [
  route<z.infer<typeof AuditQuery>>({
    method: 'get',
    path: '/audit',
    may: 'see audit',
    query: AuditQuery,
    async handle({ db, account, query }): Promise<AuditRow[]> {
      const before = query.before ?? null;
      const { rows } = await db.query<AuditRow>(
        `
          select t.id, t.at, a.name as by, t.client, t.what, t.detail, t.address
          from (
            (select 'c' || u.client_id || '.' || u.id as id, u.at, u.account_id, c.name as client, u.what,
               u.detail, u.address
             from audit u join client c on c.id = u.client_id
             where ($2::timestamptz is null or u.at < $2) and ($3::text is null or c.slug = $3)
             order by u.at desc limit ${AT_ONCE})
            union all
            (select 'a' || g.id, g.at, g.account_id, null, g.what, g.detail, g.address
             from agency_audit g
             where g.agency_id = $1 and ($2::timestamptz is null or g.at < $2) and $3::text is null
             order by g.at desc limit ${AT_ONCE})
          ) t left join account a on a.id = t.account_id
          order by t.at desc, t.id desc limit ${AT_ONCE}`,
        [account.agencyId, before, query.client ?? null],
      );
      return rows;
    },
  }),
];
