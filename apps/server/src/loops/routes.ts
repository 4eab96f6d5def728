import { adQuestions, cueWords, differences, type LineAddress, type Loop } from '@dart-loop/core';
import { slug } from '@dart-loop/core/language/slug';
import { waysIn } from '@dart-loop/core/channels/waysIn';
import { writeLoopFile } from '@dart-loop/core/loops/file/loopFile';
import {
  ExportAs,
  Here,
  ImportLoop,
  NewLoop,
  SaveDraft,
  type LoopRow,
  type LoopSurroundings,
  type Passages,
  type SomebodyHere,
  type WaysInPage,
} from '@dart-loop/contract';
import type { Clock } from '../platform/clock';
import { toJson } from '../platform/db/json';
import type { Connection } from '../platform/db/pool';
import { newId } from '../platform/ids';
import { audit } from '../platform/db/audit';
import type { Threads } from '../platform/threads/threads';
import { surroundingsOf } from './surroundings';
import { wayPicture } from './wayPictures';
import {
  conflict,
  countsOfProblems,
  loopPage,
  stateOf,
  STORED,
  storedLoop,
  type StoredLoop,
} from './loopPage';
import { Problem } from '../platform/problem';
import { asking, outside, route, type Asked } from '../http/route';

/** A further loop, as a draft; gives its id. */
export async function addLoop(
  db: Connection,
  clientId: number,
  accountId: number,
  loop: Loop,
  now: number,
): Promise<string> {
  const id = newId(now);
  await db.query(
    `
      insert into loop (client_id, id, name, position, draft, draft_saved_at, draft_saved_by)
      values ($1, $2, $3, (select coalesce(max(position), 0) + 1 from loop where client_id = $1), $4, $5,
        $6)`,
    [clientId, id, loop.name, toJson(loop), new Date(now), accountId],
  );
  return id;
}

export function loopRoutes(
  clock: Clock,
  tell: (clientIds: number[]) => void,
  tellHere: (clientId: number, here: SomebodyHere) => void,
  threads: Threads,
  address: () => string,
) {
  const changed = ({ client, afterwards }: Pick<Asked<unknown, unknown>, 'client' | 'afterwards'>) =>
    afterwards(() => tell([client.id]));
  return [
    route({
      method: 'get',
      path: '/clients/:client/loops',
      may: 'see loops',
      async handle({ client, db }) {
        const known = await surroundingsOf(db, client.id, null);
        const stored = (
          await db.query<StoredLoop>(`${STORED} where l.client_id = $1 order by l.position, l.id`, [
            client.id,
          ])
        ).rows;
        const counts = await db.query<{ loop_id: string; in_it: number; finished: number }>(
          `
           select loop_id, count(*) filter (where status = 'under way')::int as in_it,
             count(*) filter (where status = 'finished' and ended_at > $2)::int as finished
           from run where client_id = $1 group by loop_id`,
          [client.id, new Date(clock.now() - 7 * 86_400_000)],
        );
        const countOf = new Map(counts.rows.map((row) => [row.loop_id, row]));
        const rows = stored.map((each) => ({
          id: each.id,
          name: each.draft.name,
          cues: each.draft.cues.map(cueWords),
          state: stateOf(each),
          liveVersion: each.live_version,
          draftAhead: each.live !== null && differences(each.live, each.draft).length > 0,
          peopleInIt: countOf.get(each.id)?.in_it ?? 0,
          finishedThisWeek: countOf.get(each.id)?.finished ?? 0,
        }));
        const drafts = stored.map(({ draft }) => draft);
        const { types, brief, lines } = known;
        return outside(async (): Promise<LoopRow[]> => {
          const counts = await countsOfProblems(threads, drafts, { types, brief, lines });
          return rows.map((row, at) => ({ ...row, problems: counts[at]! }));
        });
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
        const id = await addLoop(asked.db, asked.client.id, asked.account.id, loop, clock.now());
        await audit(asked.db, asked.client.id, asked.account.id, clock.now(), 'made a loop', {
          loopId: id,
          name: loop.name,
        });
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
        const { client, account, body } = asked;
        return asking(
          () => threads.run('readLoop', { file: body.file }),
          async (db, read) => {
            if (!read.ok)
              throw new Problem(
                422,
                'The file was not taken in',
                read.problems
                  .slice(0, 20)
                  .map((problem) => `Line ${problem.line}, column ${problem.column}: ${problem.reason}`)
                  .join(' '),
                { problems: read.problems },
              );
            const id = await addLoop(db, client.id, account.id, read.loop, clock.now());
            await audit(db, client.id, account.id, clock.now(), 'imported a loop', {
              loopId: id,
              name: read.loop.name,
            });
            changed(asked);
            return { id };
          },
        );
      },
    }),
    route({
      method: 'get',
      path: '/clients/:client/loops/:loopId',
      may: 'see loops',
      handle: ({ client, params, db }) => loopPage(db, client.id, params.loopId!, threads),
    }),
    route({
      method: 'put',
      path: '/clients/:client/loops/:loopId/draft',
      may: 'change loops',
      body: SaveDraft,
      async handle(asked) {
        const { db, client, account, params, body } = asked;
        const saved = await db.query(
          `
            update loop set draft = $4, name = $5, draft_revision = draft_revision + 1, draft_saved_at = $6,
              draft_saved_by = $7 where client_id = $1 and id = $2 and draft_revision = $3`,
          [
            client.id,
            params.loopId,
            body.revision,
            toJson(body.loop),
            body.loop.name,
            new Date(clock.now()),
            account.id,
          ],
        );
        if (saved.rowCount === 0) throw conflict(await storedLoop(db, client.id, params.loopId!));
        await auditDraft(asked, clock.now());
        changed(asked);
        return loopPage(db, client.id, params.loopId!, threads);
      },
    }),
    route({
      method: 'get',
      path: '/clients/:client/loops/:loopId/ways-in',
      may: 'see loops',
      async handle({ db, client, params }): Promise<WaysInPage> {
        const { live, draft } = await storedLoop(db, client.id, params.loopId!);
        const { rows: lines } = await db.query<LineAddress>(
          `
            select key, name, channel, account from line where client_id = $1 and secrets is not null
            order by id`,
          [client.id],
        );
        const channelOf = new Map(lines.map((line) => [line.key, line.channel]));
        const { brief } = await surroundingsOf(db, client.id, params.loopId!);
        return {
          client: client.name,
          adQuestions: live ? adQuestions(live, { name: client.name, brief }) : null,
          loop: (live ?? draft).name,
          ways: live
            ? waysIn(live, lines).map((way) => ({
                ...way,
                channel: channelOf.get(way.lineKey)!,
                picture: way.link && wayPicture(address(), params.loopId!, way.lineKey, way.cueId),
              }))
            : [],
        };
      },
    }),
    route({
      method: 'get',
      path: '/clients/:client/loops/:loopId/file',
      may: 'see loops',
      query: ExportAs,
      async handle({ db, client, params, query, response }) {
        const stored = await storedLoop(db, client.id, params.loopId!);
        const name = `${slug(stored.draft.name, '-') || 'loop'}.${query.as}`;
        response
          .type(query.as === 'json' ? 'application/json' : 'application/yaml')
          .set('content-disposition', `attachment; filename="${name}"`)
          .send(writeLoopFile(stored.draft, query.as));
      },
    }),
    route({
      method: 'get',
      path: '/clients/:client/loops/:loopId/surroundings',
      may: 'see loops',
      async handle({ db, client, params }): Promise<LoopSurroundings> {
        await storedLoop(db, client.id, params.loopId!);
        return surroundingsOf(db, client.id, params.loopId!, clock.now());
      },
    }),
    route({
      method: 'get',
      path: '/clients/:client/loops/:loopId/passages',
      may: 'see loops',
      async handle({ db, client, params }): Promise<Passages> {
        await storedLoop(db, client.id, params.loopId!);
        const { rows } = await db.query<{ pair: string; people: number }>(
          `
           with reached as (
             select r.id, r.conversation_id, r.status, step, place, lead(step) over (partition by r.id
               order by place) as next
             from run r, jsonb_array_elements_text(r.state -> 'reached') with ordinality as s (step, place)
             where r.client_id = $1 and r.loop_id = $2)
           select step || '>' || coalesce(next, '') as pair, count(distinct conversation_id)::int as people
           from reached where next is not null or status = 'finished' group by 1`,
          [client.id, params.loopId],
        );
        return { passed: Object.fromEntries(rows.map(({ pair, people }) => [pair, people])) };
      },
    }),
    route({
      method: 'post',
      path: '/clients/:client/loops/:loopId/here',
      untraced: 'it tells the other screens who is looking, and is stored nowhere',
      may: 'see loops',
      body: Here,
      async handle({ db, account, client, params, body, afterwards }) {
        await storedLoop(db, client.id, params.loopId!);
        afterwards(() => tellHere(client.id, { loopId: params.loopId!, name: account.name, ...body }));
      },
    }),
    route({
      method: 'post',
      path: '/clients/:client/loops/:loopId/duplicate',
      may: 'change loops',
      async handle(asked) {
        const { db, client, account, params } = asked;
        const { draft } = await storedLoop(db, client.id, params.loopId!);
        const taken = new Set(
          (
            await db.query<{ name: string }>('select name from loop where client_id = $1', [client.id])
          ).rows.map(({ name }) => name),
        );
        let name = `${draft.name.slice(0, 70)}, again`;
        for (let n = 2; taken.has(name); n++) name = `${draft.name.slice(0, 66)}, again ${n}`;
        const id = await addLoop(db, client.id, account.id, { ...draft, name }, clock.now());
        await audit(db, client.id, account.id, clock.now(), 'duplicated a loop', {
          loopId: id,
          from: params.loopId,
          name,
        });
        changed(asked);
        return { id };
      },
    }),
  ];
}

/** A draft is saved as it is typed: one line of the audit says so for each person, loop and ten minutes. */
const DRAFT_GATHERS_MS = 10 * 60_000;

async function auditDraft(
  { db, client, account, params }: Pick<Asked<unknown, unknown>, 'db' | 'client' | 'account' | 'params'>,
  now: number,
): Promise<void> {
  const what = 'wrote in a draft';
  const { rowCount } = await db.query(
    `
      select from audit where client_id = $1 and at > $2 and account_id = $3 and what = $4
        and detail ->> 'loopId' = $5 limit 1`,
    [client.id, new Date(now - DRAFT_GATHERS_MS), account.id, what, params.loopId],
  );
  if (!rowCount) await audit(db, client.id, account.id, now, what, { loopId: params.loopId });
}
