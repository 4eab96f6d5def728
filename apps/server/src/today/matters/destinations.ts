import type { Attention } from '@dart-loop/contract';
import { counted } from '@dart-loop/core/language/counted';
import { lasting, type Matter } from './matter';

/** Destinations that fail, and what did not reach them. */
export const destinations: Matter = {
  seenBy: 'builders',
  async of(db, now) {
    const matters: Attention[] = [];
    const behind = await db.query<{
      slug: string;
      client: string;
      id: string;
      name: string;
      failing_since: Date | null;
      failure: string | null;
      waiting: number;
      shelf: number;
    }>(
      `
       select * from (
         select k.slug, k.name as client, d.id, d.name, d.failing_since, d.failure,
           (select count(*) from delivery w where w.client_id = d.client_id and w.destination_id = d.id
             and w.status = 'waiting')::int as waiting,
           (select count(*) from delivery w where w.client_id = d.client_id and w.destination_id = d.id
             and w.status = 'shelf')::int as shelf
         from destination d join client k on k.id = d.client_id where d.state <> 'off') behind
       where failing_since is not null or shelf > 0 order by failing_since nulls last, shelf desc
       limit 50`,
    );
    for (const row of behind.rows) {
      const client = { slug: row.slug, name: row.client };
      const action = { words: `See ${row.name}`, href: `/${row.slug}/sync/${row.id}` };
      if (row.failing_since)
        matters.push({
          id: `destination-${row.id}`,
          weight: 'failing',
          client,
          channel: null,
          words: `The destination ${row.name} has been failing for ${lasting(now - row.failing_since.getTime())}: ${row.failure}. ${counted(row.waiting, 'delivery waits', 'deliveries wait')}.`,
          action,
        });
      if (row.shelf > 0)
        matters.push({
          id: `shelf-${row.id}`,
          weight: 'warning',
          client,
          channel: null,
          words: `${counted(row.shelf, 'delivery', 'deliveries')} to ${row.name} failed.`,
          action: { ...action, href: `${action.href}?see=deliveries` },
        });
    }
    return matters;
  },
};
