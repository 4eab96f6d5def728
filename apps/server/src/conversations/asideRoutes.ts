import { z } from 'zod';
import type { AsideItem, AsidePage } from '@dart-loop/contract';
import type { Clock } from '../platform/clock';
import { audit } from '../platform/db/audit';
import { toJson } from '../platform/db/json';
import { notFound } from '../platform/problem';
import { route } from '../http/route';

const SHOWN = 100;
/** Words of a platform's own format, which are nobody's. */
const OF_FORMAT = /^[a-z][a-z_ ]{0,23}$/;
const MOST_SHOWN = 2_000;

const TryAgain = z.object({ ids: z.array(z.number().int().positive()).max(SHOWN).optional() });

interface Row {
  id: number;
  kind: AsideItem['kind'];
  reason: string;
  body: string;
  received_at: Date;
  tries: number;
  again_at: Date | null;
  conversation_id: string | null;
}

/**
 * What could not be processed on a line: read with everything of people masked, and tried again at a press.
 */
export function asideRoutes({ clock, woken }: { clock: Clock; woken: () => void }) {
  return [
    route({
      method: 'get',
      path: '/clients/:client/lines/:lineId/aside',
      may: 'see lines',
      async handle({ db, client, params }): Promise<AsidePage> {
        const line = await db.query('select from line where client_id = $1 and id = $2', [
          client.id,
          params.lineId,
        ]);
        if (line.rowCount === 0) throw notFound('line');
        const { rows } = await db.query<Row>(
          `
            select id, kind, reason, left(body, 20000) as body, received_at, tries, again_at,
              conversation_id from aside where client_id = $1 and line_id = $2 order by id desc limit $3`,
          [client.id, params.lineId, SHOWN],
        );
        const total = await db.query<{ count: number }>(
          'select count(*)::int as count from aside where client_id = $1 and line_id = $2',
          [client.id, params.lineId],
        );
        return {
          total: total.rows[0]!.count,
          items: rows.map((row) => ({
            id: row.id,
            kind: row.kind,
            reason: row.reason,
            masked: masked(row.body),
            at: row.received_at.toISOString(),
            tries: row.tries,
            againAt: row.again_at?.toISOString() ?? null,
            conversationId: row.conversation_id,
          })),
        };
      },
    }),
    route({
      method: 'post',
      path: '/clients/:client/lines/:lineId/aside/again',
      may: 'change lines',
      body: TryAgain,
      async handle({ db, client, params, body, account, afterwards }): Promise<{ again: number }> {
        const { rowCount } = await db.query(
          `
            update aside set again_at = $3
            where client_id = $1 and line_id = $2 and ($4::bigint[] is null or id = any ($4))`,
          [client.id, params.lineId, new Date(clock.now()), body.ids ?? null],
        );
        if (!rowCount) throw notFound('message set aside');
        await audit(db, client.id, account.id, clock.now(), 'had what lay aside tried again', {
          lineId: Number(params.lineId),
          count: rowCount,
        });
        afterwards(woken);
        return { again: rowCount };
      },
    }),
  ];
}

/**
 * The shape of a body without anything of a person: every text but the format's own words, and every long
 * number, becomes dots.
 */
export function masked(body: string): string {
  try {
    return toJson(
      JSON.parse(body, (_key, value: unknown) =>
        typeof value === 'string' || typeof value === 'number' ? dots(value) : value,
      ),
      1,
    ).slice(0, MOST_SHOWN);
  } catch {
    // A form, or nothing that is known: its names stay, what stands behind them does not.
    const form = /^[\w.-]+=/.test(body) ? new URLSearchParams(body) : null;
    return (
      form ? [...form].map(([name, value]) => `${name}: ${dots(value)}`).join('\n') : String(dots(body))
    ).slice(0, MOST_SHOWN);
  }
}

function dots(value: string | number): string | number {
  if (typeof value === 'number')
    return Math.abs(value) < 1_000 ? value : '•'.repeat(Math.min(12, String(value).length));
  return OF_FORMAT.test(value) && !value.includes(' ')
    ? value
    : value.slice(0, 60).replace(/[\p{L}\p{N}]/gu, '•');
}
