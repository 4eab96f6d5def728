import { CHANNELS, isHeardOn, menuDifferences, menuProblems, type Loop } from '@dart-loop/core';
import { LineCaps, Menus, type LineRow, type MenusPage } from '@dart-loop/contract';
import type { Failure } from '../channels/adapter';
import { audit } from '../platform/db/audit';
import { toJson } from '../platform/db/json';
import type { Connection } from '../platform/db/pool';
import { cuesChanged } from '../loops/cueRevision';
import { askNotes, keepNotes } from './notes';
import { askTemplates, keepTemplates } from './templates';
import { Problem } from '../platform/problem';
import { asking, route } from '../http/route';
import { connectingRoutes } from './connectingRoutes';
import { partsOf, type LineOptions, type Row } from './lineRows';

export function lineRoutes(options: LineOptions) {
  const { clock, adapters, hookAddress, linesChanged } = options;

  const lineParts = partsOf(options);
  const { shown, rows, one, openLine } = lineParts;

  /** A line's menus beside what the channel has, once `before` is done, if anything is. */
  const menusPage = async (
    db: Connection,
    clientId: number,
    row: Row,
    before?: () => Promise<Failure | null>,
  ) => {
    const { rows: loops } = await db.query<{ loop: Loop }>(
      `
        select v.loop from loop o join loop_version v on v.client_id = o.client_id and v.loop_id = o.id
          and v.version = o.live_version where o.client_id = $1 order by o.id`,
      [clientId],
    );
    const heard = loops.flatMap(({ loop }) =>
      loop.cues.flatMap((cue) =>
        cue.kind === 'menu tap' && isHeardOn(loop, cue, row.key) ? [{ item: cue.item, loop: loop.name }] : [],
      ),
    );
    return asking(
      async () => ({
        failure: await before?.(),
        looked: await adapters.of(row).lookAtMenus!(await openLine(clientId, row)),
      }),
      async (_, { failure, looked }): Promise<MenusPage> => {
        const wrong = failure ?? ('failure' in looked ? looked.failure : null);
        return {
          wanted: row.menus,
          there: 'menus' in looked ? looked.menus : null,
          problem: wrong && `${wrong.reason} ${wrong.remedy}`,
          differences: 'menus' in looked ? menuDifferences(row.menus, looked.menus) : [],
          heard,
        };
      },
    );
  };
  const withMenus = async (db: Connection, clientId: number, lineId: string): Promise<Row> => {
    const row = await one(db, clientId, lineId);
    if (!adapters.of(row).lookAtMenus)
      throw new Problem(409, 'No menus', `${CHANNELS[row.channel].name} has no menus.`);
    return row;
  };

  return [
    route({
      method: 'get',
      path: '/clients/:client/lines/:lineId/menus',
      may: 'see lines',
      handle: async ({ client, db, params }) =>
        menusPage(db, client.id, await withMenus(db, client.id, params.lineId!)),
    }),
    route({
      method: 'put',
      path: '/clients/:client/lines/:lineId/menus',
      may: 'change lines',
      body: Menus,
      /**
       * Kept here even when the channel refuses them, so that nothing that was typed is lost; the differences
       * then show it.
       */
      async handle({ client, db, params, account, body }) {
        const row = await withMenus(db, client.id, params.lineId!);
        const { name, menus: limits } = CHANNELS[row.channel];
        const problems = menuProblems(name, limits, body);
        if (problems.length > 0) throw new Problem(422, 'Not put there', problems.join(' '));
        await db.query('update line set menus = $3 where client_id = $1 and id = $2', [
          client.id,
          row.id,
          body,
        ]);
        await audit(db, client.id, account.id, clock.now(), 'changed a line’s menus', { lineId: row.id });
        const put = async () => adapters.of(row).putMenus!(body, await openLine(client.id, row));
        return menusPage(db, client.id, { ...row, menus: body }, put);
      },
    }),
    route({
      method: 'get',
      path: '/clients/:client/lines',
      may: 'see lines',
      handle: async ({ client, db }): Promise<LineRow[]> => (await rows(db, client.id)).map(shown),
    }),
    ...connectingRoutes(options, lineParts),
    route({
      method: 'post',
      path: '/clients/:client/lines/:lineId/test',
      may: 'change lines',
      async handle({ client, db, params, account, afterwards }) {
        const row = await one(db, client.id, params.lineId!);
        const line = await openLine(client.id, row);
        const adapter = adapters.of(row);
        return asking(
          async () => {
            const notes = await askNotes(adapter, line);
            const failure = await adapter.test(line, hookAddress(row.hook_token));
            if (failure?.onlyTooFast)
              throw new Problem(503, 'Not tested', `${failure.reason} Test the line again in a minute.`);
            return { failure, notes, templates: failure ? null : await askTemplates(adapter, line) };
          },
          async (later, { failure, notes, templates }): Promise<LineRow> => {
            await keepTemplates(later, line, templates);
            await keepNotes(later, line, notes);
            await later.query(
              // One that was renewed or disconnected meanwhile is another than was tested.
              `
                update line set failing_since = case when $3::jsonb is null then null
                  else coalesce(failing_since, $4) end, failure = $3
                where client_id = $1 and id = $2 and secrets = $5`,
              [
                client.id,
                row.id,
                failure ? toJson({ ...failure, by: 'test' }) : null,
                new Date(clock.now()),
                row.secrets,
              ],
            );
            await audit(later, client.id, account.id, clock.now(), 'tested a line', {
              id: row.id,
              failure: failure?.code ?? null,
            });
            afterwards(() => linesChanged(client.id));
            return shown(await one(later, client.id, params.lineId!));
          },
        );
      },
    }),
    route({
      method: 'put',
      path: '/clients/:client/lines/:lineId/caps',
      may: 'change lines',
      body: LineCaps,
      async handle({ client, db, params, account, body, afterwards }): Promise<LineRow> {
        const row = await one(db, client.id, params.lineId!);
        await db.query('update line set caps = $3 where client_id = $1 and id = $2', [
          client.id,
          row.id,
          body,
        ]);
        await audit(db, client.id, account.id, clock.now(), 'changed a line’s caps', {
          lineId: row.id,
          ...body,
        });
        afterwards(() => linesChanged(client.id));
        return shown(await one(db, client.id, params.lineId!));
      },
    }),
    route({
      method: 'delete',
      path: '/clients/:client/lines/:lineId',
      may: 'change lines',
      /**
       * Wipes the secrets; what was still to be sent on the line is closed with its reason. Conversations are
       * kept.
       */
      async handle({ client, db, params, account, afterwards }): Promise<{ words: string }> {
        const row = await one(db, client.id, params.lineId!);
        // Best effort: a line whose secrets cannot be read any more can be disconnected all the same.
        await openLine(client.id, row)
          .then((line) => adapters.of(row).disconnect(line))
          .catch(() => undefined);
        await db.query(
          `
            update line set secrets = null, secret_hints = '{}', failing_since = null, failure = null
            where client_id = $1 and id = $2`,
          [client.id, row.id],
        );
        const failure: Failure = {
          code: 'disconnected',
          reason: 'The line was disconnected before this was sent.',
          remedy: 'Connect the line again and let the person write.',
        };
        const closed = await db.query(
          `
            update message set status = 'failed', failure = $3
            where client_id = $1 and line_id = $2 and status in ('queued', 'held')`,
          [client.id, row.id, toJson(failure)],
        );
        await audit(db, client.id, account.id, clock.now(), 'disconnected a line', {
          lineId: row.id,
          name: row.name,
        });
        await cuesChanged(db, client.id);
        afterwards(() => linesChanged(client.id));
        const secrets = Object.keys(row.secret_hints).length;
        return {
          words: `${row.name} is disconnected. ${secrets === 1 ? 'Its secret was wiped' : `Its ${secrets} secrets were wiped`}; its conversations are kept.${closed.rowCount ? ` ${closed.rowCount} unsent messages were closed.` : ''}`,
        };
      },
    }),
  ];
}
