import type { Attention } from '@dart-loop/contract';
import { counted } from '@dart-loop/core/language/counted';
import { shownName } from '@dart-loop/core/people/shownName';
import { WHO } from '../../http/pages';
import { lasting, type Matter } from './matter';

/** People who wait for a person, by client. */
export const waitingPeople: Matter = {
  seenBy: 'everybody',
  async of(db, now) {
    const matters: Attention[] = [];
    const waiting = await db.query<{
      slug: string;
      client: string;
      people: number;
      since: Date;
      id: string;
      who: string;
      words: string;
    }>(
      `
       select k.slug, k.name as client, w.people, w.since, w.id, w.who, w.words from (
         select c.client_id, count(*) over (partition by c.client_id)::int as people,
           c.waiting_since as since, c.id, ${WHO} as who,
           coalesce(nullif(c.standing -> 'held' ->> 'note', ''), c.standing ->> 'stopped', c.last_words) as words,
           row_number() over (partition by c.client_id order by c.waiting_since) as place
         from conversation c left join person p on p.client_id = c.client_id and p.id = c.person_id
         left join identity i on i.client_id = c.client_id and i.id = c.id
         where c.shelf = 'waiting on us') w
       join client k on k.id = w.client_id where w.place = 1 order by w.since`,
    );
    for (const row of waiting.rows)
      matters.push({
        id: `waiting-${row.slug}`,
        weight: 'warning',
        client: { slug: row.slug, name: row.client },
        channel: null,
        words: `${counted(row.people, 'person waits', 'people wait')} for a person, ${row.people === 1 ? 'for' : 'the longest'} ${lasting(now - row.since.getTime())} (${shownName(row.who)}: “${row.words.length > 60 ? `${row.words.slice(0, 59)}…` : row.words}”).`,
        action: { words: `Read what ${shownName(row.who)} wrote`, href: `/inbox/${row.slug}/${row.id}` },
      });
    return matters;
  },
};
