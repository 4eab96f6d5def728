import { isZone } from '@dart-loop/core';
import type { CellWorld } from '@dart-loop/core/people/cellReading';
import type { Connection, Db } from '../platform/db/pool';

/** By whose country, language and clock what the team types, and what files hold, is read. */
export async function cellWorldOf(db: Connection | Db, clientId: number, now: number): Promise<CellWorld> {
  const { rows } = await db.query<{ country: string; time_zone: string; languages: string[] }>(
    'select country, time_zone, languages from client where id = $1',
    [clientId],
  );
  const { country, time_zone, languages } = rows[0]!;
  return {
    country,
    language: languages[0] ?? 'en',
    now,
    zone: isZone(time_zone) ? time_zone : 'UTC',
    days: 'any',
    dayOrder: country === 'US' ? 'month first' : 'day first',
    ours: false,
  };
}
