import { CHANNELS } from '../../channels';
import { priceWords } from '../../meter/prices';
import { durationWords } from '../model/basics';
import type { CheckWorld, Found } from './check';
import { LoopPath, pathsOf } from './paths';

/** Names a path by the ways it takes. */

export const pathKey = (path: Pick<LoopPath, 'steps'>): string =>
  path.steps.map((step) => `${step.stepId}:${step.by}:${step.words}`).join('>');
/** How a path reads: what was decided on the way, and how it ends. */

export function pathWords({ steps, ends }: LoopPath): string {
  const said = steps.flatMap(({ by, words }) => (by === 'itself' || by === 'go' ? [] : [words]));
  return [...said, ends.words].join(', then ');
}
/** "2 d 3 h" for a time in ms; "at once" for none. */

export function lengthWords(ms: number): string {
  if (ms === 0) return 'at once';
  const units: [number, string][] = [
    [86400000, 'd'],
    [3600000, 'h'],
    [60000, 'm'],
    [1000, 's'],
  ];
  const parts: string[] = [];
  let left = ms;
  for (const [size, unit] of units) {
    const count = Math.floor(left / size);
    if (count > 0) parts.push(durationWords(`${count}${unit}`));
    left -= count * size;
  }
  return parts.slice(0, 2).join(' ');
}

export type PathCode = 'long path' | 'dear path';
/** Paths that are longer or dearer than the client's limit; the worst of each. */

export function pathFindings(world: CheckWorld): Found<PathCode>[] {
  if (world.lines.length === 0) return [];
  const { paths } = pathsOf(world);
  const { messages, price } = world.limits;
  const costs = paths.flatMap((path) => path.cost.map((cost) => ({ path, ...cost })));
  const longest = costs.reduce<(typeof costs)[number] | null>(
    (worst, each) => (each.messages > (worst?.messages ?? messages) ? each : worst),
    null,
  );
  const dearest = costs.reduce<(typeof costs)[number] | null>(
    (worst, each) => (each.price > (worst?.price ?? price) ? each : worst),
    null,
  );
  return [
    ...(longest
      ? [
          {
            code: 'long path' as const,
            severity: 'warns' as const,
            reason: `One path has ${longest.messages} messages on ${CHANNELS[longest.channel].name}, more than the ${messages} that are meant to be the most: ${shortWords(longest.path)}.`,
          },
        ]
      : []),
    ...(dearest
      ? [
          {
            code: 'dear path' as const,
            severity: 'warns' as const,
            reason: `One path costs ${priceWords(dearest.price)} on ${CHANNELS[dearest.channel].name}, more than the ${priceWords(price)} that are meant to be the most: ${shortWords(dearest.path)}.`,
          },
        ]
      : []),
  ];
}
const shortWords = (path: LoopPath) => {
  const words = pathWords(path);
  return words.length > 160 ? `${words.slice(0, 159)}…` : words;
};
