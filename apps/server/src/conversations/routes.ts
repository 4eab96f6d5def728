import { type Standing } from '@dart-loop/core';
import { shownName } from '@dart-loop/core/people/shownName';
import {
  ConversationAct,
  ConversationQuery,
  InboxQuery,
  type InboxPage,
  type InboxRow,
} from '@dart-loop/contract';
import type { Clock } from '../platform/clock';
import { audit } from '../platform/db/audit';
import { toJson } from '../platform/db/json';
import { WHO, pageKey, readPageKey } from '../http/pages';
import { Problem, notFound } from '../platform/problem';
import { route } from '../http/route';
import { conversationPage } from './conversationPage';

const SHELF = { waiting: 'waiting on us', running: 'running', settled: 'settled' } as const;
const ROWS = 50;

export function inboxRoutes(clock: Clock, wake: () => void) {
  return [
    route({
      method: 'get',
      path: '/inbox',
      may: 'see conversations',
      query: InboxQuery,
      async handle({ db, query }): Promise<InboxPage> {
        const counts = await db.query<InboxPage['counts']>(
          `
           select count(*) filter (where shelf = 'waiting on us')::int as waiting,
             count(*) filter (where shelf = 'running')::int as running,
             count(*) filter (where shelf = 'settled')::int as settled
           from conversation c join client k on k.id = c.client_id
           where ($1::text is null or k.slug = $1) and c.seq > 0`,
          [query.client ?? null],
        );
        const from = query.before ? readPageKey(query.before) : null;
        const { rows } = await db.query<
          Omit<InboxRow, 'client' | 'lastAt' | 'waitingSince' | 'held'> & {
            held: Standing['held'] | null;
            slug: string;
            client_name: string;
            last_at: Date;
            waiting_since: Date | null;
          }
        >(
          `
           select k.slug, k.name as client_name, c.id, ${WHO} as who, l.channel, c.last_words as "lastWords",
             c.last_at, c.waiting_since, c.standing -> 'held' as held, o.name as loop
           from conversation c
           join client k on k.id = c.client_id
           join line l on l.client_id = c.client_id and l.id = c.line_id
           left join person p on p.client_id = c.client_id and p.id = c.person_id
           left join identity i on i.client_id = c.client_id and i.id = c.id
           left join run r on r.client_id = c.client_id and r.id = c.run_id
           left join loop o on o.client_id = r.client_id and o.id = r.loop_id
           where c.shelf = $1 and ($2::text is null or k.slug = $2) and c.seq > 0
             and ($3::timestamptz is null or (c.last_at, c.id) < ($3, $4::uuid))
           order by c.last_at desc, c.id desc limit ${ROWS + 1}`,
          [SHELF[query.shelf], query.client ?? null, from?.at ?? null, from?.id ?? null],
        );
        const last = rows.length > ROWS ? rows[ROWS - 1] : undefined;
        return {
          counts: counts.rows[0]!,
          rows: rows.slice(0, ROWS).map(({ slug, client_name, last_at, waiting_since, held, ...row }) => ({
            ...row,
            who: shownName(row.who),
            held: held && { by: held.by, team: held.team },
            client: { slug, name: client_name },
            lastAt: last_at.toISOString(),
            waitingSince: waiting_since?.toISOString() ?? null,
          })),
          next: last ? pageKey(last.last_at, last.id) : null,
        };
      },
    }),
    route({
      method: 'get',
      path: '/clients/:client/conversations/:conversationId',
      may: 'see conversations',
      query: ConversationQuery,
      handle: ({ db, client, params, query }) =>
        conversationPage(db, client.id, params.conversationId!, query.before),
    }),
    route({
      method: 'post',
      path: '/clients/:client/conversations/:conversationId/acts',
      may: 'answer conversations',
      body: ConversationAct,
      /** Goes through the conversation's lane like everything else, so that nobody overtakes anybody. */
      async handle({ db, client, account, params, body, afterwards }) {
        const { rows } = await db.query<{ line_id: number; standing: Partial<Standing>; connected: boolean }>(
          `
            select c.line_id, c.standing, l.secrets is not null as connected from conversation c
            join line l on l.client_id = c.client_id and l.id = c.line_id
            where c.client_id = $1 and c.id = $2`,
          [client.id, params.conversationId],
        );
        const found = rows[0];
        if (!found) throw notFound('conversation');
        if (body.do === 'write' && found.standing.optedOut)
          throw new Problem(
            409,
            'Not sent',
            'The person has opted out of this line; nothing may be sent until they write START.',
          );
        if (body.do === 'write' && !found.connected)
          throw new Problem(409, 'Not sent', 'The line is disconnected; connect it again first.');
        const by = account.name;
        const incoming =
          body.do === 'write'
            ? { kind: 'write', by, text: body.text }
            : body.do === 'step in'
              ? { kind: 'step in', by }
              : { kind: 'hand back', by, how: body.how };
        const at = new Date(clock.now());
        await db.query(
          `
            insert into pending (client_id, line_id, conversation_id, event_id, place, ready_at,
              happened_at, body) values ($1, $2, $3, null, null, $4, $4, $5)`,
          [client.id, found.line_id, params.conversationId, at, toJson({ incoming })],
        );
        await audit(db, client.id, account.id, clock.now(), `conversation: ${body.do}`, {
          conversationId: params.conversationId,
        });
        afterwards(wake);
      },
    }),
  ];
}
