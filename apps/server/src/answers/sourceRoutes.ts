import {
  AddDocument,
  AddPages,
  ChangePassage,
  ChangeSource,
  type Source,
  type SourcePageView,
  type SourcesPage,
} from '@dart-loop/contract';
import { whyNotAddress } from '@dart-loop/core';
import { pageAddress } from '@dart-loop/core/answers/site/addresses';
import { briefPassages } from '@dart-loop/core/answers/brief';
import { textOf } from '@dart-loop/core/answers/passage';
import { bodyBytes } from '../http/bodyBytes';
import { asking, route } from '../http/route';
import type { Clock } from '../platform/clock';
import { audit } from '../platform/db/audit';
import type { Connection } from '../platform/db/pool';
import { newId } from '../platform/ids';
import { isTaken, notFound, Problem, wrong } from '../platform/problem';
import { TooHeavy, type Threads } from '../platform/threads/threads';
import { pairsOf } from './pairs';
import type { ReadDocument } from './reading';
import { beginReading, READ_SITE, stopReading } from './siteReading';
import { sourcesChanged, standing } from './sources';
import { writePage } from './writing';

/** Bytes of one document. */
const MOST_BYTES = 20 * 1_024 * 1_024;
const MOST_SOURCES = 200;
const PATIENCE_MS = 20_000;

const SOURCES = `
  select s.id, s.kind, s.name, s.address, s.every, s.failure, s.read_at, a.name as made_by,
    (select jsonb_build_object('done', t.done, 'total', t.total, 'isStopping', t.state = 'stopping')
      from task t where t.client_id = s.client_id and t.kind = '${READ_SITE}'
        and t.spec ->> 'sourceId' = s.id::text and t.state in ('waiting', 'running', 'stopping')
      limit 1) as reading,
    count(g.id) filter (where g.state = 'read')::int as pages, coalesce(sum(g.words), 0)::int as words, max(g.changed_at) as changed_at,
    (select count(*)::int from passage p join source_page o on o.client_id = p.client_id and o.id = p.page_id
      where p.client_id = s.client_id and o.source_id = s.id) as passages
  from source s
  left join source_page g on g.client_id = s.client_id and g.source_id = s.id
  left join account a on a.id = s.made_by
  where s.client_id = $1`;
const GROUPED = 'group by s.client_id, s.id, a.name';
type Row = Omit<Source, 'readAt' | 'changedAt' | 'madeBy'> & {
  read_at: Date | null;
  changed_at: Date | null;
  made_by: string | null;
};
const shown = ({ read_at, changed_at, made_by, ...row }: Row): Source => ({
  ...row,
  readAt: read_at?.toISOString() ?? null,
  changedAt: changed_at?.toISOString() ?? null,
  madeBy: made_by,
});

/** A client's sources: documents, and what each of them was understood to say. */
export function sourceRoutes({
  clock,
  threads,
  woken,
}: {
  clock: Clock;
  threads: Threads;
  woken: () => void;
}) {
  const read = async (name: string, bytes: Uint8Array): Promise<ReadDocument & { ok: true }> => {
    const document = await threads
      .run('readDocument', { name, bytes }, PATIENCE_MS)
      .catch((error: unknown) => {
        if (error instanceof TooHeavy) throw new Problem(422, 'Not read', error.message);
        throw error;
      });
    if (!document.ok) throw new Problem(422, 'Not read', document.reason);
    return document;
  };
  return [
    route({
      method: 'get',
      path: '/clients/:client/sources',
      may: 'see sources',
      async handle({ db, client }): Promise<SourcesPage> {
        const { rows } = await db.query<Row>(`${SOURCES} ${GROUPED} order by lower(s.name), s.id`, [
          client.id,
        ]);
        const facts = await standing(db, client.id);
        return {
          sources: rows.map(shown),
          pairs: await pairsOf(db, client.id),
          brief: briefPassages(facts.client).map((passage) => ({
            heading: passage.headings.at(-1)!,
            text: textOf(passage),
          })),
        };
      },
    }),
    route({
      method: 'post',
      path: '/clients/:client/sources/documents',
      may: 'change sources',
      query: AddDocument,
      handle: ({ client, query: { name }, account, request }) =>
        Promise.resolve(
          asking(
            async () => read(name, await bodyBytes(request, MOST_BYTES)),
            async (db, document): Promise<Source> => {
              const { rowCount } = await db.query('select 1 from source where client_id = $1 for update', [
                client.id,
              ]);
              if ((rowCount ?? 0) >= MOST_SOURCES)
                throw new Problem(409, 'Too many sources', `A client has at most ${MOST_SOURCES} sources.`);
              const now = new Date(clock.now());
              const id = newId(clock.now());
              await db.query(
                `
                  insert into source (client_id, id, kind, name, read_at, made_by, made_at)
                  values ($1, $2, 'document', $3, $4, $5, $4)`,
                [client.id, id, name, now, account.id],
              );
              await writePage(db, client.id, id, { address: name, title: name, ...document }, clock.now());
              await sourcesChanged(db, client.id, `${name} was added`);
              await audit(db, client.id, account.id, clock.now(), 'added a source', { name });
              return one(db, client.id, id);
            },
          ),
        ),
    }),
    route({
      method: 'post',
      path: '/clients/:client/sources/:sourceId/content',
      may: 'change sources',
      query: AddDocument,
      async handle({ db, client, params, query: { name }, account, request }) {
        const before = await one(db, client.id, params.sourceId!);
        if (before.kind !== 'document') throw notFound('document');
        return asking(
          async () => read(name, await bodyBytes(request, MOST_BYTES)),
          async (later, document): Promise<Source> => {
            const now = clock.now();
            await later.query(
              'update source set name = $3, read_at = $4, failure = null where client_id = $1 and id = $2',
              [client.id, before.id, name, new Date(now)],
            );
            await writePage(
              later,
              client.id,
              before.id,
              { address: before.name, renamed: name, title: name, ...document },
              now,
            );
            await sourcesChanged(later, client.id, `${name} was replaced`);
            await audit(later, client.id, account.id, now, 'replaced a source', {
              before: before.name,
              after: name,
            });
            return one(later, client.id, before.id);
          },
        );
      },
    }),
    route<Record<string, never>, AddPages>({
      method: 'post',
      path: '/clients/:client/sources/pages',
      may: 'change sources',
      body: AddPages,
      async handle({ db, client, body, account, afterwards }): Promise<Source> {
        const problem = whyNotAddress(body.address);
        if (problem) throw wrong('address', problem.reason);
        const address = pageAddress(body.address);
        if (address === null) throw wrong('address', 'leads to no page that can be read');
        const { rows } = await db.query<{ address: string | null }>(
          'select address from source where client_id = $1 for update',
          [client.id],
        );
        if (rows.length >= MOST_SOURCES)
          throw new Problem(409, 'Too many sources', `A client has at most ${MOST_SOURCES} sources.`);
        if (rows.some((each) => each.address === address)) throw isTaken('source', address, 'address');
        const now = clock.now();
        const id = newId(now);
        const name = `${new URL(address).host}${new URL(address).pathname.replace(/\/$/, '')}`.slice(0, 200);
        await db.query(
          `
            insert into source (client_id, id, kind, name, address, every, made_by, made_at)
            values ($1, $2, $3, $4, $5, $6, $7, $8)`,
          [client.id, id, body.reach, name, address, body.every, account.id, new Date(now)],
        );
        await beginReading(db, client.id, { id, name }, account.id, now);
        await audit(db, client.id, account.id, now, 'added a source', { ...body, address });
        afterwards(woken);
        return one(db, client.id, id);
      },
    }),
    route({
      method: 'post',
      path: '/clients/:client/sources/:sourceId/read',
      may: 'change sources',
      async handle({ db, client, params, account, afterwards }): Promise<Source> {
        const source = await pagesOf(db, client.id, params.sourceId!);
        await beginReading(db, client.id, source, account.id, clock.now());
        await audit(db, client.id, account.id, clock.now(), 'read a source again', { name: source.name });
        afterwards(woken);
        return one(db, client.id, source.id);
      },
    }),
    route({
      method: 'post',
      path: '/clients/:client/sources/:sourceId/stop',
      may: 'change sources',
      async handle({ db, client, params, account, afterwards }): Promise<Source> {
        const source = await pagesOf(db, client.id, params.sourceId!);
        await stopReading(db, client.id, source.id);
        await audit(db, client.id, account.id, clock.now(), 'stopped reading a source', {
          name: source.name,
        });
        afterwards(woken);
        return one(db, client.id, source.id);
      },
    }),
    route({
      method: 'put',
      path: '/clients/:client/sources/:sourceId',
      may: 'change sources',
      body: ChangeSource,
      async handle({ db, client, params, body, account }): Promise<Source> {
        const source = await pagesOf(db, client.id, params.sourceId!);
        await db.query('update source set every = $3 where client_id = $1 and id = $2', [
          client.id,
          source.id,
          body.every,
        ]);
        await audit(db, client.id, account.id, clock.now(), 'changed how often a source is read', {
          ...{ name: source.name, before: source.every, after: body.every },
        });
        return one(db, client.id, source.id);
      },
    }),
    route({
      method: 'delete',
      path: '/clients/:client/sources/:sourceId',
      may: 'change sources',
      async handle({ db, client, params, account }): Promise<void> {
        const { name } = await one(db, client.id, params.sourceId!);
        await db.query('delete from source where client_id = $1 and id = $2', [client.id, params.sourceId]);
        await sourcesChanged(db, client.id, `${name} was removed`);
        await audit(db, client.id, account.id, clock.now(), 'removed a source', { name });
      },
    }),
    route({
      method: 'get',
      path: '/clients/:client/sources/:sourceId',
      may: 'see sources',
      handle: ({ db, client, params }) => understood(db, client.id, params.sourceId!),
    }),
    route({
      method: 'put',
      path: '/clients/:client/passages/:passageId',
      may: 'change sources',
      body: ChangePassage,
      async handle({ db, client, params, body, account }): Promise<void> {
        const { rows } = await db.query<{ heading: string | null }>(
          `
            update passage set
              corrected = case when $3 then $4 else corrected end,
              is_muted = coalesce($5, is_muted), wordings = coalesce($6, wordings)
            where client_id = $1 and id = $2 returning headings[array_upper(headings, 1)] as heading`,
          [
            client.id,
            params.passageId,
            body.corrected !== undefined,
            body.corrected ?? null,
            body.isMuted ?? null,
            body.wordings ?? null,
          ],
        );
        if (!rows[0]) throw notFound('passage');
        const { heading } = rows[0];
        await sourcesChanged(db, client.id, `the passage “${heading}” was changed`);
        await audit(db, client.id, account.id, clock.now(), 'changed a passage', { heading, ...body });
      },
    }),
  ];
}

async function one(db: Connection, clientId: number, id: string): Promise<Source> {
  const { rows } = await db.query<Row>(`${SOURCES} and s.id = $2 ${GROUPED}`, [clientId, id]);
  if (!rows[0]) throw notFound('source');
  return shown(rows[0]);
}

/** A source that is read from the web. */
async function pagesOf(db: Connection, clientId: number, id: string): Promise<Source> {
  const source = await one(db, clientId, id);
  if (source.kind === 'document') throw notFound('site');
  return source;
}

async function understood(db: Connection, clientId: number, id: string): Promise<SourcePageView> {
  const source = await one(db, clientId, id);
  const { rows } = await db.query<SourcePageView['pages'][number]>(
    `
      with used as (
        select u.id, count(*)::int as count from asked a, unnest(a.passages) as u (id)
        where a.client_id = $1 and a.came in ('answered', 'picked') group by 1
      )
      select g.id, g.title, g.address, g.words, g.state, g.failure, g.read_at as "readAt",
        g.changed_at as "changedAt",
        coalesce(
          (select jsonb_agg(jsonb_build_object('id', p.id, 'headings', p.headings,
              'text', array_to_string(p.sentences, ' '), 'corrected', p.corrected, 'isMuted', p.is_muted,
              'wordings', p.wordings, 'used', coalesce(u.count, 0)) order by p.place)
            from passage p left join used u on u.id = p.id where p.client_id = g.client_id and p.page_id = g.id), '[]') as passages
      from source_page g where g.client_id = $1 and g.source_id = $2 order by g.address`,
    [clientId, id],
  );
  return { source, pages: rows };
}
