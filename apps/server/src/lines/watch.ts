import type { Logger } from 'pino';
import type { Adapters } from '../channels';
import type { Clock } from '../platform/clock';
import { toJson } from '../platform/db/json';
import type { Db } from '../platform/db/pool';
import type { Lines } from './lines';
import { askNotes, keepNotes } from './notes';

/** Lines asked at once. */
const AT_ONCE = 8;

/**
 * Asks each line's channel whether the line works: a webhook that was unsubscribed or an account that was
 * untied sends nothing that could tell us. What sending has found is left to sending; gives the clients of
 * lines whose state has changed.
 */
export async function watchLines(
  db: Db,
  lineIds: number[],
  lines: Lines,
  adapters: Adapters,
  hookAddress: (token: string) => string,
  clock: Clock,
  log: Logger,
): Promise<number[]> {
  const changed = new Set<number>();
  const ask = async (id: number) => {
    const known = await lines.anew(id);
    if (!known) return;
    const { line, sealed } = known;
    if (await keepNotes(db, line, await askNotes(adapters.of(line), line))) changed.add(line.clientId);
    const failure = await adapters.of(line).test(line, hookAddress(line.hookToken));
    // It could not be asked, which says nothing of whether it works.
    if (failure?.onlyTooFast) return;
    // One that was renewed or disconnected meanwhile is another than was asked about.
    const { rowCount } = failure
      ? await db.query(
          `
           update line set failing_since = coalesce(failing_since, $3), failure = $2
           where id = $1 and secrets = $4
             and (failure is null
             or (failure ->> 'by' = 'test' and failure ->> 'code' <> $2::jsonb ->> 'code'))`,
          [id, toJson({ ...failure, by: 'test' }), new Date(clock.now()), sealed],
        )
      : await db.query(
          `
           update line set failing_since = null, failure = null
           where id = $1 and secrets = $2 and failure ->> 'by' = 'test'`,
          [id, sealed],
        );
    if (rowCount) changed.add(line.clientId);
  };
  const left = [...lineIds];
  await Promise.all(
    Array.from({ length: AT_ONCE }, async () => {
      for (let id = left.shift(); id !== undefined; id = left.shift())
        await ask(id).catch((error: Error) =>
          log.error({ line: id, error: error.message }, 'a line could not be asked whether it works'),
        );
    }),
  );
  return [...changed];
}
