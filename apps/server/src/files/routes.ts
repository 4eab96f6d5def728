import type { Request } from 'express';
import { AddFile, RenameFile, type KeptFile } from '@dart-loop/contract';
import { fieldKey } from '@dart-loop/core/language/slug';
import type { Clock } from '../platform/clock';
import { audit } from '../platform/db/audit';
import type { Connection } from '../platform/db/pool';
import { newId, newToken } from '../platform/ids';
import { cuesChanged } from '../loops/cueRevision';
import { notFound, Problem } from '../platform/problem';
import { bodyBytes } from '../http/bodyBytes';
import { asking, route } from '../http/route';
import { fitted, KIND_WORDS, MOST, type Fitted } from './fitting';
import type { Store } from './store';

const MOST_BYTES = Math.max(...Object.values(MOST)) * 2;
const MOST_FILES = 500;

/** Files of a client: kept once, listed with where they are used, replaced everywhere at once. */
export function fileRoutes({
  clock,
  store,
  linesChanged,
}: {
  clock: Clock;
  store: Store | null;
  /** What is known of a client by heart is read again. */
  linesChanged: (clientId: number) => void;
}) {
  const there = (): Store => {
    if (store) return store;
    throw new Problem(
      501,
      'No files here',
      'This server keeps no files. Name a folder or a bucket with DARTLOOP_STORE, and start it again.',
    );
  };
  /** Keeps the bytes before the row that names them, so that no address leads nowhere. */
  const putInto = async (slug: string, request: Request, token: string, version: number): Promise<Fitted> => {
    const kept = there();
    const file = await fitted(await bodyBytes(request, MOST_BYTES));
    await kept.put(slug, `${token}-${version}`, file.bytes, file.type);
    return file;
  };
  return [
    route({
      method: 'get',
      path: '/clients/:client/files',
      may: 'see loops',
      handle: ({ db, client }) => list(db, client.id),
    }),
    route({
      method: 'post',
      path: '/clients/:client/files',
      may: 'change loops',
      query: AddFile,
      handle: ({ client, query, account, request, afterwards }) => {
        const token = newToken();
        return Promise.resolve(
          asking(
            () => putInto(client.slug, request, token, 1),
            async (db, file): Promise<KeptFile> => {
              const { rows } = await db.query<{ key: string }>(
                'select key from kept_file where client_id = $1 order by key for update',
                [client.id],
              );
              if (rows.length >= MOST_FILES)
                throw new Problem(409, 'Too many files', `A client keeps at most ${MOST_FILES} files.`);
              const key = freeKey(query.name, new Set(rows.map((row) => row.key)));
              const id = newId(clock.now());
              await db.query(
                `
                  insert into kept_file (client_id, id, key, name, what, type, ending, bytes, width, height,
                    token, made_by, made_at) values ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10, $11, $12, $13)`,
                [client.id, id, key, query.name, ...columns(file), token, account.id, new Date(clock.now())],
              );
              await cuesChanged(db, client.id);
              await audit(db, client.id, account.id, clock.now(), 'added a file', { name: query.name, key });
              afterwards(() => linesChanged(client.id));
              return one(db, client.id, id);
            },
          ),
        );
      },
    }),
    route({
      method: 'post',
      path: '/clients/:client/files/:fileId/content',
      may: 'change loops',
      async handle({ db, client, params, account, request, afterwards }) {
        const before = await one(db, client.id, params.fileId!);
        const { token, version } = await placeOf(db, client.id, before.id);
        return asking(
          () => putInto(client.slug, request, token, version + 1),
          async (later, file): Promise<KeptFile> => {
            if (file.what !== before.what)
              throw new Problem(
                422,
                'Not replaced',
                `${before.name} is ${KIND_WORDS[before.what]}, and this is ${KIND_WORDS[file.what]}: steps that send it would send something else. Add it as a file of its own.`,
              );
            const { rowCount } = await later.query(
              `
                update kept_file set what = $3, type = $4, ending = $5, bytes = $6, width = $7, height = $8,
                  made_at = $9, made_by = $10, version = version + 1
                where client_id = $1 and id = $2 and version = $11`,
              [client.id, before.id, ...columns(file), new Date(clock.now()), account.id, version],
            );
            if (!rowCount)
              throw new Problem(
                409,
                'Not replaced',
                'Somebody else has just replaced or removed it. Look at it again.',
              );
            await cuesChanged(later, client.id);
            await audit(later, client.id, account.id, clock.now(), 'replaced a file', { name: before.name });
            afterwards(() => {
              linesChanged(client.id);
              store?.remove(client.slug, `${token}-${version}`).catch(() => undefined);
            });
            return one(later, client.id, before.id);
          },
        );
      },
    }),
    route({
      method: 'put',
      path: '/clients/:client/files/:fileId',
      may: 'change loops',
      body: RenameFile,
      async handle({ db, client, params, body, account }): Promise<KeptFile> {
        const before = await one(db, client.id, params.fileId!);
        await db.query('update kept_file set name = $3 where client_id = $1 and id = $2', [
          client.id,
          before.id,
          body.name,
        ]);
        await audit(db, client.id, account.id, clock.now(), 'renamed a file', {
          before: before.name,
          after: body.name,
        });
        return one(db, client.id, before.id);
      },
    }),
    route({
      method: 'delete',
      path: '/clients/:client/files/:fileId',
      may: 'change loops',
      async handle({ db, client, params, account, afterwards }): Promise<void> {
        const before = await one(db, client.id, params.fileId!);
        if (before.usedBy.length > 0)
          throw new Problem(
            409,
            'Still used',
            `${before.name} is used by ${before.usedBy.join(', ')}. Take it out there first.`,
          );
        const { token, version } = await placeOf(db, client.id, before.id);
        await db.query('delete from kept_file where client_id = $1 and id = $2', [client.id, before.id]);
        await cuesChanged(db, client.id);
        await audit(db, client.id, account.id, clock.now(), 'removed a file', { name: before.name });
        afterwards(() => {
          linesChanged(client.id);
          // A file that stays behind without its row costs its bytes and is found by nobody.
          store?.remove(client.slug, `${token}-${version}`).catch(() => undefined);
        });
      },
    }),
  ];
}

const columns = (file: Fitted) => [
  file.what,
  file.type,
  file.ending,
  file.bytes.length,
  file.width,
  file.height,
];

/** A name for texts, made of the file's own. */
function freeKey(name: string, taken: ReadonlySet<string>): string {
  const wish = fieldKey(name.replace(/\.[a-z0-9]{2,5}$/i, '')) || 'file';
  let key = wish;
  for (let n = 2; taken.has(key); n++) key = `${wish.slice(0, 36)}_${n}`;
  return key;
}

const FILES = `
  select f.id, f.key, f.name, f.what, f.type, f.bytes, f.width, f.height, f.made_at, a.name as made_by,
    files_of(f.client_id) ->> f.key as address,
    array(select l.name from loop l
      left join loop_version v on v.client_id = l.client_id and v.loop_id = l.id and v.version = l.live_version
      where l.client_id = f.client_id and l.archived_at is null
        and (l.draft::text || coalesce(v.loop::text, '')) ~ ('\\{\\{-?\\s*file\\.' || f.key || '\\M')
      order by lower(l.name))
    || array(select 'the brief' from client c where c.id = f.client_id
      and c.brief::text ~ ('\\{\\{-?\\s*file\\.' || f.key || '\\M')) as used_by
  from kept_file f left join account a on a.id = f.made_by
  where f.client_id = $1`;
type Row = Omit<KeptFile, 'madeAt' | 'madeBy' | 'usedBy'> & {
  made_at: Date;
  made_by: string | null;
  used_by: string[];
};
const shown = ({ made_at, made_by, used_by, ...row }: Row): KeptFile => ({
  ...row,
  madeAt: made_at.toISOString(),
  madeBy: made_by,
  usedBy: used_by,
});

const list = async (db: Connection, clientId: number): Promise<KeptFile[]> =>
  (await db.query<Row>(`${FILES} order by lower(f.name), f.id`, [clientId])).rows.map(shown);

async function one(db: Connection, clientId: number, id: string): Promise<KeptFile> {
  const { rows } = await db.query<Row>(`${FILES} and f.id = $2`, [clientId, id]);
  if (!rows[0]) throw notFound('file');
  return shown(rows[0]);
}

async function placeOf(
  db: Connection,
  clientId: number,
  id: string,
): Promise<{ token: string; version: number }> {
  const { rows } = await db.query<{ token: string; version: number }>(
    'select token, version from kept_file where client_id = $1 and id = $2',
    [clientId, id],
  );
  if (!rows[0]) throw notFound('file');
  return rows[0];
}
