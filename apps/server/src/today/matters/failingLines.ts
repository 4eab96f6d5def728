import type { Attention } from '@dart-loop/contract';
import { counted } from '@dart-loop/core/language/counted';
import type { ChannelKind } from '@dart-loop/core';
import { lasting, type Matter } from './matter';

/** Lines that fail. */
export const failingLines: Matter = {
  seenBy: 'builders',
  async of(db, now) {
    const matters: Attention[] = [];
    const failing = await db.query<{
      slug: string;
      client: string;
      id: number;
      name: string;
      channel: ChannelKind;
      failing_since: Date;
      failure: { reason: string };
      held: number;
    }>(
      `
       select k.slug, k.name as client, l.id, l.name, l.channel, l.failing_since, l.failure,
         (select count(*) from message m where m.line_id = l.id and m.status = 'queued')::int as held
       from line l join client k on k.id = l.client_id where l.failing_since is not null
       order by l.failing_since limit 50`,
    );
    for (const row of failing.rows)
      matters.push({
        id: `line-${row.id}`,
        weight: 'failing',
        client: { slug: row.slug, name: row.client },
        channel: row.channel,
        words: `The line ${row.name} has been failing for ${lasting(now - row.failing_since.getTime())}. ${row.failure.reason}${row.held > 0 ? ` ${counted(row.held, 'message is', 'messages are')} held.` : ''}`,
        action: { words: 'Open line', href: `/${row.slug}/lines` },
      });
    return matters;
  },
};
