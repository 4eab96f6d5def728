import type { Attention } from '@dart-loop/contract';
import { counted } from '@dart-loop/core/language/counted';
import type { Matter } from './matter';

/** Messages that were not sent since yesterday, by reason. */
export const unsent: Matter = {
  seenBy: 'everybody',
  async of(db, now) {
    const matters: Attention[] = [];
    const failed = await db.query<{
      slug: string;
      client: string;
      conversation_id: string;
      count: number;
      reason: string;
    }>(
      `
       select k.slug, k.name as client, min(m.conversation_id::text) as conversation_id,
         count(*)::int as count, m.failure ->> 'reason' as reason
       from message m join client k on k.id = m.client_id where m.status = 'failed' and m.made_at > $1
       group by 1, 2, 5 order by 4 desc limit 20`,
      [new Date(now - 86_400_000)],
    );
    for (const row of failed.rows)
      matters.push({
        id: `failed-${row.slug}-${row.reason}`,
        weight: 'quiet',
        client: { slug: row.slug, name: row.client },
        channel: null,
        words: `${counted(row.count, 'message was', 'messages were')} not sent since yesterday. ${row.reason}`,
        action: { words: 'Open conversation', href: `/inbox/${row.slug}/${row.conversation_id}` },
      });
    return matters;
  },
};
