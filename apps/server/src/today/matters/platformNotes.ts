import type { Attention, PlatformNote } from '@dart-loop/contract';
import type { ChannelKind } from '@dart-loop/core';
import type { Matter } from './matter';

/** What platforms warn of: what they could not deliver to us, or do not hand over, and numbers going bad. */
export const platformNotes: Matter = {
  seenBy: 'builders',
  async of(db) {
    const { rows } = await db.query<{
      slug: string;
      client: string;
      id: number;
      name: string;
      channel: ChannelKind;
      note: PlatformNote;
    }>(
      `
        select k.slug, k.name as client, l.id, l.name, l.channel, n.note
        from line l join client k on k.id = l.client_id
        cross join lateral jsonb_array_elements(l.platform_notes) n (note)
        where l.secrets is not null and l.failing_since is null and n.note ->> 'tone' = 'warning'
        order by k.name, l.id limit 50`,
    );
    return rows.map(({ slug, client, id, name, channel, note }): Attention => ({
      id: `platform-${id}-${note.code}`,
      weight: 'warning',
      client: { slug, name: client },
      channel,
      words: `${name}: ${note.words}`,
      action: { words: 'Open line', href: `/${slug}/lines` },
    }));
  },
};
