import { rm } from 'node:fs/promises';
import { join } from 'node:path';
import type { Db } from '../platform/db/pool';
import type { Resting } from '../platform/jobs/resting';

/** Rows at once: a fraction of a second, in which others wait for nothing. */
const AT_ONCE = 2_000;

/**
 * Lets go of some of what clients have that are to be deleted, and of the files that were written for one
 * once all of it is gone. `files`: where those stand. Says whether there may be more.
 */
export async function deleteClients(
  db: Db,
  now: number,
  files: string | null,
  resting: Resting,
): Promise<boolean> {
  const done = await resting.try('deleting', 'clients', async () => {
    const { rows } = await db.query<{ slug: string; is_gone: boolean }>('select * from delete_some($1, $2)', [
      AT_ONCE,
      new Date(now),
    ]);
    const [some] = rows;
    if (some?.is_gone && files) await rm(join(files, some.slug), { recursive: true, force: true });
    return some !== undefined;
  });
  return done ?? false;
}
