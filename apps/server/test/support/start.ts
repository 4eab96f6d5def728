import { mkdirSync } from 'node:fs';
import { join } from 'node:path';
import { buildServers } from '../../../../cli/build';
import { openCluster } from '../../../../cli/cluster';
import { DATA } from '../../../../cli/places';

/** One throw-away cluster for all server tests of this run; each file makes its own database in it. */
export default async function start(): Promise<void> {
  const folder = join(DATA, `test-${process.pid}`);
  mkdirSync(folder, { recursive: true });
  const cluster = await openCluster(folder);
  const { server } = await buildServers(join(folder, 'build'));
  process.env.DARTLOOP_TEST = JSON.stringify({
    owner: cluster.owner,
    app: cluster.app,
    lane: cluster.lane,
    key: cluster.key,
    server,
    folder,
  });
  (globalThis as { testCluster?: unknown }).testCluster = { cluster, folder };
}
