import { openPool, type Db } from '../platform/db/pool';
import type { Metrics } from '../platform/metrics';

/**
 * The connections of the message path: its own, and those of what a process does by itself, so that nothing
 * of that keeps one from what people write.
 */
export function pathPools(laneDatabase: string, metrics: Metrics): { path: Db; background: Db } {
  const open = (of: string, name: string, most: number) => {
    const pool = openPool(laneDatabase, {
      ...{ most, name, statementMs: 300_000, idleMs: 300_000, waitMs: 30_000 },
      // Every statement here has its index; statistics of queues that fill and empty would say otherwise.
      settings: '-c enable_seqscan=off',
    });
    metrics.watchPool(of, pool);
    return pool;
  };
  return {
    path: open('message path', 'dart-loop lane', 8),
    background: open('background', 'dart-loop background', 5),
  };
}
