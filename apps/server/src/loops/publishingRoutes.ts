import {
  ChangeState,
  Archive,
  Publish,
  RollBack,
  type LoopEvent,
  type VersionRow,
} from '@dart-loop/contract';
import type { Clock } from '../platform/clock';
import { toJson } from '../platform/db/json';
import type { Connection } from '../platform/db/pool';
import { audit } from '../platform/db/audit';
import type { Threads } from '../platform/threads/threads';
import { cuesChanged } from './cueRevision';
import { endSchedule, mayBePublished, publishLoop } from './publish';
import { surroundingsOf } from './surroundings';
import { conflict, loopPage, storedLoop } from './loopPage';
import { Problem } from '../platform/problem';
import { asking, route, type Asked } from '../http/route';

/**
 * Asks the lane to put everybody who is on the way on another version onto this one; each is moved in their
 * conversation's turn.
 */
async function moveRuns(
  db: Connection,
  clientId: number,
  loopId: string,
  version: number,
  now: number,
): Promise<void> {
  await db.query(
    `
     insert into pending (client_id, line_id, conversation_id, event_id, place, ready_at, happened_at, body)
     select r.client_id, c.line_id, r.conversation_id, null, null, $4, $4,
       jsonb_build_object('incoming', jsonb_build_object('kind', 'move', 'runId', r.id, 'version', $3::int))
     from run r join conversation c on c.client_id = r.client_id and c.id = r.conversation_id
     where r.client_id = $1 and r.loop_id = $2 and r.status = 'under way' and r.version <> $3`,
    [clientId, loopId, version, new Date(now)],
  );
}

/** Asks the lane to end everybody who is on the way; each in their conversation's turn. */
async function stopRuns(db: Connection, clientId: number, loopId: string, now: number): Promise<void> {
  await db.query(
    `
     insert into pending (client_id, line_id, conversation_id, event_id, place, ready_at, happened_at, body)
     select r.client_id, c.line_id, r.conversation_id, null, null, $3, $3,
       jsonb_build_object('incoming', jsonb_build_object('kind', 'stop', 'runId', r.id))
     from run r join conversation c on c.client_id = r.client_id and c.id = r.conversation_id
     where r.client_id = $1 and r.loop_id = $2 and r.status = 'under way'`,
    [clientId, loopId, new Date(now)],
  );
}

const STATE_WORDS = { live: 'resumed a loop', paused: 'paused a loop', stopped: 'stopped a loop' } as const;

/** From draft to live and back: publishing, now or later, versions, pausing, stopping, archiving. */
export function publishingRoutes(
  clock: Clock,
  tell: (clientIds: number[]) => void,
  wake: () => void,
  threads: Threads,
) {
  const changed = ({ client, afterwards }: Pick<Asked<unknown, unknown>, 'client' | 'afterwards'>) =>
    afterwards(() => tell([client.id]));
  return [
    route({
      method: 'post',
      path: '/clients/:client/loops/:loopId/publish',
      may: 'change loops',
      body: Publish,
      async handle(asked) {
        const { db, client, account, params, body } = asked;
        const seen = await storedLoop(db, client.id, params.loopId!);
        if (seen.draft_revision !== body.revision) throw conflict(seen);
        const known = await surroundingsOf(db, client.id, seen.id);
        return asking(
          () => threads.run('examineLoop', { draft: seen.draft, known }),
          async (later, examined) => {
            const stored = await storedLoop(later, client.id, params.loopId!, 'for no key update of l');
            if (stored.draft_revision !== body.revision) throw conflict(stored);
            if (stored.archived_at)
              throw new Problem(
                409,
                'Not published',
                'The loop is archived; take it out of the archive first.',
              );
            const now = clock.now();
            if (body.at === undefined) {
              await publishLoop(later, client.id, account.id, stored, examined, now);
              await later.query("update loop set state = 'live' where client_id = $1 and id = $2", [
                client.id,
                stored.id,
              ]);
              await endSchedule(later, client.id, stored.id);
            } else {
              const at = new Date(body.at);
              if (at.getTime() <= now)
                throw new Problem(
                  422,
                  'Not scheduled',
                  `${at.toISOString()} has gone by; choose a time ahead.`,
                );
              mayBePublished(examined);
              await later.query(
                `
                  update loop
                  set scheduled = $3, scheduled_at = $4, scheduled_by = $5, schedule_failed = null
                  where client_id = $1 and id = $2`,
                [client.id, stored.id, toJson(stored.draft), at, account.id],
              );
              await audit(later, client.id, account.id, now, 'scheduled a loop', {
                loopId: stored.id,
                for: at.toISOString(),
              });
            }
            changed(asked);
            return loopPage(later, client.id, stored.id, threads);
          },
        );
      },
    }),
    route({
      method: 'post',
      path: '/clients/:client/loops/:loopId/unschedule',
      may: 'change loops',
      async handle(asked) {
        const { db, client, account, params } = asked;
        await storedLoop(db, client.id, params.loopId!);
        await endSchedule(db, client.id, params.loopId!);
        await audit(db, client.id, account.id, clock.now(), 'took a schedule back', {
          loopId: params.loopId,
        });
        changed(asked);
        return loopPage(db, client.id, params.loopId!, threads);
      },
    }),
    route({
      method: 'post',
      path: '/clients/:client/loops/:loopId/state',
      may: 'change loops',
      body: ChangeState,
      async handle(asked) {
        const { db, client, account, params, body } = asked;
        const stored = await storedLoop(db, client.id, params.loopId!, 'for no key update of l');
        if (stored.live_version === null)
          throw new Problem(
            409,
            'Not changed',
            'The loop was never published, so there is nothing to pause or stop.',
          );
        if (stored.archived_at)
          throw new Problem(409, 'Not changed', 'The loop is archived; take it out of the archive first.');
        const now = clock.now();
        await db.query('update loop set state = $3 where client_id = $1 and id = $2', [
          client.id,
          stored.id,
          body.state,
        ]);
        await cuesChanged(db, client.id);
        if (body.state === 'stopped') await stopRuns(db, client.id, stored.id, now);
        await audit(db, client.id, account.id, now, STATE_WORDS[body.state], { loopId: stored.id });
        changed(asked);
        asked.afterwards(wake);
        return loopPage(db, client.id, stored.id, threads);
      },
    }),
    route({
      method: 'post',
      path: '/clients/:client/loops/:loopId/archive',
      may: 'change loops',
      body: Archive,
      async handle(asked) {
        const { db, client, account, params, body } = asked;
        const stored = await storedLoop(db, client.id, params.loopId!, 'for no key update of l');
        if (body.archived && stored.live_version !== null && stored.state !== 'stopped')
          throw new Problem(
            409,
            'Not archived',
            'The loop still runs; stop it first, so that it is clear what becomes of the people in it.',
          );
        await db.query('update loop set archived_at = $3 where client_id = $1 and id = $2', [
          client.id,
          stored.id,
          body.archived ? new Date(clock.now()) : null,
        ]);
        await audit(
          db,
          client.id,
          account.id,
          clock.now(),
          body.archived ? 'archived a loop' : 'took a loop out of the archive',
          {
            loopId: stored.id,
          },
        );
        changed(asked);
        return loopPage(db, client.id, stored.id, threads);
      },
    }),
    route({
      method: 'get',
      path: '/clients/:client/loops/:loopId/history',
      may: 'see loops',
      async handle({ db, client, params }): Promise<LoopEvent[]> {
        await storedLoop(db, client.id, params.loopId!);
        const { rows } = await db.query<{
          at: Date;
          name: string | null;
          what: string;
          detail: { version?: number; for?: string };
        }>(
          `select u.at, a.name, u.what, u.detail from audit u left join account a on a.id = u.account_id
           where u.client_id = $1 and u.detail ->> 'loopId' = $2 order by u.id desc limit 200`,
          [client.id, params.loopId],
        );
        return rows.map(({ at, name, what, detail }) => ({
          at: at.toISOString(),
          by: name,
          words: `${what}${detail.version === undefined ? '' : `, version ${detail.version}`}${detail.for === undefined ? '' : `, for ${detail.for}`}`,
        }));
      },
    }),
    route({
      method: 'get',
      path: '/clients/:client/loops/:loopId/versions',
      may: 'see loops',
      async handle({ db, client, params }): Promise<VersionRow[]> {
        const { live_version } = await storedLoop(db, client.id, params.loopId!);
        const { rows } = await db.query<{
          version: number;
          changes: string[];
          published_at: Date;
          published_by: string | null;
          in_it: number;
        }>(
          `
           select v.version, v.changes, v.published_at, a.name as published_by,
             (select count(*) from run r where r.client_id = v.client_id and r.loop_id = v.loop_id
               and r.version = v.version and r.status = 'under way')::int as in_it
           from loop_version v left join account a on a.id = v.published_by
           where v.client_id = $1 and v.loop_id = $2 order by v.version desc limit 200`,
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
        const { live_version } = await storedLoop(db, client.id, params.loopId!);
        if (live_version === null)
          throw new Problem(
            409,
            'Nobody moved',
            'The loop was never published, so there is no version to move people to.',
          );
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
        await storedLoop(db, client.id, params.loopId!, 'for no key update of l');
        const back = await db.query(
          `
            update loop set live_version = $3
            where client_id = $1 and id = $2 and exists (select from loop_version v
              where v.client_id = $1 and v.loop_id = $2 and v.version = $3)`,
          [client.id, params.loopId, body.version],
        );
        if (back.rowCount === 0)
          throw new Problem(404, 'Not found', `The loop has no version ${body.version}.`);
        await cuesChanged(db, client.id);
        await audit(db, client.id, account.id, clock.now(), 'rolled a loop back', {
          loopId: params.loopId,
          version: body.version,
        });
        changed(asked);
        return loopPage(db, client.id, params.loopId!, threads);
      },
    }),
  ];
}
