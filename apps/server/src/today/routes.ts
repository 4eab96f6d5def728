import type { Attention, TodayPage } from '@dart-loop/contract';
import type { Clock } from '../platform/clock';
import { route } from '../http/route';
import { MATTERS } from './matters';

const WEIGHTS: readonly Attention['weight'][] = ['failing', 'warning', 'quiet'];

export function todayRoutes(clock: Clock) {
  return [
    route({
      method: 'get',
      path: '/today',
      may: 'see conversations',
      async handle({ db, account }): Promise<TodayPage> {
        const now = clock.now();
        const builds = account.role === 'owner' || account.role === 'builder';
        const attention: Attention[] = [];
        for (const matter of MATTERS)
          if (builds || matter.seenBy === 'everybody') attention.push(...(await matter.of(db, now)));
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
        // The worst first.
        attention.sort((one, other) => WEIGHTS.indexOf(one.weight) - WEIGHTS.indexOf(other.weight));
        return { attention, day: day.rows[0]! };
      },
    }),
  ];
}
