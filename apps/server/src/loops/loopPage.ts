import { differences, problemsOf, type Loop, type Surroundings } from '@dart-loop/core';
import type { DraftConflict, LoopPage, LoopState } from '@dart-loop/contract';
import type { Connection } from '../platform/db/pool';
import { surroundingsOf } from './surroundings';
import type { Threads } from '../platform/threads/threads';
import { notFound, Problem } from '../platform/problem';
import { outside } from '../http/route';

export interface StoredLoop {
  id: string;
  draft: Loop;
  draft_revision: number;
  draft_saved_at: Date;
  saved_by: string | null;
  live_version: number | null;
  live: Loop | null;
  state: 'live' | 'paused' | 'stopped';
  archived_at: Date | null;
  scheduled_at: Date | null;
  scheduled_by: string | null;
  schedule_failed: string | null;
  published_at: Date | null;
  published_by: string | null;
}
export const STORED = `
  select l.id, l.draft, l.draft_revision, l.draft_saved_at, s.name as saved_by, l.live_version,
    v.loop as live, v.published_at, p.name as published_by,
    l.state, l.archived_at, l.scheduled_at, c.name as scheduled_by, l.schedule_failed
  from loop l
  left join loop_version v on v.client_id = l.client_id and v.loop_id = l.id and v.version = l.live_version
  left join account s on s.id = l.draft_saved_by
  left join account p on p.id = v.published_by
  left join account c on c.id = l.scheduled_by`;

export async function storedLoop(
  db: Connection,
  clientId: number,
  loopId: string,
  lock = '',
): Promise<StoredLoop> {
  const { rows } = await db.query<StoredLoop>(`${STORED} where l.client_id = $1 and l.id = $2 ${lock}`, [
    clientId,
    loopId,
  ]);
  if (!rows[0]) throw notFound('loop');
  return rows[0];
}

export const stateOf = ({ live_version, state, archived_at }: StoredLoop): LoopState =>
  archived_at ? 'archived' : live_version === null ? 'never published' : state;

/** Everything the workbench shows of a loop, as what a handler returns. */
export async function loopPage(
  db: Connection,
  clientId: number,
  loopId: string,
  threads: Threads,
): Promise<unknown> {
  const stored = await storedLoop(db, clientId, loopId);
  const known = await surroundingsOf(db, clientId, loopId);
  const onTheWay = await db.query<{ step: string | null; people: number }>(
    `
      select state -> 'at' ->> 'step' as step, count(*)::int as people from run
      where client_id = $1 and loop_id = $2 and status = 'under way' group by 1`,
    [clientId, loopId],
  );
  const reached = await db.query<{ step: string; people: number }>(
    `
     select step, count(distinct conversation_id)::int as people
     from run, jsonb_array_elements_text(state -> 'reached') as step
     where client_id = $1 and loop_id = $2 group by step`,
    [clientId, loopId],
  );
  const page = {
    id: stored.id,
    revision: stored.draft_revision,
    draft: stored.draft,
    savedAt: stored.draft_saved_at.toISOString(),
    savedBy: stored.saved_by,
    state: stateOf(stored),
    live:
      stored.live_version === null
        ? null
        : {
            version: stored.live_version,
            publishedAt: stored.published_at!.toISOString(),
            publishedBy: stored.published_by,
          },
    scheduled: stored.scheduled_at
      ? { at: stored.scheduled_at.toISOString(), by: stored.scheduled_by }
      : null,
    scheduleFailed: stored.schedule_failed,
    differences: stored.live ? differences(stored.live, stored.draft) : ['everything is new'],
    peopleInIt: onTheWay.rows.reduce((sum, { people }) => sum + people, 0),
    onTheWay: Object.fromEntries(
      onTheWay.rows.flatMap(({ step, people }) => (step === null ? [] : [[step, people]])),
    ),
    reached: Object.fromEntries(reached.rows.map((row) => [row.step, row.people])),
    lines: known.lines as LoopPage['lines'],
    brief: known.brief as Record<string, string>,
    files: known.files as Record<string, string>,
    fields: Object.entries(known.types).map(([key, type]) => ({
      key,
      type,
      name: known.fieldNames[key] ?? key,
    })),
  };
  return outside(async (): Promise<LoopPage> => ({
    ...page,
    problems: await problemsIn(threads, stored.draft, known),
  }));
}

/** Steps up to which the problems of a draft are quicker found than handed to a thread. */
const FEW_STEPS = 60;
const isSmall = ({ scenes }: Loop) => scenes.reduce((sum, { steps }) => sum + steps.length, 0) <= FEW_STEPS;

const problemsIn = (threads: Threads, draft: Loop, known: Surroundings) =>
  isSmall(draft) ? problemsOf(draft, known) : threads.run('problemsIn', { draft, known });

/** How many problems each of some drafts has. */
export const countsOfProblems = (
  threads: Threads,
  drafts: Loop[],
  known: Surroundings,
): number[] | Promise<number[]> =>
  drafts.every(isSmall)
    ? drafts.map((draft) => problemsOf(draft, known).length)
    : threads.run('countProblems', { drafts, known });

export function conflict(stored: StoredLoop): Problem {
  const body: DraftConflict = {
    revision: stored.draft_revision,
    draft: stored.draft,
    savedBy: stored.saved_by,
  };
  return new Problem(
    409,
    'Changed meanwhile',
    `${stored.saved_by ?? 'Somebody'} saved this draft after you opened it. Nothing of yours was written over theirs.`,
    { ...body },
  );
}
