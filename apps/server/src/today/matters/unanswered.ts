import type { Attention } from '@dart-loop/contract';
import { counted } from '@dart-loop/core/language/counted';
import { mostAsked, OPEN } from '../../answers/unanswered';
import type { Matter } from './matter';

/** Clients that are told of, those with most open questions. */
const MOST_CLIENTS = 20;

/** What people asked and the sources could not answer. */
export const unanswered: Matter = {
  seenBy: 'builders',
  async of(db) {
    const { rows } = await db.query<{ id: number; slug: string; name: string; count: number }>(
      `
        select k.id, k.slug, k.name, count(*)::int as count
        from asked a join client k on k.id = a.client_id
        where k.archived_at is null and ${OPEN} group by k.id order by 4 desc, k.id limit ${MOST_CLIENTS}`,
    );
    const matters: Attention[] = [];
    for (const { id, slug, name, count } of rows) {
      const most = await mostAsked(db, id);
      if (!most) continue;
      const times = most.count > 1 ? `, asked ${counted(most.count, 'time')}` : '';
      matters.push({
        id: `unanswered-${slug}`,
        weight: 'warning',
        client: { slug, name },
        channel: null,
        words: `The sources do not answer ${counted(count, 'question')}. First: “${most.question}”${times}.`,
        action: { words: 'Write answers', href: `/${slug}/answers/open` },
      });
    }
    return matters;
  },
};
