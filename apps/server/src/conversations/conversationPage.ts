import {
  type ChannelKind,
  stageWords,
  type Candidate,
  type Loop,
  type Note,
  type Standing,
  type Value,
  type Via,
} from '@dart-loop/core';
import { shownName, shownValue } from '@dart-loop/core/people/shownName';
import { type ConversationPage, type Entry } from '@dart-loop/contract';
import { WHO } from '../http/pages';
import { notFound } from '../platform/problem';

import type { Connection } from '../platform/db/pool';

const ENTRIES = 120;

/** How what came in is shown. */
const HOW: Record<string, Extract<Entry, { kind: 'in' }>['how']> = {
  tap: 'tapped',
  comment: 'commented',
  'wrote elsewhere': 'elsewhere',
};

/** A conversation as the inbox shows it: what was said before `earlier`, the latest at the end. */
export async function conversationPage(
  db: Connection,
  clientId: number,
  conversationId: string,
  earlier?: number,
): Promise<ConversationPage> {
  const { rows } = await db.query<{
    who: string;
    channel: ChannelKind;
    line: string;
    shelf: ConversationPage['shelf'];
    waiting_since: Date | null;
    person_id: string | null;
    fields: Record<string, Value> | null;
    tags: string[] | null;
    loop_id: string | null;
    loop: string | null;
    standing: Partial<Standing>;
    scenes: { id: string; name: string }[] | null;
  }>(
    `
     select ${WHO} as who, l.channel, l.name as line, c.shelf, c.waiting_since, c.person_id, p.fields,
       p.tags, c.standing, o.id as loop_id, o.name as loop, v.loop -> 'scenes' as scenes
     from conversation c
     join line l on l.client_id = c.client_id and l.id = c.line_id
     left join person p on p.client_id = c.client_id and p.id = c.person_id
     left join identity i on i.client_id = c.client_id and i.id = c.id
     left join run r on r.client_id = c.client_id and r.id = c.run_id
     left join loop o on o.client_id = r.client_id and o.id = r.loop_id
     left join loop_version v on v.client_id = r.client_id and v.loop_id = r.loop_id
       and v.version = r.version
     where c.client_id = $1 and c.id = $2`,
    [clientId, conversationId],
  );
  const found = rows[0];
  if (!found) throw notFound('conversation');
  const names = await db.query<{ key: string; name: string }>(
    'select key, name from field where client_id = $1',
    [clientId],
  );
  const nameOf = new Map(names.rows.map((row) => [row.key, row.name]));
  const { entries, before } = await entriesOf(db, clientId, conversationId, earlier);
  return {
    id: conversationId,
    who: shownName(found.who),
    channel: found.channel,
    line: { name: found.line },
    shelf: found.shelf,
    waitingSince: found.waiting_since?.toISOString() ?? null,
    person: found.person_id
      ? {
          id: found.person_id,
          fields: Object.entries(found.fields ?? {}).map(([key, value]) => ({
            key,
            name: nameOf.get(key) ?? key,
            words: shownValue(value),
          })),
          tags: found.tags ?? [],
        }
      : null,
    loop: found.loop_id
      ? {
          id: found.loop_id,
          name: found.loop!,
          scenes: ((found.scenes ?? []) as Loop['scenes']).map(({ id, name }) => ({ id, name })),
        }
      : null,
    held: found.standing.held
      ? {
          by: found.standing.held.by,
          since: new Date(found.standing.held.since).toISOString(),
          team: found.standing.held.team,
          note: found.standing.held.note,
        }
      : null,
    optedOut: found.standing.optedOut ?? false,
    entries,
    before,
  };
}

/** What was said and decided, in its order. */
async function entriesOf(
  db: Connection,
  clientId: number,
  conversationId: string,
  earlier?: number,
): Promise<Pick<ConversationPage, 'entries' | 'before'>> {
  const before = earlier ?? 2_147_483_647;
  const log = await db.query<{
    seq: number;
    id: string;
    at: Date;
    kind: 'decision' | 'message';
    event_id: string | null;
    event: { words: string; incoming: { kind: string; postId?: string } } | null;
    post: string | null;
    via: { kind: Via['kind'] } | null;
    delivered_at: Date | null;
    read_at: Date | null;
    candidates: Candidate[] | null;
    notes: Note[] | null;
    body: unknown;
    status: string;
    sent_at: Date | null;
    attempts: number;
    failure: { reason: string; remedy: string } | null;
    by_hand: string | null;
  }>(
    `(select d.seq, d.id, coalesce(e.happened_at, d.happened_at) as at, 'decision' as kind, e.id as event_id, e.body as event, d.candidates, d.notes, null::jsonb as body, null as status, null::timestamptz as sent_at, 0 as attempts, null::jsonb as failure, null as by_hand, o.text as post, null::jsonb as via, null::timestamptz as delivered_at, null::timestamptz as read_at
      from decision d left join event e on e.client_id = d.client_id and e.id = d.event_id
      left join post o on o.client_id = e.client_id and o.line_id = e.line_id and o.id = e.body -> 'incoming' ->> 'postId'
      where d.client_id = $1 and d.conversation_id = $2 and d.seq < $3 order by d.seq desc limit ${ENTRIES})
     union all
     (select m.seq, m.id, m.made_at, 'message', null, null, null, null, m.body, m.status, m.sent_at, m.attempts, m.failure, m.by_hand, null, m.via, m.delivered_at, m.read_at
      from message m where m.client_id = $1 and m.conversation_id = $2 and m.seq < $3 order by m.seq desc limit ${ENTRIES})
     order by seq desc limit ${ENTRIES}`,
    [clientId, conversationId, before],
  );
  // What was tried again was decided more than once, and was said once.
  const shown = new Set<string>();
  const rows = log.rows.reverse();
  const entries = rows.flatMap((row): Entry[] => {
    const base = { id: row.id, seq: row.seq, at: row.at.toISOString() };
    if (row.kind === 'message')
      return [
        {
          ...base,
          kind: 'out',
          body: row.body as never,
          by: row.by_hand,
          status: row.status as 'sent',
          via: row.via?.kind ?? null,
          deliveredAt: row.delivered_at?.toISOString() ?? null,
          readAt: row.read_at?.toISOString() ?? null,
          sentAt: row.sent_at?.toISOString() ?? null,
          attempts: row.attempts,
          failure: row.failure,
        },
      ];
    const stage: Entry = {
      ...base,
      kind: 'stage',
      words: (row.notes ?? []).map(stageWords),
      decision: row.candidates ? { candidates: row.candidates } : null,
    };
    const isNew = row.event_id !== null && !shown.has(row.event_id);
    if (row.event_id !== null) shown.add(row.event_id);
    return row.event && isNew
      ? [
          {
            ...base,
            id: `${row.id}-in`,
            kind: 'in',
            words: row.event.words,
            how: HOW[row.event.incoming.kind] ?? 'said',
            post: row.post,
          },
          stage,
        ]
      : [stage];
  });
  return { entries, before: rows.length === ENTRIES ? rows[0]!.seq : null };
}
