import type { Attention } from '@dart-loop/contract';
import { counted } from '@dart-loop/core/language/counted';
import type { ChannelKind } from '@dart-loop/core';
import type { Matter } from './matter';

/** Messages of people that could not be processed. */
export const unprocessed: Matter = {
  seenBy: 'builders',
  async of(db) {
    const matters: Attention[] = [];
    const unprocessed = await db.query<{
      slug: string;
      client: string;
      id: number;
      name: string;
      channel: ChannelKind;
      count: number;
    }>(
      `
       select k.slug, k.name as client, l.id, l.name, l.channel, a.count from (
         select client_id, line_id, count(*)::int as count from aside where again_at is null
         group by 1, 2) a
       join line l on l.client_id = a.client_id and l.id = a.line_id join client k on k.id = l.client_id
       where l.secrets is not null order by a.count desc limit 50`,
    );
    for (const row of unprocessed.rows)
      matters.push({
        id: `aside-${row.id}`,
        weight: 'warning',
        client: { slug: row.slug, name: row.client },
        channel: row.channel,
        words: `${counted(row.count, 'message')} on ${row.name} could not be processed.`,
        action: { words: 'See why', href: `/${row.slug}/lines?aside=${row.id}` },
      });
    return matters;
  },
};
