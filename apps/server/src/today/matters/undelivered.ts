import type { Attention } from '@dart-loop/contract';
import { counted } from '@dart-loop/core/language/counted';
import type { Matter } from './matter';

/** Alerts, send outs and questions for the sources that failed since yesterday. */
export const undelivered: Matter = {
  seenBy: 'everybody',
  async of(db, now) {
    const matters: Attention[] = [];
    const undelivered = await db.query<{
      slug: string;
      client: string;
      conversation_id: string;
      kind: string;
      to: string;
      count: number;
      reason: string;
    }>(
      `
       select k.slug, k.name as client, min(e.conversation_id::text) as conversation_id, e.kind,
         coalesce(substring(e.body ->> 'address' from '^https?://([^/?]+)'), e.body ->> 'to', '') as to,
         count(*)::int as count, e.answer ->> 'reason' as reason
       from errand e join client k on k.id = e.client_id where e.status = 'failed' and e.made_at > $1
       group by 1, 2, 4, 5, 7 order by 6 desc limit 20`,
      [new Date(now - 86_400_000)],
    );
    for (const row of undelivered.rows)
      matters.push({
        id: `errand-${row.slug}-${row.to}-${row.reason}`,
        weight: 'warning',
        client: { slug: row.slug, name: row.client },
        channel: null,
        words: `${whatFailed(row)} since yesterday: ${row.reason}.`,
        action: { words: 'Open conversation', href: `/inbox/${row.slug}/${row.conversation_id}` },
      });
    return matters;
  },
};

function whatFailed({ kind, count, to }: { kind: string; count: number; to: string }): string {
  if (kind === 'ask sources') return `${counted(count, 'question')} could not be asked of the sources`;
  const what = kind === 'alert' ? counted(count, 'alert') : counted(count, 'delivery', 'deliveries');
  return `${what} to ${to} failed`;
}
