import { removeCluster, type Cluster } from '../../../../cli/cluster';

export default async function stop(): Promise<void> {
  const { cluster, folder } = (globalThis as unknown as { testCluster: { cluster: Cluster; folder: string } })
    .testCluster;
  await cluster.stop();
  removeCluster(folder);
}
