import { adQuestions, cueWords, differences, fieldsOf, problemsOf, type FieldTypes, type LineAddress, type Loop } from '@dart-loop/core';
import { slug } from '@dart-loop/core/words/slug';
import { waysIn } from '@dart-loop/core/channels/waysIn';
import { readLoopFile, writeLoopFile } from '@dart-loop/core/files/loopFile';
import {
  ExportAs,
  ImportLoop,
  NewLoop,
  Publish,
  RollBack,
  SaveDraft,
  type DraftConflict,
  type LoopPage,
  type LoopRow,
  type VersionRow,
  type WaysInPage,
} from '@dart-loop/contract';
import type { Clock } from '../clock';
import type { Connection } from '../db/pool';
import { newId } from '../ids';
import { audit } from '../db/audit';
import { notFound, Problem } from './problem';
import { route, type Asked } from './route';

interface Stored {
  id: string;
  draft: Loop;
  draft_revision: number;
  draft_saved_at: Date;
  saved_by: string | null;
  live_version: number | null;
  live: Loop | null;
  published_at: Date | null;
  published_by: string | null;
}
const STORED = `
  select l.id, l.draft, l.draft_revision, l.draft_saved_at, s.name as saved_by, l.live_version, v.loop as live, v.published_at, p.name as published_by
  from loop l
  left join loop_version v on v.client_id = l.client_id and v.loop_id = l.id and v.version = l.live_version
  left join account s on s.id = l.draft_saved_by
  left join account p on p.id = v.published_by`;

async function known(
  db: Connection,
  clientId: number,
): Promise<{ types: FieldTypes; brief: Record<string, string>; lines: LoopPage['lines']; fields: LoopPage['fields'] }> {
  const fields = (
    await db.query<LoopPage['fields'][number]>('select key, type, name from field where client_id = $1 order by name', [clientId])
  ).rows;
  const lines = (
    await db.query<LoopPage['lines'][number]>('select key, name, channel, templates from line where client_id = $1 order by id', [clientId])
  ).rows;
  const client = await db.query<{ brief: Record<string, string> }>('select brief from client where id = $1', [clientId]);
  return {
    types: Object.fromEntries(fields.map((field) => [field.key, field.type])) as FieldTypes,
    brief: client.rows[0]!.brief,
    lines,
    fields,
  };
}

async function one(db: Connection, clientId: number, loopId: string, lock = ''): Promise<Stored> {
  const { rows } = await db.query<Stored>(`${STORED} where l.client_id = $1 and l.id = $2 ${lock}`, [clientId, loopId]);
  if (!rows[0]) throw notFound('loop');
  return rows[0];
}

async function page(db: Connection, clientId: number, loopId: string): Promise<LoopPage> {
  const stored = await one(db, clientId, loopId);
  const { types, brief, lines, fields } = await known(db, clientId);
  const inIt = await db.query<{ count: number }>(
    "select count(*)::int as count from run where client_id = $1 and loop_id = $2 and status = 'under way'",
    [clientId, loopId],
  );
  const reached = await db.query<{ step: string; people: number }>(
    `select step, count(distinct conversation_id)::int as people from run, jsonb_array_elements_text(state -> 'reached') as step
     where client_id = $1 and loop_id = $2 group by step`,
    [clientId, loopId],
  );
  return {
    id: stored.id,
    revision: stored.draft_revision,
    draft: stored.draft,
    savedAt: stored.draft_saved_at.toISOString(),
    savedBy: stored.saved_by,
    live:
      stored.live_version === null
        ? null
        : { version: stored.live_version, publishedAt: stored.published_at!.toISOString(), publishedBy: stored.published_by },
    differences: stored.live ? differences(stored.live, stored.draft) : ['everything is new'],
    problems: problemsOf(stored.draft, { types, brief, lines, others: await otherLoops(db, clientId, loopId) }),
    peopleInIt: inIt.rows[0]!.count,
    reached: Object.fromEntries(reached.rows.map((row) => [row.step, row.people])),
    lines,
    brief,
    fields,
  };
}

async function add(db: Connection, clientId: number, accountId: number, loop: Loop, now: number): Promise<string> {
  const id = newId(now);
  await db.query(
    'insert into loop (client_id, id, name, position, draft, draft_saved_at, draft_saved_by) values ($1, $2, $3, (select coalesce(max(position), 0) + 1 from loop where client_id = $1), $4, $5, $6)',
    [clientId, id, loop.name, JSON.stringify(loop), new Date(now), accountId],
  );
  return id;
}

/** Freezes the draft as the next version, makes its fields, and lets every worker know. Throws a {@link Problem} when it cannot be published. */
export async function publishLoop(
  db: Connection,
  clientId: number,
  accountId: number | null,
  loopId: string,
  revision: number,
  now: number,
): Promise<number> {
  const stored = await one(db, clientId, loopId, 'for no key update of l');
  if (stored.draft_revision !== revision) throw conflict(stored);
  const { types, brief, lines } = await known(db, clientId);
  const problems = problemsOf(stored.draft, { types, brief, lines, others: await otherLoops(db, clientId, loopId) });
  if (problems.length > 0)
    throw new Problem(
      422,
      'Not published',
      `${problems.length === 1 ? 'One thing stands' : `${problems.length} things stand`} in the way: ${problems.map((problem) => problem.reason).join(' ')}`,
      { problems },
    );
  const changes = stored.live ? differences(stored.live, stored.draft) : ['first version'];
  if (changes.length === 0) throw new Problem(422, 'Not published', 'The draft is the same as the live version.');
  const version = (
    await db.query<{ next: number }>(
      'select coalesce(max(version), 0) + 1 as next from loop_version where client_id = $1 and loop_id = $2',
      [clientId, loopId],
    )
  ).rows[0]!.next;
  await db.query(
    'insert into loop_version (client_id, loop_id, version, loop, changes, published_at, published_by) values ($1, $2, $3, $4, $5, $6, $7)',
    [clientId, loopId, version, JSON.stringify(stored.draft), changes, new Date(now), accountId],
  );
  await db.query('update loop set live_version = $3 where client_id = $1 and id = $2', [clientId, loopId, version]);
  const fields = Object.entries(fieldsOf(stored.draft));
  await db.query(
    'insert into field (client_id, key, type, name) select $1, * from unnest($2::text[], $3::text[], $4::text[]) on conflict do nothing',
    [clientId, fields.map(([key]) => key), fields.map(([, type]) => type), fields.map(([key]) => key.replaceAll('_', ' '))],
  );
  await db.query('update client set cue_revision = cue_revision + 1 where id = $1', [clientId]);
  await audit(db, clientId, accountId, now, 'published a loop', { loopId, version, changes });
  return version;
}

/** The client's other loops: as they are live, or as drafts where they are not yet, so that two can lead to each other. */
async function otherLoops(db: Connection, clientId: number, loopId: string): Promise<Loop[]> {
  const { rows } = await db.query<{ loop: Loop }>(
    'select coalesce(v.loop, l.draft) as loop from loop l left join loop_version v on v.client_id = l.client_id and v.loop_id = l.id and v.version = l.live_version where l.client_id = $1 and l.id <> $2 order by l.position',
    [clientId, loopId],
  );
  return rows.map((row) => row.loop);
}

/** Asks the lane to put everybody who is on the way on another version onto this one; each is moved in their conversation's turn. */
async function moveRuns(db: Connection, clientId: number, loopId: string, version: number, now: number): Promise<void> {
  await db.query(
    `insert into pending (client_id, line_id, conversation_id, event_id, place, ready_at, happened_at, body)
     select r.client_id, c.line_id, r.conversation_id, null, null, $4, $4, jsonb_build_object('incoming', jsonb_build_object('kind', 'move', 'runId', r.id, 'version', $3::int))
     from run r join conversation c on c.client_id = r.client_id and c.id = r.conversation_id
     where r.client_id = $1 and r.loop_id = $2 and r.status = 'under way' and r.version <> $3`,
    [clientId, loopId, version, new Date(now)],
  );
}

function conflict(stored: Stored): Problem {
  const body: DraftConflict = { revision: stored.draft_revision, draft: stored.draft, savedBy: stored.saved_by };
  return new Problem(
    409,
    'Changed meanwhile',
    `${stored.saved_by ?? 'Somebody'} saved this draft after you opened it. Nothing of yours was written over theirs.`,
    { ...body },
  );
}

export function loopRoutes(clock: Clock, tell: (clientIds: number[]) => void, wake: () => void) {
  const changed = ({ client, afterwards }: Pick<Asked<unknown, unknown>, 'client' | 'afterwards'>) => afterwards(() => tell([client.id]));
  return [
    route({
      method: 'get',
      path: '/clients/:client/loops',
      may: 'see loops',
      async handle({ client, db }): Promise<LoopRow[]> {
        const { types, brief, lines } = await known(db, client.id);
        const stored = (await db.query<Stored>(`${STORED} where l.client_id = $1 order by l.position, l.id`, [client.id])).rows;
        const counts = await db.query<{ loop_id: string; in_it: number; finished: number }>(
          `select loop_id, count(*) filter (where status = 'under way')::int as in_it, count(*) filter (where status = 'finished' and ended_at > $2)::int as finished
           from run where client_id = $1 group by loop_id`,
          [client.id, new Date(clock.now() - 7 * 86_400_000)],
        );
        const countOf = new Map(counts.rows.map((row) => [row.loop_id, row]));
        return stored.map((each) => ({
          id: each.id,
          name: each.draft.name,
          cues: each.draft.cues.map(cueWords),
          state: each.live_version === null ? 'never published' : 'live',
          liveVersion: each.live_version,
          draftAhead: each.live !== null && differences(each.live, each.draft).length > 0,
          peopleInIt: countOf.get(each.id)?.in_it ?? 0,
          finishedThisWeek: countOf.get(each.id)?.finished ?? 0,
          problems: problemsOf(each.draft, { types, brief, lines }).length,
        }));
      },
    }),
    route({
      method: 'post',
      path: '/clients/:client/loops',
      may: 'change loops',
      body: NewLoop,
      async handle(asked) {
        const loop: Loop = {
          format: 'dart-loop/1',
          name: asked.body.name,
          lines: [],
          cues: [],
          scenes: [{ id: 'welcome', name: 'Welcome', steps: [] }],
        };
        const id = await add(asked.db, asked.client.id, asked.account.id, loop, clock.now());
        await audit(asked.db, asked.client.id, asked.account.id, clock.now(), 'made a loop', { loopId: id, name: loop.name });
        changed(asked);
        return { id };
      },
    }),
    route({
      method: 'post',
      path: '/clients/:client/loops/import',
      may: 'change loops',
      body: ImportLoop,
      async handle(asked) {
        const read = readLoopFile(asked.body.file);
        if (!read.ok)
          throw new Problem(
            422,
            'The file was not taken in',
            read.problems
              .map((problem) => `Line ${problem.line}, column ${problem.column}: ${problem.reason}`)
              .slice(0, 20)
              .join(' '),
            { problems: read.problems },
          );
        const id = await add(asked.db, asked.client.id, asked.account.id, read.loop, clock.now());
        await audit(asked.db, asked.client.id, asked.account.id, clock.now(), 'imported a loop', { loopId: id, name: read.loop.name });
        changed(asked);
        return { id };
      },
    }),
    route({
      method: 'get',
      path: '/clients/:client/loops/:loopId',
      may: 'see loops',
      handle: ({ client, params, db }) => page(db, client.id, params.loopId!),
    }),
    route({
      method: 'put',
      path: '/clients/:client/loops/:loopId/draft',
      may: 'change loops',
      body: SaveDraft,
      async handle(asked) {
        const { db, client, account, params, body } = asked;
        const saved = await db.query(
          'update loop set draft = $4, name = $5, draft_revision = draft_revision + 1, draft_saved_at = $6, draft_saved_by = $7 where client_id = $1 and id = $2 and draft_revision = $3',
          [client.id, params.loopId, body.revision, JSON.stringify(body.loop), body.loop.name, new Date(clock.now()), account.id],
        );
        if (saved.rowCount === 0) throw conflict(await one(db, client.id, params.loopId!));
        changed(asked);
        return page(db, client.id, params.loopId!);
      },
    }),
    route({
      method: 'post',
      path: '/clients/:client/loops/:loopId/publish',
      may: 'change loops',
      body: Publish,
      async handle(asked) {
        const { db, client, account, params, body } = asked;
        await publishLoop(db, client.id, account.id, params.loopId!, body.revision, clock.now());
        changed(asked);
        return page(db, client.id, params.loopId!);
      },
    }),
    route({
      method: 'get',
      path: '/clients/:client/loops/:loopId/ways-in',
      may: 'see loops',
      async handle({ db, client, params }): Promise<WaysInPage> {
        const { live, draft } = await one(db, client.id, params.loopId!);
        const { rows: lines } = await db.query<LineAddress>(
          'select key, name, channel, account from line where client_id = $1 and secrets is not null order by id',
          [client.id],
        );
        const channelOf = new Map(lines.map((line) => [line.key, line.channel]));
        const brief = (await known(db, client.id)).brief;
        return {
          client: client.name,
          adQuestions: live ? adQuestions(live, { name: client.name, brief }) : null,
          loop: (live ?? draft).name,
          ways: live ? waysIn(live, lines).map((way) => ({ ...way, channel: channelOf.get(way.lineKey)! })) : [],
        };
      },
    }),
    route({
      method: 'get',
      path: '/clients/:client/loops/:loopId/versions',
      may: 'see loops',
      async handle({ db, client, params }): Promise<VersionRow[]> {
        const { live_version } = await one(db, client.id, params.loopId!);
        const { rows } = await db.query<{
          version: number;
          changes: string[];
          published_at: Date;
          published_by: string | null;
          in_it: number;
        }>(
          `select v.version, v.changes, v.published_at, a.name as published_by,
             (select count(*) from run r where r.client_id = v.client_id and r.loop_id = v.loop_id and r.version = v.version and r.status = 'under way')::int as in_it
           from loop_version v left join account a on a.id = v.published_by where v.client_id = $1 and v.loop_id = $2 order by v.version desc limit 200`,
          [client.id, params.loopId],
        );
        return rows.map((row) => ({
          version: row.version,
          changes: row.changes,
          publishedAt: row.published_at.toISOString(),
          publishedBy: row.published_by,
          live: row.version === live_version,
          peopleInIt: row.in_it,
        }));
      },
    }),
    route({
      method: 'post',
      path: '/clients/:client/loops/:loopId/move',
      may: 'change loops',
      async handle(asked) {
        const { db, client, account, params } = asked;
        const { live_version } = await one(db, client.id, params.loopId!);
        if (live_version === null)
          throw new Problem(409, 'Nobody moved', 'The loop was never published, so there is no version to move people to.');
        await moveRuns(db, client.id, params.loopId!, live_version, clock.now());
        await audit(db, client.id, account.id, clock.now(), 'moved people to the live version', {
          loopId: params.loopId,
          version: live_version,
        });
        asked.afterwards(wake);
      },
    }),
    route({
      method: 'post',
      path: '/clients/:client/loops/:loopId/roll-back',
      may: 'change loops',
      body: RollBack,
      async handle(asked) {
        const { db, client, account, params, body } = asked;
        await one(db, client.id, params.loopId!, 'for no key update of l');
        const back = await db.query(
          'update loop set live_version = $3 where client_id = $1 and id = $2 and exists (select from loop_version v where v.client_id = $1 and v.loop_id = $2 and v.version = $3)',
          [client.id, params.loopId, body.version],
        );
        if (back.rowCount === 0) throw new Problem(404, 'Not found', `The loop has no version ${body.version}.`);
        await db.query('update client set cue_revision = cue_revision + 1 where id = $1', [client.id]);
        await audit(db, client.id, account.id, clock.now(), 'rolled a loop back', { loopId: params.loopId, version: body.version });
        changed(asked);
        return page(db, client.id, params.loopId!);
      },
    }),
    route({
      method: 'get',
      path: '/clients/:client/loops/:loopId/file',
      may: 'see loops',
      query: ExportAs,
      async handle({ db, client, params, query, response }) {
        const stored = await one(db, client.id, params.loopId!);
        const name = `${slug(stored.draft.name, '-') || 'loop'}.${query.as}`;
        response
          .type(query.as === 'json' ? 'application/json' : 'application/yaml')
          .set('content-disposition', `attachment; filename="${name}"`)
          .send(writeLoopFile(stored.draft, query.as));
      },
    }),
  ];
}
