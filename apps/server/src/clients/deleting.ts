import { rm } from 'node:fs/promises';
import { join } from 'node:path';
import type { Store } from '../files/store';
import type { Db } from '../platform/db/pool';
import type { Resting } from '../platform/jobs/resting';

/** Rows at once: a fraction of a second, in which others wait for nothing. */
const AT_ONCE = 2_000;

/**
 * Lets go of some of what a client has that is to be deleted, and of the files that were written for it: each
 * time, so that none stays where this is broken off. `files` and `store`: where those stand. Says whether
 * there may be more.
 */
export async function deleteClients(
  db: Db,
  now: number,
  files: string | null,
  store: Store | null,
  resting: Resting,
): Promise<boolean> {
  const done = await resting.try('deleting', 'clients', async () => {
    const { rows } = await db.query<{ slug: string }>('select slug from delete_some($1, $2)', [
      AT_ONCE,
      new Date(now),
    ]);
    const [some] = rows;
    if (some) await store?.removeAll(some.slug);
    if (some && files) await rm(join(files, some.slug), { recursive: true, force: true });
    return some !== undefined;
  });
  return done ?? false;
}
