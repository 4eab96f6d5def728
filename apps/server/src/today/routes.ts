import { counted } from '@dart-loop/core/language/counted';
import type { Attention, TodayPage } from '@dart-loop/contract';
import { shownName } from '@dart-loop/core/people/shownName';
import type { ChannelKind } from '@dart-loop/core';
import type { Clock } from '../platform/clock';
import { WHO } from '../http/pages';
import { route } from '../http/route';

/** "20 min", "3 h", "2 days". */
function lasting(ms: number): string {
  const minutes = Math.max(1, Math.floor(ms / 60_000));
  if (minutes < 60) return `${minutes} min`;
  const hours = Math.floor(minutes / 60);
  return hours < 48 ? `${hours} h` : `${Math.floor(hours / 24)} days`;
}

const WEIGHTS: readonly Attention['weight'][] = ['failing', 'warning', 'quiet'];

export function todayRoutes(clock: Clock) {
  return [
    route({
      method: 'get',
      path: '/today',
      may: 'see conversations',
      async handle({ db, account }): Promise<TodayPage> {
        const now = clock.now();
        const attention: Attention[] = [];
        if (account.role === 'owner' || account.role === 'builder') {
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
            attention.push({
              id: `line-${row.id}`,
              weight: 'failing',
              client: { slug: row.slug, name: row.client },
              channel: row.channel,
              words: `The line ${row.name} has been failing for ${lasting(now - row.failing_since.getTime())}. ${row.failure.reason}${row.held > 0 ? ` ${counted(row.held, 'message is', 'messages are')} held.` : ''}`,
              action: { words: 'Open line', href: `/${row.slug}/lines` },
            });
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
            attention.push({
              id: `aside-${row.id}`,
              weight: 'warning',
              client: { slug: row.slug, name: row.client },
              channel: row.channel,
              words: `${counted(row.count, 'message')} on ${row.name} could not be processed.`,
              action: { words: 'See why', href: `/${row.slug}/lines?aside=${row.id}` },
            });
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
              attention.push({
                id: `destination-${row.id}`,
                weight: 'failing',
                client,
                channel: null,
                words: `The destination ${row.name} has been failing for ${lasting(now - row.failing_since.getTime())}: ${row.failure}. ${counted(row.waiting, 'delivery waits', 'deliveries wait')}.`,
                action,
              });
            if (row.shelf > 0)
              attention.push({
                id: `shelf-${row.id}`,
                weight: 'warning',
                client,
                channel: null,
                words: `${counted(row.shelf, 'delivery', 'deliveries')} to ${row.name} failed.`,
                action: { ...action, href: `${action.href}?see=deliveries` },
              });
          }
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
            attention.push({
              id: `unpublished-${row.id}`,
              weight: 'failing',
              client: { slug: row.slug, name: row.client },
              channel: null,
              words: `The loop ${row.name} was scheduled to be published and was not. ${row.schedule_failed}`,
              action: { words: 'Open loop', href: `/${row.slug}/loops/${row.id}` },
            });
        }
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
          attention.push({
            id: `waiting-${row.slug}`,
            weight: 'warning',
            client: { slug: row.slug, name: row.client },
            channel: null,
            words: `${counted(row.people, 'person waits', 'people wait')} for a person, ${row.people === 1 ? 'for' : 'the longest'} ${lasting(now - row.since.getTime())} (${shownName(row.who)}: “${row.words.length > 60 ? `${row.words.slice(0, 59)}…` : row.words}”).`,
            action: { words: `Read what ${shownName(row.who)} wrote`, href: `/inbox/${row.slug}/${row.id}` },
          });
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
          attention.push({
            id: `failed-${row.slug}-${row.reason}`,
            weight: 'quiet',
            client: { slug: row.slug, name: row.client },
            channel: null,
            words: `${counted(row.count, 'message was', 'messages were')} not sent since yesterday. ${row.reason}`,
            action: { words: 'Open conversation', href: `/inbox/${row.slug}/${row.conversation_id}` },
          });

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
             coalesce(substring(e.body ->> 'address' from '^https?://([^/?]+)'), e.body ->> 'to') as to,
             count(*)::int as count, e.answer ->> 'reason' as reason
           from errand e join client k on k.id = e.client_id where e.status = 'failed' and e.made_at > $1
           group by 1, 2, 4, 5, 7 order by 6 desc limit 20`,
          [new Date(now - 86_400_000)],
        );
        for (const row of undelivered.rows)
          attention.push({
            id: `errand-${row.slug}-${row.to}-${row.reason}`,
            weight: 'warning',
            client: { slug: row.slug, name: row.client },
            channel: null,
            words: `${row.kind === 'alert' ? counted(row.count, 'alert') : counted(row.count, 'delivery', 'deliveries')} to ${row.to} failed since yesterday: ${row.reason}.`,
            action: { words: 'Open conversation', href: `/inbox/${row.slug}/${row.conversation_id}` },
          });

        const day = await db.query<TodayPage['day']>(
          `
           with bounds as (select date_trunc('day', $1::timestamptz) as today)
           select
             (select count(distinct conversation_id) from decision, bounds
               where happened_at >= today)::int as conversations,
             (select count(distinct conversation_id) from decision, bounds
               where happened_at >= today - interval '1 day' and happened_at < today)::int as
               "conversationsYesterday",
             (select count(*) from message, bounds where made_at >= today)::int as messages,
             (select count(*) from message, bounds where made_at >= today - interval '1 day'
               and made_at < today)::int as "messagesYesterday",
             (select coalesce(sum((body ->> 'parts')::int), 0) from message, bounds
               where made_at >= today)::int as "smsParts",
             (select coalesce(sum((body ->> 'parts')::int), 0) from message, bounds
               where made_at >= today - interval '1 day' and made_at < today)::int as "smsPartsYesterday"`,
          [new Date(now)],
        );
        // Each kind in its own order; the worst kinds first.
        attention.sort((one, other) => WEIGHTS.indexOf(one.weight) - WEIGHTS.indexOf(other.weight));
        return { attention, day: day.rows[0]! };
      },
    }),
  ];
}
