import { Router } from 'express';
import type { Db } from '../platform/db/pool';
import { notFound } from '../platform/problem';
import type { Limits } from '../http/limits';
import type { Store } from './store';

/** What an address with the present version leads to never changes. */
const KEPT_S = 31_536_000;
/** An older one leads to what has replaced it. */
const OLDER_S = 300;
const TOKEN = /^[A-Za-z0-9_-]{43}$/;

/** Files of clients for whoever has their address: platforms fetch them, and people who were sent them. */
export function keptFiles(database: Db, store: Store | null, limits: Limits): Router {
  const router = Router();
  router.get('/files/:token/:name', limits.aMinute('files', 1_200), async (request, response) => {
    const { token, name } = request.params as { token: string; name: string };
    if (!store || !TOKEN.test(token)) throw notFound('file');
    const { rows } = await database.query<{
      slug: string;
      kept_as: string;
      version: number;
      type: string;
      name: string;
      what: string;
    }>('select * from file_at($1)', [token]);
    const file = rows[0];
    const bytes = file && (await store.get(file.slug, file.kept_as));
    if (!bytes) throw notFound('file');
    response
      .status(200)
      .setHeader('content-type', file.type)
      .setHeader(
        'cache-control',
        name.startsWith(`${file.version}-`)
          ? `public, max-age=${KEPT_S}, immutable`
          : `public, max-age=${OLDER_S}`,
      )
      // Whatever it holds, it is shown or saved and never run.
      .setHeader('content-security-policy', "default-src 'none'; sandbox")
      .setHeader('x-content-type-options', 'nosniff')
      .setHeader('cross-origin-resource-policy', 'cross-origin')
      .setHeader(
        'content-disposition',
        `${file.what === 'file' ? 'attachment' : 'inline'}; filename*=UTF-8''${encodeURIComponent(file.name)}`,
      )
      .end(bytes);
  });
  return router;
}
