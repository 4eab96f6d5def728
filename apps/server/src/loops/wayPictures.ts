import { Router } from 'express';
import type { Loop } from '@dart-loop/core';
import { qrSvg } from '@dart-loop/core/channels/qr';
import { waysIn, type LineAddress } from '@dart-loop/core/channels/waysIn';
import type { Limits } from '../http/limits';
import type { Db } from '../platform/db/pool';
import { isUuid } from '../platform/ids';
import { notFound } from '../platform/problem';

/** Browsers and proxies may keep a picture for so long, in seconds; then it is right again. */
const KEPT_S = 3_600;

/** Where the picture of a way into a loop is, whatever its link becomes. */
export const wayPicture = (address: string, loopId: string, lineKey: string, cueId: string): string =>
  `${address}/w/${loopId}/${encodeURIComponent(lineKey)}/${encodeURIComponent(cueId)}.svg`;

/**
 * QR codes of ways into loops, for websites and print: each at an address that stays, with the link that is
 * right now. They say what is on the client's own posters, and count nobody.
 */
export function wayPictures(database: Db, limits: Limits): Router {
  const router = Router();
  router.get('/w/:loopId/:lineKey/:picture', limits.aMinute('pictures', 600), async (request, response) => {
    const { loopId, lineKey, picture } = request.params as Record<string, string>;
    const cueId = /^(.+)\.svg$/.exec(picture!)?.[1];
    if (!isUuid(loopId!) || cueId === undefined) throw notFound('picture');
    const { rows } = await database.query<{ client: string; loop: Loop; lines: LineAddress[] }>(
      'select client, loop, lines from ways_into($1)',
      [loopId],
    );
    const way =
      rows[0] &&
      waysIn(rows[0].loop, rows[0].lines).find((each) => each.lineKey === lineKey && each.cueId === cueId);
    if (!way?.link) throw notFound('picture');
    response
      .type('image/svg+xml')
      .set('cache-control', `public, max-age=${KEPT_S}`)
      // Shown by pages of other sites.
      .set('cross-origin-resource-policy', 'cross-origin')
      .send(qrSvg(way.link, rows[0]!.client));
  });
  return router;
}
