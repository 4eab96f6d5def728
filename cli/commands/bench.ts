import { mkdirSync } from 'node:fs';
import { cpus } from 'node:os';
import { join } from 'node:path';
import { buildScript } from '../build';
import { removeCluster, removeLeftClusters } from '../cluster';
import { needPackages } from '../machine';
import { BUILD, DATA } from '../places';

/**
 * `./dartloop bench [path|engine|keywords|reading|answers|checks|people|deliveries|web]`: the figures, each
 * beside its reference of the same run.
 */
export async function bench(only: string[]): Promise<void> {
  needPackages({ browser: true }, console.log);
  removeLeftClusters();
  const folder = join(DATA, `bench-${process.pid}`);
  mkdirSync(folder, { recursive: true });
  console.log(
    `Node.js ${process.versions.node}, ${cpus().length} cores (${cpus()[0]?.model ?? 'unknown'})\n`,
  );
  try {
    if (only.length === 0 || only.includes('path'))
      await (await import('../../bench/message-path')).messagePath(join(folder, 'path'));
    if (only.length === 0 || only.includes('checks')) {
      const { checks } = (await import(
        await buildScript('bench/checks.ts', join(BUILD, 'bench'))
      )) as typeof import('../../bench/checks');
      checks();
    }
    if (only.length === 0 || only.includes('reading')) {
      const { reading } = (await import(
        await buildScript('bench/reading.ts', join(BUILD, 'bench'))
      )) as typeof import('../../bench/reading');
      reading();
    }
    if (only.length === 0 || only.includes('answers')) {
      const { answers } = (await import(
        await buildScript('bench/answers.ts', join(BUILD, 'bench'))
      )) as typeof import('../../bench/answers');
      answers();
    }
    if (only.length === 0 || only.includes('engine') || only.includes('keywords')) {
      const engine = (await import(
        await buildScript('bench/engine.ts', join(BUILD, 'bench'))
      )) as typeof import('../../bench/engine');
      if (only.length === 0 || only.includes('engine')) await engine.engineStep();
      if (only.length === 0 || only.includes('keywords')) await engine.keywords();
    }
    if (only.length === 0 || only.includes('people'))
      await (await import('../../bench/people')).people(join(folder, 'people'));
    if (only.length === 0 || only.includes('deliveries'))
      await (await import('../../bench/deliveries')).deliveries(join(folder, 'deliveries'));
    if (only.length === 0 || only.includes('web'))
      await (await import('../../bench/web-weight')).webWeight(folder);
  } finally {
    for (const part of ['path', 'people', 'deliveries', 'web', '']) removeCluster(join(folder, part));
  }
}
