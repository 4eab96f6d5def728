import type { Connection, Db } from '../platform/db/pool';

/** Lets every worker read the client's cues again. */
export const cuesChanged = (db: Connection | Db, clientId: number) =>
  db.query('update client set cue_revision = cue_revision + 1 where id = $1', [clientId]);
