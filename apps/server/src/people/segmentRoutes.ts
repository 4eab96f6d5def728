import { conditionWords, conditionsIn, fold, type Condition, type Loop } from '@dart-loop/core';
import {
  ListDefinition,
  SaveSegment,
  SendingSettings,
  type ListRow,
  type SegmentRow,
} from '@dart-loop/contract';
import { z } from 'zod';
import type { Clock } from '../platform/clock';
import { audit } from '../platform/db/audit';
import { toJson } from '../platform/db/json';
import type { Connection } from '../platform/db/pool';
import { newId } from '../platform/ids';
import { cuesChanged } from '../loops/cueRevision';
import { Problem, isTaken, notFound } from '../platform/problem';
import { route } from '../http/route';

/** Segments, lists, and what the client wishes of messages that nobody asked for. */
export function segmentRoutes({
  clock,
  linesChanged,
}: {
  clock: Clock;
  linesChanged: (clientId: number) => void;
}) {
  const segments = async (db: Connection, clientId: number): Promise<SegmentRow[]> => {
    const { rows } = await db.query<{ id: string; name: string; rule: Condition }>(
      'select id, name, rule from segment where client_id = $1 order by name',
      [clientId],
    );
    const { rows: loops } = await db.query<{ name: string; loop: Loop }>(
      'select name, draft as loop from loop where client_id = $1 and archived_at is null',
      [clientId],
    );
    const asks = loops.map(({ name, loop }) => {
      const conditions = [
        ...loop.cues.flatMap((cue) => cue.who ?? []),
        ...loop.scenes.flatMap((scene) =>
          scene.steps.flatMap((step) => (step.kind === 'split' ? step.arms.map((arm) => arm.when) : [])),
        ),
      ];
      return {
        name,
        segments: new Set(
          conditions.flatMap((when) =>
            [...conditionsIn(when)].flatMap((each) => (each.segment === undefined ? [] : fold(each.segment))),
          ),
        ),
      };
    });
    return rows.map((row) => ({
      ...row,
      words: conditionWords(row.rule),
      loops: asks.filter((loop) => loop.segments.has(fold(row.name))).map((loop) => loop.name),
    }));
  };

  const lists = async (db: Connection, clientId: number): Promise<ListRow[]> => {
    const { rows } = await db.query<Omit<ListRow, 'wordings'>>(
      `
       select l.name, l.description, l.double,
         coalesce((select w.words from list_wording w where w.client_id = l.client_id and w.list = l.name
           order by version desc limit 1), '') as wording,
         (select count(*)::int from person_terms t
           where t.client_id = $1 and t.terms @@ quote_literal($1 || ':l:' || l.name)::tsquery) as members
       from list l where l.client_id = $1 order by l.name`,
      [clientId],
    );
    const { rows: wordings } = await db.query<{
      list: string;
      version: number;
      words: string;
      at: Date;
      by: string | null;
    }>(
      `
        select w.list, w.version, w.words, w.at, a.name as by from list_wording w
        left join account a on a.id = w.by where w.client_id = $1 order by w.version desc`,
      [clientId],
    );
    return rows.map((row) => ({
      ...row,
      wordings: wordings
        .filter((each) => each.list === row.name)
        .map(({ list: _list, at, ...wording }) => ({ ...wording, at: at.toISOString() })),
    }));
  };

  /** Keeps the wording as a new version, where it is another than the last. */
  const word = async (
    db: Connection,
    clientId: number,
    accountId: number,
    { name, wording }: ListDefinition,
  ) => {
    const { rows } = await db.query<{ version: number; words: string }>(
      `
        select version, words from list_wording where client_id = $1 and list = $2 order by version desc
        limit 1`,
      [clientId, name],
    );
    if (wording === (rows[0]?.words ?? '')) return;
    await db.query(
      'insert into list_wording (client_id, list, version, words, at, by) values ($1, $2, $3, $4, $5, $6)',
      [clientId, name, (rows[0]?.version ?? 0) + 1, wording, new Date(clock.now()), accountId],
    );
  };

  const settings = async (db: Connection, clientId: number): Promise<SendingSettings> =>
    (
      await db.query<SendingSettings>(
        'select quiet_hours as quiet, frequency, matching, retention from client where id = $1',
        [clientId],
      )
    ).rows[0]!;

  return [
    route({
      method: 'get',
      path: '/clients/:client/segments',
      may: 'see people',
      handle: ({ db, client }) => segments(db, client.id),
    }),
    route({
      method: 'post',
      path: '/clients/:client/segments',
      may: 'manage people',
      body: SaveSegment,
      async handle({ db, client, body, account, afterwards }): Promise<SegmentRow[]> {
        const { rowCount } = await db.query(
          `
            insert into segment (client_id, id, name, folded, rule, made_at, made_by)
            values ($1, $2, $3, $4, $5, $6, $7) on conflict (client_id, folded) do nothing`,
          [
            client.id,
            newId(clock.now()),
            body.name,
            fold(body.name),
            toJson(body.rule),
            new Date(clock.now()),
            account.id,
          ],
        );
        if (rowCount === 0) throw isTaken('segment', body.name);
        await cuesChanged(db, client.id);
        await audit(db, client.id, account.id, clock.now(), 'saved a segment', { name: body.name });
        afterwards(() => linesChanged(client.id));
        return segments(db, client.id);
      },
    }),
    route({
      method: 'put',
      path: '/clients/:client/segments/:segmentId',
      may: 'manage people',
      body: SaveSegment,
      async handle({ db, client, params, body, account, afterwards }): Promise<SegmentRow[]> {
        const before = (await segments(db, client.id)).find((each) => each.id === params.segmentId);
        if (!before) throw notFound('segment');
        if (before.loops.length > 0 && fold(before.name) !== fold(body.name))
          throw new Problem(
            409,
            'It is in use',
            `${before.loops.join(', ')} ${before.loops.length === 1 ? 'asks' : 'ask'} for “${before.name}” by that name. Change it there first, or keep the name.`,
          );
        const taken = (await segments(db, client.id)).some(
          (each) => each.id !== params.segmentId && fold(each.name) === fold(body.name),
        );
        if (taken)
          throw new Problem(
            409,
            'There is one already',
            `name: the client has a segment “${body.name}” already.`,
          );
        await db.query(
          'update segment set name = $3, folded = $4, rule = $5 where client_id = $1 and id = $2',
          [client.id, params.segmentId, body.name, fold(body.name), toJson(body.rule)],
        );
        await cuesChanged(db, client.id);
        await audit(db, client.id, account.id, clock.now(), 'changed a segment', { name: body.name });
        afterwards(() => linesChanged(client.id));
        return segments(db, client.id);
      },
    }),
    route({
      method: 'delete',
      path: '/clients/:client/segments/:segmentId',
      may: 'manage people',
      async handle({ db, client, params, account, afterwards }): Promise<SegmentRow[]> {
        const before = (await segments(db, client.id)).find((each) => each.id === params.segmentId);
        if (!before) throw notFound('segment');
        if (before.loops.length > 0)
          throw new Problem(
            409,
            'It is in use',
            `${before.loops.join(', ')} ${before.loops.length === 1 ? 'asks' : 'ask'} for “${before.name}”. Take it out there first.`,
          );
        await db.query('delete from segment where client_id = $1 and id = $2', [client.id, params.segmentId]);
        await cuesChanged(db, client.id);
        await audit(db, client.id, account.id, clock.now(), 'removed a segment', { name: before.name });
        afterwards(() => linesChanged(client.id));
        return segments(db, client.id);
      },
    }),
    route({
      method: 'get',
      path: '/clients/:client/lists',
      may: 'see people',
      handle: ({ db, client }) => lists(db, client.id),
    }),
    route({
      method: 'put',
      path: '/clients/:client/lists',
      may: 'manage people',
      body: z.object({ list: ListDefinition }).strict(),
      async handle({ db, client, body: { list }, account, afterwards }): Promise<ListRow[]> {
        await db.query(
          `
           insert into list (client_id, name, description, double) values ($1, $2, $3, $4)
           on conflict (client_id, name) do update
           set description = excluded.description, double = excluded.double`,
          [client.id, list.name, list.description, list.double],
        );
        await word(db, client.id, account.id, list);
        await cuesChanged(db, client.id);
        await audit(db, client.id, account.id, clock.now(), 'saved a list', { name: list.name });
        afterwards(() => linesChanged(client.id));
        return lists(db, client.id);
      },
    }),
    route({
      method: 'get',
      path: '/clients/:client/sending',
      may: 'manage people',
      handle: ({ db, client }) => settings(db, client.id),
    }),
    route({
      method: 'put',
      path: '/clients/:client/sending',
      may: 'manage people',
      body: SendingSettings,
      async handle({ db, client, body, account, afterwards }): Promise<SendingSettings> {
        await db.query(
          `
            update client
            set quiet_hours = $2, frequency = $3, matching = $4, retention = $5,
              cue_revision = cue_revision + 1 where id = $1`,
          [client.id, body.quiet, body.frequency, body.matching, body.retention],
        );
        await audit(db, client.id, account.id, clock.now(), 'changed the rules of sending', { ...body });
        afterwards(() => linesChanged(client.id));
        return settings(db, client.id);
      },
    }),
  ];
}
