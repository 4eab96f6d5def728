import { CopySetUp, type CopiedTo, type LeftToDo } from '@dart-loop/contract';
import { cuesChanged } from '../../loops/cueRevision';
import type { Clock } from '../../platform/clock';
import { audit } from '../../platform/db/audit';
import { auditAgency } from '../../platform/db/agencyAudit';
import { openClients, type Connection } from '../../platform/db/pool';
import { byOf } from '../../accounts/byOf';
import { Problem, notFound } from '../../platform/problem';
import { route, type Asked } from '../../http/route';
import { addClient, mayAddClients } from '../addClient';
import { leftToDo, noteLeft, type Left } from './leftToDo';
import { loops, menus } from './loopParts';
import type { Part, Side } from './part';
import { calendars, fields, lists, segments, sending } from './peopleParts';
import { destinations, webhooks } from './syncParts';

/** In this order: what is named by others comes before them. */
const PARTS: readonly Part[] = [
  fields,
  lists,
  segments,
  calendars,
  sending,
  destinations,
  webhooks,
  loops,
  menus,
];

/** A client's set-up for others: all of them get it, or none does. */
export function copyingRoutes({
  clock,
  linesChanged,
}: {
  clock: Clock;
  linesChanged: (clientId: number) => void;
}) {
  type Copy = Asked<unknown, CopySetUp>;

  const copyTo = async (
    { db, account, body }: Copy,
    from: Side,
    to: Side,
    isNew: boolean,
  ): Promise<CopiedTo & { id: number }> => {
    const now = clock.now();
    const left: Left[] = [];
    const parts: CopiedTo['parts'] = [];
    for (const { part, copy } of PARTS)
      if (body.parts.includes(part)) {
        const copying = { db, from, to, accountId: account.id, now, leave: (each: Left) => left.push(each) };
        parts.push({ part, ...(await copy(copying)) });
      }
    await noteLeft(db, to.id, from.name, left, now);
    await cuesChanged(db, to.id);
    await audit(db, to.id, account.id, now, 'copied a set-up in', {
      from: from.name,
      added: Object.fromEntries(parts.map(({ part, added }) => [part, added])),
    });
    return {
      id: to.id,
      slug: to.slug,
      name: to.name,
      isNew,
      parts,
      left: (await leftToDo(db, to.id)).map(({ words }) => words),
    };
  };

  const copyAll = async (asked: Copy): Promise<(CopiedTo & { id: number })[]> => {
    const { db, account, body } = asked;
    const from = await sideOf(db, body.from);
    if (body.to.includes(from.slug))
      throw new Problem(400, 'That cannot be used', `to: ${from.name} is what is copied; choose others.`);
    const copied: (CopiedTo & { id: number })[] = [];
    for (const slug of new Set(body.to))
      copied.push(await copyTo(asked, from, await sideOf(db, slug), false));
    if (body.newClients.length === 0) return copied;
    mayAddClients(account);
    const like = await likeOf(db, from.id);
    const open = [...account.clientIds];
    for (const name of body.newClients) {
      const added = await addClient(db, account.agencyId, { ...like, name });
      open.push(added.id);
      await openClients(db, open);
      await audit(db, added.id, account.id, clock.now(), 'added the client', { name, like: from.name });
      await auditAgency(db, byOf(asked, clock.now()), 'added a client', { name, slug: added.slug });
      copied.push(await copyTo(asked, from, { ...added, name, lines: [] }, true));
    }
    return copied;
  };

  return [
    route<Record<string, never>, CopySetUp>({
      method: 'post',
      path: '/set-up-copies/preview',
      may: 'manage clients',
      untraced: 'it shows what a copy would bring, and changes nothing',
      body: CopySetUp,
      async handle(asked): Promise<CopiedTo[]> {
        // Everything is done as it would be, looked at, and taken back.
        await asked.db.query('savepoint looked_at');
        try {
          return (await copyAll(asked)).map(({ id: _id, ...each }) => ({
            ...each,
            slug: each.isNew ? null : each.slug,
          }));
        } finally {
          await asked.db.query('rollback to savepoint looked_at');
        }
      },
    }),
    route<Record<string, never>, CopySetUp>({
      method: 'post',
      path: '/set-up-copies',
      may: 'manage clients',
      body: CopySetUp,
      async handle(asked): Promise<CopiedTo[]> {
        const copied = await copyAll(asked);
        await auditAgency(asked.db, byOf(asked, clock.now()), 'copied a set-up', {
          from: asked.body.from,
          to: copied.map(({ name }) => name),
          parts: asked.body.parts,
        });
        asked.afterwards(() => copied.forEach(({ id }) => linesChanged(id)));
        return copied.map(({ id: _id, ...each }) => each);
      },
    }),
    route({
      method: 'get',
      path: '/clients/:client/left-to-do',
      may: 'change brief',
      handle: ({ db, client }): Promise<LeftToDo[]> => leftToDo(db, client.id),
    }),
    route({
      method: 'post',
      path: '/clients/:client/left-to-do/:todoId/done',
      may: 'change brief',
      async handle({ db, client, account, params }): Promise<LeftToDo[]> {
        const now = clock.now();
        const { rows } = await db.query<{ words: string }>(
          'update left_to_do set done_at = $3 where client_id = $1 and id = $2 returning words',
          [client.id, params.todoId, new Date(now)],
        );
        if (!rows[0]) throw notFound('thing to do');
        await audit(db, client.id, account.id, now, 'ticked what was left to do', { what: rows[0].words });
        return leftToDo(db, client.id);
      },
    }),
  ];
}

/** A client of the account, by its slug, with its lines. */
async function sideOf(db: Connection, slug: string): Promise<Side> {
  const { rows } = await db.query<Side>(
    `
      select c.id, c.slug, c.name, coalesce((select
        jsonb_agg(jsonb_build_object('key', l.key, 'channel', l.channel) order by l.id)
        from line l where l.client_id = c.id and l.secrets is not null), '[]') as lines
      from client c where c.slug = $1`,
    [slug],
  );
  if (!rows[0])
    throw new Problem(404, 'Not found', `There is no client “${slug}”, or it is not one of yours.`);
  return rows[0];
}

/** What a new client is like at first: as the one that it is copied from. */
const likeOf = async (db: Connection, id: number) =>
  (
    await db.query<{ country: string; timeZone: string; languages: string[] }>(
      'select country, time_zone as "timeZone", languages from client where id = $1',
      [id],
    )
  ).rows[0]!;
