import type { Attention } from '@dart-loop/contract';
import type { Matter } from './matter';

/** Loops whose scheduled publishing did not work. */
export const unpublished: Matter = {
  seenBy: 'builders',
  async of(db) {
    const matters: Attention[] = [];
    const unpublished = await db.query<{
      slug: string;
      client: string;
      id: string;
      name: string;
      schedule_failed: string;
    }>(
      `
       select k.slug, k.name as client, l.id, l.name, l.schedule_failed from loop l
       join client k on k.id = l.client_id
       where l.schedule_failed is not null and l.archived_at is null order by l.name limit 50`,
    );
    for (const row of unpublished.rows)
      matters.push({
        id: `unpublished-${row.id}`,
        weight: 'failing',
        client: { slug: row.slug, name: row.client },
        channel: null,
        words: `The loop ${row.name} was scheduled to be published and was not. ${row.schedule_failed}`,
        action: { words: 'Open loop', href: `/${row.slug}/loops/${row.id}` },
      });
    return matters;
  },
};
